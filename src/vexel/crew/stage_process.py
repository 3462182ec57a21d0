"""A stage in a process of its own, with limits, that can be ended without harm."""

import os
import re
import signal
import socket
import threading
import time
from contextlib import suppress
from pathlib import Path
from typing import Any

from vexel.core.checks.clearance_findings import Clearance
from vexel.core.errors import Failure, VexelError
from vexel.core.evaluate.frame_recipe import FrameRecipe
from vexel.core.evaluate.source_facts import Moment, Point, SourceAt, SourceFacts, Subject
from vexel.core.time.clock import Instant
from vexel.crew.bounds.isolation import NOWHERE, Reach
from vexel.crew.bounds.limits import Limits
from vexel.crew.channel import Channel, Garbled, first_key
from vexel.crew.fork_server import Fork, StageOrder, fork_stage
from vexel.disk.scratch import ScratchFolder
from vexel.disk.write import make_folder, remove_parts

START_SECONDS = 60.0


class LimitReached(Failure):
    """The source's code took too long, took too much memory or broke its process."""


class StageEnded(Failure):
    """The stage was ended on purpose while it was asked, or before."""


class StageProcess:
    """Asks questions of a stage process, one at a time; starts it anew when it was ended.

    Parameters
    ----------
    limits : Limits
    threads : int
        Software-render threads beside the renderer's own; none is best where
        every core has a stage.
    reach : Reach
        What it may write and see, beside its temporary folder.
    """

    def __init__(self, limits: Limits, threads: int = 0, reach: Reach = NOWHERE) -> None:
        self._limits = limits
        self._reach = reach
        self._threads = threads
        self._turn = threading.Lock()
        self._process: Fork | None = None
        self._channel: Channel | None = None
        self._number = self._pid = 0
        self._ready = self._ended = False
        self._folder = ScratchFolder("stage")
        self._stacks = self._folder.path / "stacks"

    def start(self, kind: str = "") -> None:
        """Start the process ahead of its first question; it gets ready by itself for a kind of source."""
        with self._turn:
            if self._process is None and not self._ended:
                self._start(kind)

    def facts(self, at: SourceAt) -> SourceFacts:
        """See `vexel.stage.stage.Stage.facts`."""
        answer: SourceFacts = self._ask(SourceFacts, "facts", at)
        return answer

    def measure(self, at: SourceAt, moments: list[Moment], layout: tuple[int, int]) -> Subject | None:
        """See `vexel.stage.stage.Stage.measure`."""
        answer: Subject | None = self._ask((Subject, type(None)), "measure", at, moments, layout, patience=len(moments))
        return answer

    def repeats(self, at: SourceAt, moments: list[Moment], layout: tuple[int, int]) -> bool:
        """See `vexel.stage.stage.Stage.repeats`."""
        answer: bool = self._ask(bool, "repeats", at, moments, layout, patience=2 * len(moments))
        return answer

    def nearness(
        self, at: SourceAt, places: list[tuple[int, Moment, list[Point]]], layout: tuple[int, int]
    ) -> Clearance:
        """See `vexel.stage.stage.Stage.nearness`."""
        answer: Clearance = self._ask(Clearance, "nearness", at, places, layout, patience=len(places))
        return answer

    def view(self, at: SourceAt, recipe: FrameRecipe, quick: bool = False) -> bytes:
        """The frame as PNG bytes, or JPEG for a passing look (a transparent one stays PNG)."""
        answer: bytes = self._ask(bytes, "view", at, recipe, quick)
        return answer

    def estimate(self, at: SourceAt, recipe: FrameRecipe) -> tuple[int, float]:
        """Bytes of the frame, and seconds that it takes; nothing is written."""
        answer: tuple[int, float] = self._ask(tuple, "estimate", at, recipe)
        return answer

    def warm_up(self, at: SourceAt, recipe: FrameRecipe) -> None:
        """Open the source and what it takes to draw the frame, so that making it takes no longer than the next one."""
        self._ask(type(None), "warm_up", at, recipe)

    def make(self, at: SourceAt, recipe: FrameRecipe, path: Path) -> tuple[int, float, str]:
        """Write the frame to `path`; its bytes, the seconds it took, and its digest."""
        try:
            answer: tuple[int, float, str] = self._ask(tuple, "make", at, recipe, path)
        except (LimitReached, StageEnded):
            # It may have ended in the midst of writing. Another machine may write beside it: only its own part goes.
            remove_parts(path, self._pid)
            raise
        return answer

    def way(self, file: Path, instants: list[Instant]) -> list[dict[str, float]]:
        """See `vexel.sources.code.path_formula.formula_rows`."""
        answer: list[dict[str, float]] = self._ask(list, "way", SourceAt("model", file), instants)
        return answer

    def timeline(self, name: str, text: str) -> tuple[str, list[str]]:
        """The reel of an OpenTimelineIO file as JSON text, and what was skipped; see `read_otio`."""
        answer: tuple[str, list[str]] = self._ask(tuple, "timeline", SourceAt("", Path(name)), text)
        return answer

    def distance(self, at: SourceAt, recipe: FrameRecipe, x: float, y: float) -> float | None:
        """Distance of what is seen at a point of a frame, as shares from the top left; None where nothing is."""
        answer: float | None = self._ask((float, type(None)), "distance", at, recipe, x, y)
        return answer

    def printed(self, at: SourceAt) -> str:
        """What the source's code printed when it was last asked for anything."""
        answer: str = self._ask(str, "printed", at)
        return answer

    def close(self) -> None:
        """End the process."""
        with self._turn:
            self._end()
            self._folder.remove()

    def cut(self) -> None:
        """End the process in the midst of a question, which then fails; nothing is waited for, as in a signal."""
        self._ended = True
        process = self._process
        if process is not None:
            process.kill()

    def end(self) -> None:
        """End the process for good, even in the midst of a question, which then fails."""
        self.cut()
        self.close()

    def _ask(
        self, wanted: type | tuple[type, ...], question: str, at: SourceAt, *arguments: Any, patience: int = 1
    ) -> Any:
        """The answer, of the type that is wanted; whatever else comes ends the stage."""
        with self._turn:
            if self._ended:
                raise StageEnded("the stage was ended")
            if self._process is None or self._process.poll() is not None:
                self._start(at.kind)
            if self._ended:
                # It was cut while it was started.
                self._end()
                raise StageEnded("the stage was ended")
            assert self._channel is not None and self._process is not None
            self._number += 1
            seconds = patience * self._limits.seconds + (0 if self._ready else START_SECONDS)
            try:
                self._channel.send(self._number, (question, (at, *arguments)), seconds)
                self._pid = self._process.pid(seconds)
                _, (outcome, value) = self._channel.receive(self._number, self._pid, seconds)
                if outcome == "done" and not isinstance(value, wanted):
                    raise Garbled("an answer was of the wrong kind")
            except TimeoutError:
                raise self._too_long(at) from None
            except (Garbled, TypeError, ValueError):
                self._end()
                raise LimitReached(
                    f"{at.file.name} interfered with the connection to the process that runs it, which was ended: "
                    "its code must not write to files that it did not open, nor answer from a fork of its process"
                ) from None
            except (EOFError, OSError):
                raise self._died(at) from None
            self._ready = True
            if outcome == "done":
                return value
            if isinstance(value, MemoryError):
                raise LimitReached(
                    f"{at.file.name} asked for more than the {self._limits.memory_mb:,} MB of memory that a source "
                    "may take; make it smaller or set VEXEL_MEMORY_MB higher"
                )
            raise value if isinstance(value, VexelError | OSError) else Failure(str(value))

    def _start(self, kind: str = "") -> None:
        self._end()
        self._ready = False
        ours, theirs = socket.socketpair()
        self._folder.path.mkdir(exist_ok=True)
        environment = os.environ | {
            "LP_NUM_THREADS": str(self._threads),
            # What an ended process could not clear away goes with this folder.
            "TMPDIR": str(self._folder.path),
            # It would write beside the code, which is not to change.
            "NUMBA_CACHE_DIR": str(self._folder.path),
        }
        environment.pop("DISPLAY", None)
        reach = self._reach
        for folder in reach.writes:
            make_folder(Path(folder))
        order = StageOrder(
            os.getpid(), kind, str(self._stacks), self._limits.memory_mb, environment, reach.writes, reach.hidden
        )
        with theirs:
            self._process = fork_stage(order, theirs)
        self._channel = first_key(ours)

    def _too_long(self, at: SourceAt) -> LimitReached:
        where = self._where(at.file)
        self._end()
        return LimitReached(
            f"{at.file.name} did not finish within {self._limits.seconds:g} s and was stopped{where}; "
            f"look for a loop without an end, or set {self._limits.seconds_name} higher"
        )

    def _where(self, file: Path) -> str:
        """At which line the source's code is now, if it can be told."""
        assert self._process is not None
        self._process.send_signal(signal.SIGUSR1)
        time.sleep(0.2)
        own = re.escape(str(file.parent))
        found = re.search(rf'File "{own}/([^"]+)", line (\d+)', self._stacks.read_text(errors="replace"))
        return f" at {found[1]}, line {found[2]}" if found else ""

    def _died(self, at: SourceAt) -> Failure:
        assert self._process is not None
        if self._ended:
            self._end()
            return StageEnded("the stage was ended")
        try:
            code: int | None = self._process.wait(5)
        except TimeoutError:
            code = None
        self._end()
        if code is None:
            how = "it closed what Vexel hears it by"
        elif code < 0:
            how = f"signal {signal.Signals(-code).name}, often a sign of too little memory"
        else:
            how = f"exit status {code}"
        return LimitReached(f"{at.file.name} ended its process ({how}); its code or a library that it uses crashed")

    def _end(self) -> None:
        if self._channel is not None:
            self._channel.close()
        if self._process is not None:
            self._process.kill()
            with suppress(TimeoutError):
                self._process.wait(START_SECONDS)
            self._process.close()
        self._channel = self._process = None
