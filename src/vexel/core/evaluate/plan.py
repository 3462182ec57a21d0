"""From a shot and facts of its source to the spec of every frame."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from fractions import Fraction

import numpy as np

from vexel.core.camera.framing import clipping
from vexel.core.document.label import OF_TIME, Label, fields_of, written
from vexel.core.document.passes import PASSES, Pass, PictureIndex
from vexel.core.document.shot import Shot
from vexel.core.document.source_spec import WithFixedFrames
from vexel.core.errors import Mistake
from vexel.core.evaluate.frame_spec import FrameSpec, ShutterSample, digest_of, steady
from vexel.core.evaluate.moments import measured_moments, time_inputs_of
from vexel.core.evaluate.motion import Motion, motion_of
from vexel.core.evaluate.sampled_shot import SampledShot, pose_of, sample_shot
from vexel.core.evaluate.source_facts import Moment, PlanInputs, SourceFacts, Subject
from vexel.core.time.clock import Clock
from vexel.core.time.timecode import has_timecode, timecode
from vexel.core.wording import nearest_name

FRAMES_AT_ONCE = 256
"""Number of frames whose motion is evaluated at once with an open shutter."""
LABELS_LOOKED_AT = 9
"""Number of frames that are searched for the longest text of a label."""


Ranges = dict[str, tuple[float, float]]


@dataclass(frozen=True)
class Plan:
    """A shot worked out.

    Attributes
    ----------
    shot : Shot
    clock : Clock
    inputs : PlanInputs
    sampled : SampledShot
        All that moves, at each frame's own instant.
    """

    shot: Shot
    clock: Clock
    inputs: PlanInputs
    sampled: SampledShot
    _blocks: dict[int, SampledShot] = field(default_factory=dict, compare=False, repr=False)
    _spread: dict[int, tuple[float, float]] = field(default_factory=dict, compare=False, repr=False)

    @property
    def digest(self) -> str:
        """SHA-256 of all that decides the frames: of two plans with the same digest every frame is the same."""
        return digest_of(["plan", self.shot.frame_content, self.inputs.dumps()])

    def has(self, number: int, camera_pass: int, key: str) -> bool:
        """Whether a frame of this key is the one that the plan has of this number."""
        return 0 <= number < self.clock.frames and self.frame_spec(number, camera_pass).key == key

    def picture_spec(self, picture: int) -> FrameSpec:
        """The spec of one picture of a take, which counts all camera passes of each frame."""
        return self._spec(self.shot.picture_index(picture))

    def frame_spec(self, frame: int, camera_pass: int = 0) -> FrameSpec:
        """The spec of one frame in one of the shot's camera passes."""
        return self._spec(self.shot.index_of(frame, camera_pass))

    def _spec(self, index: PictureIndex) -> FrameSpec:
        picture, traits, frame = self.shot.picture, PASSES[index.render_pass], index.frame
        render_pass, fade = self._drawn(frame) if index.camera_pass == 0 else (index.render_pass, None)
        return FrameSpec(
            engine=self.inputs.engine,
            source=self.inputs.source,
            shutter_samples=self._shutter_samples(
                frame, index.camera, self._distances(index.camera) if traits.distances else {}
            ),
            width=picture.width,
            height=picture.height,
            samples=picture.samples,
            layout=picture.laid_out,
            render_pass=render_pass,
            fade=fade,
            background=picture.behind.rendered,
            backdrop=self._backdrop(render_pass),
            format=picture.format,
            alpha=picture.alpha,
            labels=() if traits.data else self._labels(frame),
            fonts=() if traits.data or not self.shot.labels else self.inputs.fonts,
        )

    def _backdrop(self, render_pass: Pass) -> str:
        behind = self.shot.picture.behind
        if PASSES[render_pass].data or not behind.is_backdrop:
            return ""
        return self.inputs.backdrop if behind.image else behind.text

    def _drawn(self, frame: int) -> tuple[Pass, tuple[Pass, float] | None]:
        """The shot's first pass, or those of saved views, which fade into one another on the way."""
        usual, gone = self.shot.picture.passes[0], self.sampled.motion.progress
        if gone is None:
            return usual, None
        views = self.shot.camera.views
        first, last = (views[int(ends[frame])].drawn or usual for ends in (gone.leaving, gone.reaching))
        share = steady(gone.share[frame])
        if first == last or share <= 0:
            return first, None
        return (last, None) if share >= 1 else (first, (last, share))

    def depth_ranges(self) -> dict[str, tuple[float, float]]:
        """Distances of the codes 0 and 65,535 of the depth pass, by the cameras' names."""
        shown = {
            camera_pass.camera for camera_pass in self.shot.camera_passes if PASSES[camera_pass.render_pass].distances
        }
        found = {}
        for number, camera in enumerate(self.shot.all_cameras):
            if camera.name in shown and (ranges := self._distances(number)):
                found[camera.name] = ranges["distance"]
        return found

    def _distances(self, camera: int) -> Ranges:
        """From how near to how far a camera sees its subject over the whole shot."""
        sphere = self.inputs.subject.sphere
        if sphere is None or not self.sampled.cameras:
            return {}
        if camera not in self._spread:
            away = np.linalg.norm(self.sampled.cameras[camera].path.positions - np.asarray(sphere.centre), axis=1)
            ends = [clipping(float(distance), sphere.radius) for distance in (away.min(), away.max())]
            self._spread[camera] = (ends[0][0], ends[1][1])
        return {"distance": self._spread[camera]}

    def _shutter_samples(self, frame: int, camera: int, measured: Ranges) -> tuple[ShutterSample, ...]:
        """What a frame looks at while its shutter is open; one look where nothing moves meanwhile."""
        count = self.clock.looks(self.shot.picture.samples)
        places = self.clock.places(frame, count)
        if count == 1 and not self.clock.shutter.offsets(1)[0]:
            return (self._shutter_sample(self.sampled, frame, frame, places[0], camera, measured),)
        moves, first = self._block(frame // FRAMES_AT_ONCE, count), frame % FRAMES_AT_ONCE * count
        found = tuple(
            self._shutter_sample(moves, first + n, frame, place, camera, measured) for n, place in enumerate(places)
        )
        # A frame without motion has the key of a closed shutter, so that it is made once for both.
        return found[:1] if all(one == found[0] for one in found) else found

    def _block(self, number: int, count: int) -> SampledShot:
        """What moves in a block of frames; the last block is kept, and any thread may ask."""
        # One block is enough: a run goes through the frames in order, and the viewfinder stays near one.
        known = self._blocks.get(number)
        if known is not None:
            return known
        frames = range(number * FRAMES_AT_ONCE, min((number + 1) * FRAMES_AT_ONCE, self.clock.frames))
        motion = motion_of(self.shot, self.inputs.facts, self.clock.phases_at(frames, count))
        moves = sample_shot(self.shot, self.inputs.facts, self.inputs.subject, motion)
        self._blocks.clear()
        self._blocks[number] = moves
        return moves

    def _shutter_sample(
        self, moves: SampledShot, row: int, frame: int, place: Fraction, camera: int, measured: Ranges
    ) -> ShutterSample:
        subject, filmed = self.inputs.subject, moves.cameras[camera] if moves.cameras else None
        stage = moves.stage[camera] if moves.stage else {}
        return ShutterSample(
            dials={name: steady(values[row]) for name, values in moves.motion.dials.items()},
            time_inputs=time_inputs_of(
                self.shot, place, self._moved(frame), self.inputs.facts, int(moves.motion.list_offsets[row])
            ),
            camera=None
            if filmed is None or subject.sphere is None
            else pose_of(self.shot, camera, filmed, row, subject.sphere),
            stage={name: steady(values[row]) for name, values in stage.items()},
            ranges={name: (steady(a), steady(b)) for name, (a, b) in (dict(subject.ranges) | measured).items()},
        )

    def course_place(self, number: int) -> int:
        """Position of a picture of the take in the motion's own order, independent of the playback order."""
        index = self.shot.picture_index(number)
        return self._moved(index.frame)

    def _moved(self, frame: int) -> int:
        return self.clock.selection.frame_of(frame, self.clock.motion)

    def longest_labels(self) -> tuple[Label, ...]:
        """Each label where its text is longest among some frames of the shot."""
        count = self.clock.frames
        some = [self._labels(number * (count - 1) // (LABELS_LOOKED_AT - 1)) for number in range(LABELS_LOOKED_AT)]
        return tuple(max(one, key=lambda label: len(label.text)) for one in zip(*some, strict=True))

    def _labels(self, frame: int) -> tuple[Label, ...]:
        shot = self.shot
        if not shot.labels:
            return ()
        values = frame_values(shot, self.clock, frame)
        dials = {name: float(track[frame]) for name, track in self.sampled.motion.dials.items()}
        labels = []
        for label in shot.labels:
            track = self.sampled.motion.tracks.get(f"label:{label.name}")
            of_label = dials | values | {"value": label.value if track is None else float(track[frame])}
            text = written(label.text, of_label)
            labels.append(Label(text, label.at, label.size, label.colour, label.align))
        return tuple(labels)


def plan_by_measuring(shot: Shot, inputs: PlanInputs, measure: Callable[[list[Moment]], Subject]) -> Plan:
    """Work out all frames of a shot in one pass: its motion, what that needs its source for, cameras, specs.

    Parameters
    ----------
    shot : Shot
    inputs : PlanInputs
        But for its subject.
    measure : callable
        Measures the subject at moments; not asked where the source gives pictures.

    Raises
    ------
    Mistake
        As `make_plan` does.
    """
    motion = motion_of(shot, inputs.facts, shot.clock.exact.phases())
    if not inputs.facts.pictures:
        inputs = replace(inputs, subject=measure(measured_moments(shot, inputs.facts, motion)))
    return _plan(shot, inputs, motion)


def make_plan(shot: Shot, inputs: PlanInputs) -> Plan:
    """Work out all frames of a shot whose subject was measured.

    Raises
    ------
    Mistake
        When the shot sets, drives or writes what the source does not have, or
        when its frames do not fit those of a source that refuses to drop any.
    """
    return _plan(shot, inputs, motion_of(shot, inputs.facts, shot.clock.exact.phases()))


def _plan(shot: Shot, inputs: PlanInputs, motion: Motion) -> Plan:
    clock = shot.clock.exact
    sampled = sample_shot(shot, inputs.facts, inputs.subject, motion)
    _check_labels(shot, motion)
    _check_fit(shot, clock, inputs.facts)
    if not sampled.cameras and (shot.cameras or shot.picture.passes != ["shaded"]):
        raise Mistake(
            f"this {shot.source.kind} provides pictures, so cameras and other passes do not apply: "
            'remove cameras, and set picture.passes to ["shaded"]'
        )
    return Plan(shot, clock, inputs, sampled)


def frame_values(shot: Shot, clock: Clock, frame: int) -> dict[str, float | str]:
    """The values that a label can show of a frame: its numbers and its time in the video."""
    playback = clock.playback
    return {
        "frame": frame,
        "number": shot.names.start + frame,
        "count": clock.frames,
        "phase": float(clock.instant(frame).phase),
        "seconds": float(frame / playback.fps),
        "timecode": timecode(frame, playback) if has_timecode(playback) else f"{float(frame / playback.fps):.3f} s",
    }


def _check_labels(shot: Shot, motion: Motion) -> None:
    known = (*OF_TIME, "value", *motion.dials)
    for number, label in enumerate(shot.labels):
        for name in fields_of(label.text):
            if name not in known:
                raise Mistake(f"labels[{number}]: {{{name}}} is unknown; {nearest_name(name, known)}")


def _check_fit(shot: Shot, clock: Clock, facts: SourceFacts) -> None:
    source = shot.source
    if facts.source_frames is None or not isinstance(source, WithFixedFrames) or source.between != "refuse":
        return
    fit = facts.source_frames.fit(clock)
    if fit.dropped or fit.doubled:
        raise Mistake(
            f"source.between refuses what would drop {fit.dropped:,} and double {fit.doubled:,} pictures: give the "
            "shot the source's own rate and length, or let source.between be nearest or blend"
        )
