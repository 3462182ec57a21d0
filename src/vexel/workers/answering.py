"""The side of a bounded process that answers: one question after another, over one channel.

A fork of `vexel.workers.fork_server_main`, which has loaded what most of them need.
"""

import faulthandler
import os
import resource
import select
import signal
import threading
import time
from collections.abc import Callable
from contextlib import AbstractContextManager
from functools import partial
from importlib import import_module
from pathlib import Path
from typing import Any, Protocol

from vexel.core.errors import VexelError
from vexel.disk.disk_errors import disk_trouble
from vexel.disk.scratch import empty_scratch
from vexel.workers.bounds.isolation import Reach, isolate
from vexel.workers.channel import STEP, Channel, ProtocolError, take_key
from vexel.workers.fork_server import StageOrder

OPENCV_NO_MEMORY = -4
"""`StsNoMem`, the code of its error where memory is short."""


class Answers(Protocol):
    """Answers questions: each is a method, whose arguments are those of the question."""

    tell: Callable[[Any], None]
    """Reports a step on the way to an answer; set before each question."""

    def get_ready(self, kind: str) -> None:
        """Load ahead what questions of a kind need; what goes wrong is reported when it is asked for."""

    def listen(self, question: str) -> AbstractContextManager[Any]:
        """What surrounds an answer."""


_PROCESS = os.getpid()


def end_if_forked() -> None:
    """End a process that user code forked, and that came back from it: it must neither write nor answer."""
    if os.getpid() != _PROCESS:
        os._exit(0)


def run(order: StageOrder, descriptor: int) -> None:
    """Answer until the channel closes, or brings what is no question; in this process alone.

    Parameters
    ----------
    order : StageOrder
    descriptor : int
        Of the channel's end.
    """
    global _PROCESS  # noqa: PLW0603 (one process answers one channel)
    _PROCESS = os.getpid()
    channel = take_key(descriptor)
    with open(order.stacks, "w") as stacks:
        # Before any thread, and before any user code.
        isolate(Reach(tuple(order.writes), tuple(order.hidden)), Path(order.stacks).parent)
        # On a time-out the asker wants to know where the code was, before it ends this process.
        faulthandler.register(signal.SIGUSR1, file=stacks, all_threads=False)
        _end_with(order.asker, Path(order.stacks).parent)
        module, _, name = order.answers.partition(":")
        answers: Answers = getattr(import_module(module), name)()
        _bound_memory(order.memory_mb)
        if order.kind:
            answers.get_ready(order.kind)
        while True:
            try:
                number, (question, arguments) = channel.receive(None, order.asker)
            except (EOFError, OSError, ProtocolError):
                return
            answers.tell = partial(_step, channel, number)
            # Not kept beyond this line: an error holds all that the code had in its hands.
            channel.send(number, _answer(answers, question, arguments))


def _step(channel: Channel, number: int, step: Any) -> None:
    channel.send(number, (STEP, step))


def _answer(answers: Answers, question: str, arguments: tuple[Any, ...]) -> tuple[str, Any]:
    try:
        with answers.listen(question):
            return "done", getattr(answers, question)(*arguments)
    except VexelError as error:
        return "failed", _passable(error)
    except OSError as error:
        # What the disk refuses ends a run; what else a library calls so is a failure of this frame.
        if disk_trouble(error, Path()):
            return "failed", OSError(error.errno, error.strerror)
        return "failed", VexelError(f"internal error ({type(error).__name__}): {error}")
    except MemoryError:
        return "failed", MemoryError()
    except Exception as error:  # noqa: BLE001 (every exception is the answer)
        if getattr(error, "code", None) == OPENCV_NO_MEMORY:
            return "failed", MemoryError()
        return "failed", VexelError(f"internal error ({type(error).__name__}): {error}")
    finally:
        end_if_forked()


def _passable(error: VexelError) -> VexelError:
    """An error of a class that the asker knows, in place of the one that user code raised."""
    kind = type(error)
    known = kind.__module__.partition(".")[0] == "vexel" and "<locals>" not in kind.__qualname__
    return error if known else VexelError(str(error))


def _bound_memory(memory_mb: int) -> None:
    """Bound the address space to what the process has now plus the source's share."""
    pages = int(Path("/proc/self/statm").read_text().split()[0])
    bound = pages * resource.getpagesize() + memory_mb * 1024 * 1024
    resource.setrlimit(resource.RLIMIT_AS, (bound, resource.getrlimit(resource.RLIMIT_AS)[1]))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _end_with(asker: int, own: Path) -> None:
    """End when the asker is gone, with all that was started here, even while user code loops.

    Parameters
    ----------
    asker : int
        Its process.
    own : Path
        Folder that the asker made for this stage alone, and would have removed.
    """

    def watch() -> None:
        try:
            select.select([os.pidfd_open(asker)], [], [])
        except OSError:
            # It is gone already, or this is a container that forbids what is newer than it.
            while Path(f"/proc/{asker}").is_dir():
                time.sleep(0.5)
        # Not the folder itself: a bounded process may change its content, and nothing outside it.
        empty_scratch(own)
        os.killpg(0, signal.SIGKILL)

    threading.Thread(target=watch, daemon=True).start()
