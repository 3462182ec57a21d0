"""A stage in a separate process, which runs user code and makes frames."""

from pathlib import Path
from typing import Any

from vexel.core.checks.clearance_findings import Clearance
from vexel.core.evaluate.frame_spec import FrameSpec
from vexel.core.evaluate.source_facts import Moment, Point, SourceAt, SourceFacts, Subject
from vexel.core.time.clock import Instant
from vexel.disk.write import remove_parts
from vexel.workers.bounded_process import BoundedProcess, Ending, LimitReached, ProcessEnded
from vexel.workers.bounds.limits import Limits
from vexel.workers.bounds.memory_used import peak_bytes


class StageProcess(BoundedProcess):
    """Asks questions of a stage process; see `vexel.workers.stage_commands.StageCommands`."""

    answers = "vexel.workers.stage_commands:StageCommands"

    def sentence(self, ending: Ending, file: Path, detail: str) -> str:
        """See `BoundedProcess.sentence`."""
        if ending == "too long":
            return (
                f"{file.name} did not finish within {self._limits.seconds:g} s and was stopped{detail}; "
                f"look for a loop without an end, or set {self._limits.seconds_name} higher"
            )
        if ending == "too much memory":
            return (
                f"{file.name} asked for more than the {self._limits.memory_mb:,} MB of memory that a source "
                "may take; make it smaller or set VEXEL_MEMORY_MB higher"
            )
        if ending == "out of turn":
            return (
                f"{file.name} interfered with the connection to the process that runs it, which was ended: "
                "its code must not write to files that it did not open, nor answer from a fork of its process"
            )
        return f"{file.name} ended its process ({detail}); its code or a library that it uses crashed"

    def _ask_at(
        self, wanted: type | tuple[type, ...], question: str, at: SourceAt, *arguments: Any, patience: float = 1
    ) -> Any:
        return self._ask(wanted, question, at.file, at, *arguments, kind=at.kind, patience=patience)

    def facts(self, at: SourceAt) -> SourceFacts:
        """See `vexel.stage.renderer.Renderer.facts`."""
        answer: SourceFacts = self._ask_at(SourceFacts, "facts", at)
        return answer

    def measure(self, at: SourceAt, moments: list[Moment], layout: tuple[int, int]) -> Subject | None:
        """See `vexel.stage.renderer.Renderer.measure`."""
        answer: Subject | None = self._ask_at(
            (Subject, type(None)), "measure", at, moments, layout, patience=len(moments)
        )
        return answer

    def repeats(self, at: SourceAt, moments: list[Moment], layout: tuple[int, int]) -> bool:
        """See `vexel.stage.renderer.Renderer.repeats`."""
        answer: bool = self._ask_at(bool, "repeats", at, moments, layout, patience=2 * len(moments))
        return answer

    def readings(self, at: SourceAt, moments: list[Moment], layout: tuple[int, int]) -> list[Any]:
        """See `vexel.stage.renderer.Renderer.readings`."""
        answer: list[Any] = self._ask_at(list, "readings", at, moments, layout, patience=len(moments))
        return answer

    def nearness(
        self, at: SourceAt, places: list[tuple[int, Moment, list[Point]]], layout: tuple[int, int]
    ) -> Clearance:
        """See `vexel.stage.renderer.Renderer.nearness`."""
        answer: Clearance = self._ask_at(Clearance, "nearness", at, places, layout, patience=len(places))
        return answer

    def view(self, at: SourceAt, spec: FrameSpec, quick: bool = False) -> bytes:
        """The frame as PNG bytes, or JPEG for a passing look (a transparent one stays PNG)."""
        answer: bytes = self._ask_at(bytes, "view", at, spec, quick)
        return answer

    def estimate(self, at: SourceAt, spec: FrameSpec) -> tuple[int, float]:
        """Bytes of the frame, and seconds that it takes; nothing is written."""
        answer: tuple[int, float] = self._ask_at(tuple, "estimate", at, spec)
        return answer

    def differences(
        self, at: SourceAt, specs: list[FrameSpec], pairs: list[tuple[int, int]]
    ) -> list[tuple[float, float]]:
        """How far pictures differ, as shares of white: on average, and at most; `pairs` are places in `specs`."""
        answer: list[tuple[float, float]] = self._ask_at(list, "differences", at, specs, pairs)
        return answer

    def warm_up(self, at: SourceAt, spec: FrameSpec) -> None:
        """Open the source and all that drawing the frame needs, so that it takes no more time than the next one."""
        self._ask_at(type(None), "warm_up", at, spec)

    def make(self, at: SourceAt, spec: FrameSpec, path: Path) -> tuple[int, float, str]:
        """Write the frame to `path`; its bytes, the seconds it took, and its digest."""
        try:
            answer: tuple[int, float, str] = self._ask_at(tuple, "make", at, spec, path)
        except (LimitReached, ProcessEnded):
            # It may have ended in the midst of writing. Another machine may write beside it: only its own part goes.
            remove_parts(path, self._pid)
            raise
        return answer

    def limit_to(self, limits: Limits) -> None:
        """Hold the next questions to other limits of time; the memory of a running process stays limited as before."""
        self._limits = limits

    def peak_bytes(self) -> int:
        """The most memory that the process has taken; 0 where that is not known."""
        return peak_bytes(self._pid) if self._pid else 0

    def way(self, file: Path, instants: list[Instant]) -> list[dict[str, float]]:
        """See `vexel.sources.code.path_formula.formula_rows`."""
        answer: list[dict[str, float]] = self._ask_at(list, "way", SourceAt("model", file), instants)
        return answer

    def timeline(self, name: str, text: str) -> tuple[str, list[str]]:
        """The reel of an OpenTimelineIO file as JSON text, and what was skipped; see `read_otio`."""
        answer: tuple[str, list[str]] = self._ask_at(tuple, "timeline", SourceAt("", Path(name)), text)
        return answer

    def distance(self, at: SourceAt, spec: FrameSpec, x: float, y: float) -> float | None:
        """Distance of what is seen at a point of a frame, as shares from the top left; None where nothing is."""
        answer: float | None = self._ask_at((float, type(None)), "distance", at, spec, x, y)
        return answer

    def printed(self, at: SourceAt) -> str:
        """What the source's code printed when it was last asked for anything."""
        answer: str = self._ask_at(str, "printed", at)
        return answer
