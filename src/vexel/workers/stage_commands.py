"""Commands of a stage process: the only place that runs user code."""

import io
import tempfile
import time
from collections.abc import Callable
from contextlib import AbstractContextManager, redirect_stdout, suppress
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.document.background import TRANSPARENT
from vexel.core.document.passes import FAR
from vexel.core.errors import VexelError
from vexel.core.evaluate.frame_spec import FrameSpec
from vexel.core.evaluate.source_facts import Moment, SourceAt
from vexel.core.time.clock import Instant
from vexel.disk.digests import digest_of_bytes
from vexel.disk.write import write_whole
from vexel.sources.code.redirect import check_unchanged
from vexel.stage.encode import jpeg_bytes
from vexel.stage.renderer import Renderer
from vexel.workers.answering import end_if_forked

ESTIMATE_PIXELS = 30_000_000
"""An estimate renders this number of pixels, over all its samples, or one sample: it must be quick."""
MAX_PRINTED = 20_000
"""Letters of printed output that are kept."""


class StageCommands:
    """The questions of `vexel.workers.stage_process.StageProcess`."""

    tell: Callable[[Any], None]

    def __init__(self) -> None:
        self._renderer = Renderer()
        self._printed = io.StringIO()

    def get_ready(self, kind: str) -> None:
        """Load the libraries of a kind of source early; errors are reported when it is used."""
        with suppress(Exception):
            self._renderer.get_ready(kind)

    def printed(self, at: SourceAt) -> str:
        """What the source printed when it was last asked for anything."""
        return self._printed.getvalue()[-MAX_PRINTED:]

    def listen(self, question: str) -> AbstractContextManager[Any]:
        """Capture the output of user code while it answers."""
        if question != "printed":
            self._printed = io.StringIO()
        return redirect_stdout(self._printed)

    def facts(self, at: SourceAt) -> Any:
        """See `Renderer.facts`."""
        return self._renderer.facts(at)

    def measure(self, at: SourceAt, moments: list[Moment], layout: tuple[int, int]) -> Any:
        """See `Renderer.measure`."""
        return self._renderer.measure(at, moments, layout)

    def repeats(self, at: SourceAt, moments: list[Moment], layout: tuple[int, int]) -> bool:
        """See `Renderer.repeats`."""
        return self._renderer.repeats(at, moments, layout)

    def readings(self, at: SourceAt, moments: list[Moment], layout: tuple[int, int]) -> list[tuple[str, str]]:
        """See `Renderer.readings`."""
        return self._renderer.readings(at, moments, layout)

    def nearness(self, at: SourceAt, places: list[Any], layout: tuple[int, int]) -> Any:
        """See `Renderer.nearness`."""
        return self._renderer.nearness(at, places, layout)

    def view(self, at: SourceAt, spec: FrameSpec, quick: bool) -> bytes:
        """The frame as PNG bytes, or JPEG for a passing look."""
        if quick and (spec.backdrop or spec.background != TRANSPARENT):
            return jpeg_bytes(self._renderer.picture(at, spec))
        return self._renderer.encoded(at, replace(spec, format="png", alpha="straight"))

    def differences(
        self, at: SourceAt, specs: list[FrameSpec], pairs: list[tuple[int, int]]
    ) -> list[tuple[float, float]]:
        """How far pictures differ, as shares of white: on average, and at most; `pairs` are places in `specs`."""
        # In their order, as a simulation is reached.
        pictures = [_by_alpha(self._renderer.picture(at, spec)) for spec in specs]
        apart = [np.abs(pictures[first] - pictures[second]) for first, second in pairs]
        return [(float(one.mean()), float(one.max())) for one in apart]

    def way(self, at: SourceAt, instants: list[Instant]) -> list[dict[str, float]]:
        """A camera's way from a formula; see `vexel.sources.code.path_formula.formula_rows`."""
        from vexel.sources.code.path_formula import formula_rows

        return formula_rows(at.file, instants)

    def timeline(self, at: SourceAt, text: str) -> tuple[str, list[str]]:
        """A reel of a timeline; see `vexel.interchange.otio_reader.read_otio`."""
        from vexel.interchange.otio_reader import read_otio

        reel, notes = read_otio(text, at.file.name)
        return reel.model_dump_json(), notes

    def distance(self, at: SourceAt, spec: FrameSpec, x: float, y: float) -> float | None:
        """Distance of what is seen at a point of a frame, as shares from the top left; None where nothing is."""
        codes = self._renderer.distances(at, spec)
        code = int(codes[min(int(y * spec.height), spec.height - 1), min(int(x * spec.width), spec.width - 1)])
        near, far = spec.shutter_samples[0].ranges["distance"]
        return None if code == FAR else near + code / FAR * (far - near)

    def estimate(self, at: SourceAt, spec: FrameSpec) -> tuple[int, float]:
        """Bytes of the frame, and seconds that it takes; nothing is written.

        Of a very large frame that a camera renders, some samples are measured for all.
        """
        few = _few_samples(spec)
        begun, sampled = time.perf_counter(), self._renderer.sampling_seconds
        size = len(self._renderer.encoded(at, few))
        seconds, sampled = time.perf_counter() - begun, self._renderer.sampling_seconds - sampled
        return size, seconds + (spec.samples / few.samples - 1) * sampled

    def warm_up(self, at: SourceAt, spec: FrameSpec) -> None:
        """Open the source, and draw a speck as the frame will be drawn, so that its time is not that of beginning."""
        if spec.shutter_samples[0].camera is not None:
            speck = Path(tempfile.gettempdir()) / "speck.obj"
            speck.write_text("v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n")
            small = replace(
                spec,
                width=32,
                height=18,
                layout=(32, 18),
                samples=1,
                shutter_samples=spec.shutter_samples[:1],
                labels=(),
            )
            with suppress(VexelError):
                self._renderer.encoded(SourceAt("object", speck, digest="speck"), small)
        self._renderer.facts(at)
        self._renderer.forget()

    def make(self, at: SourceAt, spec: FrameSpec, path: Path) -> tuple[int, float, str]:
        """Write the frame to `path`; its bytes, the seconds that it took, and its digest."""
        begun = time.perf_counter()
        data = self._renderer.encoded(at, spec)
        check_unchanged()
        end_if_forked()
        write_whole(path, data)
        return len(data), time.perf_counter() - begun, digest_of_bytes(data)


def _by_alpha(picture: NDArray[np.uint8]) -> NDArray[np.float32]:
    """A picture as shares of white, colours weighted by alpha: what is clear has no colour."""
    shares: NDArray[np.float32] = picture.astype(np.float32) / np.float32(255)
    shares[..., :3] *= shares[..., 3:]
    return shares


def _few_samples(spec: FrameSpec) -> FrameSpec:
    few = max(ESTIMATE_PIXELS // (spec.width * spec.height), 1)
    if few >= spec.samples or spec.shutter_samples[0].camera is None:
        return spec
    return replace(spec, samples=few, shutter_samples=spec.shutter_samples[:few])
