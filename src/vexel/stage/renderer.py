"""The stage: makes the picture of a frame spec from an open source."""

import time
from collections.abc import Iterable, Iterator
from contextlib import suppress
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from vexel.core.checks.clearance_findings import Clearance
from vexel.core.document.background import TRANSPARENT
from vexel.core.document.passes import PASSES
from vexel.core.errors import SourceError
from vexel.core.evaluate.frame_spec import FrameSpec, ShutterSample, TimeInputs
from vexel.core.evaluate.source_facts import Moment, Point, SourceAt, SourceFacts, Subject
from vexel.imaging.image_bytes import encoded_png
from vexel.imaging.light import Picture, encoded, light_of, mixed, mixed_light
from vexel.sources.code.redirect import redirect
from vexel.sources.protocols import Closing, Encoded, FrameRequest, Shown, Source, Watched
from vexel.sources.registry import KINDS, get_ready, open_source
from vexel.sources.registry import load as load_kind
from vexel.stage.blending.accumulate import mean_light, mean_of_samples, mean_of_shares
from vexel.stage.blending.backdrop import laid
from vexel.stage.blending.eyes import each_eye
from vexel.stage.encode import data_png_bytes, deep_png_bytes, depth_texts, png_bytes, premultiplied, with_text
from vexel.stage.fit import fitted, fitted_light
from vexel.stage.labels import labelled

if TYPE_CHECKING:
    from vexel.sources.meshes.parts import Part
    from vexel.stage.sampling import Sampler
    from vexel.stage.scene.scene import Scene
    from vexel.stage.subject_bounds import SubjectBounds

KEPT_SUBJECTS = 4
_COLOUR_TYPE, _WITH_ALPHA = 25, (4, 6)
"""Place of a PNG file's colour type, and those with alpha (PNG, third edition, 11.2.1)."""
LONG_SECONDS = 2.0
"""A source that takes longer than this for a frame is not asked twice only to see whether it repeats itself."""


def load(kind: str) -> None:
    """Import what it takes to draw a kind of source, without opening anything."""
    load_kind(kind)
    if KINDS[kind].spec.traits.gives == "geometry":
        import vexel.stage.sampling
        import vexel.stage.subject_bounds  # noqa: F401


class Renderer:
    """One scene, its source, and the last few states of that source.

    Attributes
    ----------
    sampling_seconds : float
        Spent so far on samples.
    """

    def __init__(self) -> None:
        self._made: tuple[Scene, Sampler] | None = None
        self._at: SourceAt | None = None
        self._source: Source | None = None
        self._subjects: dict[object, list[Part]] = {}
        self.sampling_seconds = 0.0

    def get_ready(self, kind: str) -> None:
        """Load what a kind of source needs, ahead of the first question."""
        get_ready(kind)
        if KINDS[kind].spec.traits.gives == "geometry":
            self._scene  # noqa: B018

    def forget(self) -> None:
        """Let go of all geometry that was built, so that the next frame takes as long as one made alone."""
        self._subjects.clear()

    def facts(self, at: SourceAt) -> SourceFacts:
        """What the source reports about itself."""
        return self._open(at).facts

    def measure(self, at: SourceAt, moments: list[Moment], layout: tuple[int, int]) -> Subject | None:
        """The subject before the camera at all moments; None when the source gives pictures.

        A moment at which the source fails is skipped: its frame will report it.

        Raises
        ------
        SourceError
            When the source fails at every moment, or the subject has no extent.
        """
        measure: SubjectBounds | None = None
        failure: SourceError | None = None
        for dials, seen in moments:
            try:
                parts = self._shown(at, _asked(dials, seen, layout, layout, "transparent", 1))
            except SourceError as error:
                failure = failure or error
                continue
            if isinstance(parts, np.ndarray):
                return None
            measure = measure or _measure()
            measure.add(parts)
        if measure is None:
            raise failure or SourceError("the source was measured at no moment")
        return measure.subject

    def repeats(self, at: SourceAt, moments: list[Moment], layout: tuple[int, int]) -> bool:
        """Whether the source gives the same at a moment when it is asked twice; one that takes long is asked once.

        What it has shown already, when it was measured, is not asked for again. A
        moment at which it fails is skipped: its frame will report it.
        """
        for asked in _different(_asked(dials, seen, layout, layout, "transparent", 1) for dials, seen in moments):
            with suppress(SourceError):
                begun = time.perf_counter()
                first = _content(self._shown(at, asked))
                if time.perf_counter() - begun > LONG_SECONDS:
                    return True
                if _content(self._open(at).show(asked)) != first:
                    return False
        return True

    def readings(self, at: SourceAt, moments: list[Moment], layout: tuple[int, int]) -> list[tuple[str, str]]:
        """What the source's code read beside its own files, up to now; it is asked for its first moment before.

        A moment at which it fails has read something too.
        """
        source = self._open(at)
        if not isinstance(source, Watched):
            return []
        for asked in _different(_asked(dials, seen, layout, layout, "transparent", 1) for dials, seen in moments[:1]):
            with suppress(SourceError):
                self._shown(at, asked)
        return source.readings

    def nearness(
        self, at: SourceAt, places: list[tuple[int, Moment, list[Point]]], layout: tuple[int, int]
    ) -> Clearance:
        """How near ways come to what the source shows at the moments of their ends, one after another."""
        from vexel.stage.clearance import Surroundings

        distances, crossed = [], []
        around: Surroundings | None = None
        of: object = None
        begins_inside = False
        for number, (_, (dials, seen), way) in enumerate(places):
            parts = self._shown(at, _asked(dials, seen, layout, layout, "transparent", 1))
            assert not isinstance(parts, np.ndarray)
            if around is None or of is not parts:
                around, of = Surroundings(parts), parts
            begins_inside = around.holds(way[-1]) if number == 0 else begins_inside
            distances.append(around.distance(way[-1]))
            crossed.append(any(around.between(begin, end) for begin, end in pairwise(way)))
        return Clearance(tuple(frame for frame, _, _ in places), tuple(distances), tuple(crossed), begins_inside)

    def encoded(self, at: SourceAt, spec: FrameSpec) -> bytes:
        """A frame as a file: as its source encoded it, where that is the frame already."""
        if PASSES[spec.render_pass].distances:
            return self._depth_file(at, spec)
        if PASSES[spec.render_pass].directions and spec.format != "png":
            return self._normals_file(at, spec)
        if spec.format != "png":
            return self._deep_file(at, spec)
        source = self._open(at)
        if isinstance(source, Encoded) and not spec.labels and not spec.backdrop:
            data = source.png(_asked_by(spec, spec.shutter_samples[0]))
            if _png_size(data) == (spec.width, spec.height) and _is_final(data, spec):
                return data
        picture = self.picture(at, spec)
        written = premultiplied(picture) if spec.alpha == "premultiplied" else picture
        return png_bytes(written, is_colour=not PASSES[spec.render_pass].data)

    def _depth_file(self, at: SourceAt, spec: FrameSpec) -> bytes:
        near, far = spec.shutter_samples[0].ranges["distance"]
        if spec.format != "exr":
            return with_text(encoded_png(self.distances(at, spec), is_colour=False), depth_texts(near, far))
        from vexel.stage.exr import exr_bytes

        depths = self._set(at, spec.shutter_samples[0], spec).depths(spec, spec.shutter_samples[0])
        return exr_bytes({"Z": depths}, {"depthNear": near, "depthFar": far})

    def _normals_file(self, at: SourceAt, spec: FrameSpec) -> bytes:
        """Normals with more than 8 bits: unchanged in OpenEXR, as codes from 0 to 65,535 in PNG."""
        normals = self._set(at, spec.shutter_samples[0], spec).normals(spec, spec.shutter_samples[0])
        if spec.format != "exr":
            there = normals[..., 3:]
            return data_png_bytes(np.concatenate([0.5 * (normals[..., :3] + there), there], axis=2))
        from vexel.stage.exr import exr_bytes

        return exr_bytes({name: normals[..., n] for n, name in enumerate(("N.X", "N.Y", "N.Z", "A"))})

    def _deep_file(self, at: SourceAt, spec: FrameSpec) -> bytes:
        """A frame with more than 8 bits a channel; OpenEXR is linear and, as its standard says, premultiplied."""
        light = self._light(at, spec)
        if spec.labels:
            clear = np.zeros(light.shape, np.uint8)
            written = each_eye(clear, spec, lambda eye: labelled(eye, spec.labels))
            over = light_of(written)
            light = over + light * (1 - over[..., 3:])
        if spec.format == "png16" and (PASSES[spec.render_pass].data or PASSES[spec.render_pass].shares):
            return data_png_bytes(light)
        if spec.format == "png16":
            return deep_png_bytes(light, spec.alpha == "premultiplied")
        from vexel.stage.exr import exr_bytes

        return exr_bytes({"RGBA": light.astype(np.float16)})

    def _light(self, at: SourceAt, spec: FrameSpec) -> NDArray[np.float32]:
        """Linear light of a frame without its labels, premultiplied by alpha; numbers of a data pass unchanged."""
        if spec.backdrop:
            light = self._light(at, replace(spec, backdrop=""))
            return each_eye(light, spec, lambda eye: laid(eye, spec.backdrop, at.backdrop))
        first = self._shown(at, _asked_by(spec, spec.shutter_samples[0]))
        if isinstance(first, np.ndarray):
            return light_of(self._mean_picture(at, spec, first))
        if spec.fade is not None:
            one, other = (self._light(at, faded) for faded in _both_ends(spec))
            return one + np.float32(spec.fade[1]) * (other - one)
        samples = self._samples(at, spec)
        if PASSES[spec.render_pass].shares or PASSES[spec.render_pass].data:
            return mean_of_shares(samples, self._count(spec)).astype(np.float32) / np.float32(255)
        return mean_light(samples, self._count(spec))

    def picture(self, at: SourceAt, spec: FrameSpec) -> NDArray[np.uint8]:
        """The pixels of a frame, shape (H, W, 4), uint8, sRGB with straight alpha."""
        first = self._shown(at, _asked_by(spec, spec.shutter_samples[0]))
        if spec.backdrop and spec.fade is None:
            # Never by 8 bits of alpha, which are coarse where little covers.
            pixels = encoded(self._light(at, spec))
        elif isinstance(first, np.ndarray):
            mean_picture = self._mean_picture(at, spec, first)
            deep = mean_picture.dtype == np.float32
            pixels = encoded(light_of(mean_picture)) if deep else mean_picture.astype(np.uint8, copy=False)
        elif spec.fade is not None:
            pictures = (self.picture(at, replace(faded, labels=())) for faded in _both_ends(spec))
            pixels = mixed(zip(pictures, (1 - spec.fade[1], spec.fade[1]), strict=True))
        elif PASSES[spec.render_pass].distances:
            codes = self.distances(at, spec)
            pixels = np.dstack([(codes >> 8).astype(np.uint8)] * 3 + [np.full(codes.shape, 255, np.uint8)])
        else:
            mean = mean_of_shares if PASSES[spec.render_pass].shares else mean_of_samples
            pixels = mean(self._samples(at, spec), self._count(spec))
        return each_eye(pixels, spec, lambda eye: labelled(eye, spec.labels))

    def _count(self, spec: FrameSpec) -> int:
        return 1 if PASSES[spec.render_pass].data else spec.samples

    def _samples(self, at: SourceAt, spec: FrameSpec) -> Iterator[NDArray[np.uint8]]:
        count = self._count(spec)
        for number in range(count):
            begun = time.perf_counter()
            sample = self._sample(at, spec, number, count)
            self.sampling_seconds += time.perf_counter() - begun
            yield sample

    def distances(self, at: SourceAt, spec: FrameSpec) -> NDArray[np.uint16]:
        """The pass of distances, shape (H, W), uint16."""
        return self._set(at, spec.shutter_samples[0], spec).distances(spec, spec.shutter_samples[0])

    def _mean_picture(self, at: SourceAt, spec: FrameSpec, first: Picture) -> Picture:
        """What a source of pictures gives while the shutter is open, from its first look on."""
        size, looks = (spec.width, spec.height), spec.shutter_samples

        def fit(picture: Picture) -> Picture:
            if picture.dtype == np.uint8:
                return fitted(picture.astype(np.uint8, copy=False), size, spec.background)
            return fitted_light(picture.astype(np.float32, copy=False), size, spec.background)

        if len(looks) == 1:
            return fit(first)

        def pictures() -> Iterator[Picture]:
            yield first
            for look in looks[1:]:
                shown = self._shown(at, _asked_by(spec, look))
                if not isinstance(shown, np.ndarray):
                    raise _both(at, look)
                yield shown

        light = mixed_light((fit(picture), 1 / len(looks)) for picture in pictures())
        return light if first.dtype == np.float32 else encoded(light)

    def _sample(self, at: SourceAt, spec: FrameSpec, number: int, count: int) -> NDArray[np.uint8]:
        """Sample `number` of `count`, rendered, the top row first."""
        from vexel.stage.view import Sample

        look = spec.shutter_samples[number if len(spec.shutter_samples) > 1 else 0]
        return self._set(at, look, spec).sample(spec, look, Sample(number, count))

    def _set(self, at: SourceAt, look: ShutterSample, spec: FrameSpec) -> "Sampler":
        """The scene with what a look sees on it."""
        shown = self._shown(at, _asked_by(spec, look))
        if isinstance(shown, np.ndarray) or look.camera is None:
            raise _both(at, look)
        if not PASSES[spec.render_pass].points and any(part.splats is not None for part in shown):
            known = [name for name, traits in PASSES.items() if traits.points]
            raise SourceError(
                f"{at.file.name} holds points without surfaces, which have no edges and no slopes for "
                f"{spec.render_pass}: set picture.passes to any of {', '.join(known)}"
            )
        scene, sampler = self._scene
        scene.show(shown, look)
        return sampler

    @property
    def _scene(self) -> "tuple[Scene, Sampler]":
        # A source of pictures never needs one, nor the seconds that its libraries take.
        if self._made is None:
            from vexel.stage.sampling import Sampler
            from vexel.stage.scene.scene import Scene

            scene = Scene()
            self._made = scene, Sampler(scene)
        return self._made

    def _open(self, at: SourceAt) -> Source:
        if self._source is None or self._at != at:
            if isinstance(self._source, Closing):
                self._source.close()
            self._source, self._at = None, None
            self._subjects.clear()
            redirect(at.outside)
            self._source = open_source(at)
            self._at = at
        return self._source

    def _shown(self, at: SourceAt, asked: FrameRequest) -> Shown:
        """What the source shows; its last few geometries are remembered, since a camera goes round them."""
        source = self._open(at)
        state = (tuple(sorted(asked.dials.items())), tuple(sorted(asked.time_inputs.items())), asked.layout)
        if state in self._subjects:
            return self._subjects[state]
        shown = source.show(asked)
        if not isinstance(shown, np.ndarray):
            while len(self._subjects) >= KEPT_SUBJECTS:
                del self._subjects[next(iter(self._subjects))]
            self._subjects[state] = shown
        return shown


def _different(asked: Iterable[FrameRequest]) -> list[FrameRequest]:
    """Each question once; a subject that does not move is asked the same at every moment."""
    different: list[FrameRequest] = []
    for question in asked:
        if question not in different:
            different.append(question)
    return different


def _content(shown: Shown) -> list[bytes]:
    """All that a source showed, to be compared."""
    if isinstance(shown, np.ndarray):
        return [shown.tobytes()]
    arrays = [part.mesh.points for part in shown]
    arrays += [part.mesh.point_data[name] for part in shown for name in part.mesh.point_data]
    arrays += [part.mesh.cell_data[name] for part in shown for name in part.mesh.cell_data]
    return [np.asarray(array).tobytes() for array in arrays]


def _both_ends(spec: FrameSpec) -> tuple[FrameSpec, FrameSpec]:
    """The spec in each of the passes between which it fades."""
    assert spec.fade is not None
    alone = replace(spec, fade=None)
    return alone, replace(alone, render_pass=spec.fade[0])


def _measure() -> "SubjectBounds":
    # Geometry needs libraries that a source of pictures never uses.
    from vexel.stage.subject_bounds import SubjectBounds

    return SubjectBounds()


def _is_final(data: bytes, spec: FrameSpec) -> bool:
    """Whether a PNG file needs nothing behind it, and has its alpha as the frame is to have it."""
    is_clear = data[_COLOUR_TYPE] in _WITH_ALPHA
    return not is_clear or (spec.background == TRANSPARENT and spec.alpha == "straight")


def _png_size(data: bytes) -> tuple[int, int]:
    return int.from_bytes(data[16:20], "big"), int.from_bytes(data[20:24], "big")


def _both(at: SourceAt, look: ShutterSample) -> SourceError:
    return SourceError(
        f"{at.file.name} gives a picture in some frames and geometry in frame {look.time_inputs.get('frame', 0)}: "
        "return the same in all frames"
    )


def _asked_by(spec: FrameSpec, look: ShutterSample) -> FrameRequest:
    size = (spec.width, spec.height)
    return _asked(look.dials, look.time_inputs, size, spec.layout, spec.background, spec.samples)


def _asked(
    dials: dict[str, float],
    time_inputs: TimeInputs,
    size: tuple[int, int],
    layout: tuple[int, int],
    background: str,
    samples: int,
) -> FrameRequest:
    exact = {
        name: value if isinstance(value, int) else Fraction(value)
        for name, value in time_inputs.items()
        if name != "stamp"
    }
    return FrameRequest(dials, exact, size, layout, background, samples, str(time_inputs.get("stamp", "")))
