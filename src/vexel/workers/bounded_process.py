"""A process that answers questions within limits, and can be ended without harm."""

import os
import re
import signal
import socket
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any, Literal

from vexel.core.errors import Failure, VexelError
from vexel.disk.scratch import ScratchFolder
from vexel.disk.write import make_folder
from vexel.workers.bounds.isolation import NOWHERE, Reach
from vexel.workers.bounds.limits import Limits
from vexel.workers.channel import STEP, Channel, ProtocolError, first_key
from vexel.workers.fork_server import Fork, StageOrder, fork_stage

START_SECONDS = 60.0
Ending = Literal["too long", "too much memory", "out of turn", "crashed"]
"""Why a process was ended, or ended by itself."""


class LimitReached(Failure):
    """What was asked for took too long or too much memory, or broke its process."""


class ProcessEnded(Failure):
    """The process was ended on purpose while it was asked, or before."""


class BoundedProcess:
    """Asks questions of a process, one at a time; starts another one when it has ended.

    Parameters
    ----------
    limits : Limits
    threads : int
        Software-render threads beside the renderer's own; none is best where
        every core has a stage.
    reach : Reach
        What it may write and see, beside its temporary folder.
    """

    answers = ""
    """The class that answers in the process, as ``module:name``."""

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

    def sentence(self, ending: Ending, file: Path, detail: str) -> str:
        """Describe why the process has ended.

        Parameters
        ----------
        ending : str
        file : Path
            What it was asked about.
        detail : str
            Where it was, or how it ended.
        """
        raise NotImplementedError

    def start(self, kind: str = "") -> None:
        """Start the process ahead of its first question; it gets ready by itself for a kind of source."""
        with self._turn:
            if self._process is None and not self._ended:
                self._start(kind)

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
        self,
        wanted: type | tuple[type, ...],
        question: str,
        file: Path,
        *arguments: Any,
        kind: str = "",
        patience: float | None = 1,
        on_step: Callable[[Any], None] = lambda step: None,
    ) -> Any:
        """The answer, of the type that is wanted; an answer of another type ends the process.

        Parameters
        ----------
        file : Path
            What it is about.
        kind : str
            Of source that the process gets ready for, where it is started for this question.
        patience : float, optional
            Times the limit that the answer, or its next step, may take; without, for ever.
        on_step : callable
            Called with each step that the process reports on its way.
        """
        with self._turn:
            self._start_unless_there(kind)
            assert self._channel is not None and self._process is not None
            self._number += 1
            begin = self._limits.seconds + START_SECONDS
            seconds = None if patience is None else patience * self._limits.seconds
            if seconds is not None and not self._ready:
                seconds += START_SECONDS
            try:
                self._channel.send(self._number, (question, arguments), seconds)
                self._pid = self._process.pid(begin if seconds is None else seconds)
                outcome = STEP
                while outcome == STEP:
                    _, (outcome, value) = self._channel.receive(self._number, self._pid, seconds)
                    if outcome == STEP:
                        on_step(value)
                if outcome == "done" and not isinstance(value, wanted):
                    raise ProtocolError("an answer was of the wrong kind")
            except TimeoutError:
                where = self._where(file)
                self._end()
                raise LimitReached(self.sentence("too long", file, where)) from None
            except (ProtocolError, TypeError, ValueError):
                self._end()
                raise LimitReached(self.sentence("out of turn", file, "")) from None
            except (EOFError, OSError):
                raise self._died(file) from None
            self._ready = True
            if outcome == "done":
                return value
            if isinstance(value, MemoryError):
                raise LimitReached(self.sentence("too much memory", file, ""))
            raise value if isinstance(value, VexelError | OSError) else Failure(str(value))

    def _start_unless_there(self, kind: str) -> None:
        if self._ended:
            raise ProcessEnded("the process was ended")
        # Its exit status arrives a moment after its channel closes.
        gone = self._channel is not None and self._channel.is_closed
        if self._process is None or gone or self._process.poll() is not None:
            self._start(kind)
        if self._ended:
            # It was cut while it was started.
            self._end()
            raise ProcessEnded("the process was ended")

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
            os.getpid(), kind, str(self._stacks), self._limits.memory_mb, environment, reach.writes, reach.hidden,
            self.answers,
        )  # fmt: skip
        with theirs:
            self._process = fork_stage(order, theirs)
        self._channel = first_key(ours)

    def _where(self, file: Path) -> str:
        """The line that the source's code is at, where that can be found."""
        assert self._process is not None
        self._process.send_signal(signal.SIGUSR1)
        time.sleep(0.2)
        own = re.escape(str(file.parent))
        found = re.search(rf'File "{own}/([^"]+)", line (\d+)', self._stacks.read_text(errors="replace"))
        return f" at {found[1]}, line {found[2]}" if found else ""

    def _died(self, file: Path) -> Failure:
        assert self._process is not None
        if self._ended:
            self._end()
            return ProcessEnded("the process was ended")
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
        return LimitReached(self.sentence("crashed", file, how))

    def _end(self) -> None:
        if self._channel is not None:
            self._channel.close()
        if self._process is not None:
            self._process.kill()
            with suppress(TimeoutError):
                self._process.wait(START_SECONDS)
            self._process.close()
        self._channel = self._process = None
