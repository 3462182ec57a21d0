"""What a worker does: hands frames to its own stage process and reports."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from vexel.core.errors import TookTooLong, VexelError
from vexel.core.evaluate.frame_spec import FrameSpec
from vexel.core.evaluate.source_facts import SourceAt
from vexel.disk.disk_errors import disk_trouble
from vexel.disk.finished import Finished, finished
from vexel.workers.bounded_process import LimitReached, ProcessEnded
from vexel.workers.stage_process import StageProcess

NOTHING = Finished()


@dataclass(frozen=True)
class FrameOrder:
    """One frame to make, and its file."""

    number: int
    spec: FrameSpec
    path: Path


@dataclass(frozen=True)
class FrameResult:
    """How one frame went.

    Attributes
    ----------
    number : int
    seconds : float
    file : Finished
        The file on disk after the frame was made.
    error : str
        Empty when the frame was made.
    halt : str
        Why no other frame can be made either, such as a full disk; else empty.
    at_limit : bool
        Whether the source ran into a limit of time or memory, or broke its process.
    ended : bool
        Whether the stage was ended on purpose, so that the frame still waits to be made.
    """

    number: int
    seconds: float = 0.0
    file: Finished = NOTHING
    error: str = ""
    halt: str = ""
    at_limit: bool = False
    ended: bool = False


def make_frames(stage: StageProcess, at: SourceAt, orders: Sequence[FrameOrder]) -> list[FrameResult]:
    """Make frames in a worker's stage process.

    Parameters
    ----------
    stage : StageProcess
    at : SourceAt
    orders : sequence of FrameOrder

    Returns
    -------
    list of FrameResult
        In the order of `orders`, up to a frame that says
        that the next ones would go wrong too.
    """
    results: list[FrameResult] = []
    for order in orders:
        results.append(_made(stage, at, order))
        if results[-1].halt or results[-1].at_limit or results[-1].ended:
            break
    return results


def _made(stage: StageProcess, at: SourceAt, order: FrameOrder) -> FrameResult:
    number, path = order.number, order.path
    try:
        size, seconds, digest = stage.make(at, order.spec, path)
        file = finished(path)
    except ProcessEnded:
        return FrameResult(number, ended=True)
    except (LimitReached, TookTooLong) as error:
        return FrameResult(number, error=str(error), at_limit=True)
    except VexelError as error:
        return FrameResult(number, error=str(error))
    except OSError as error:
        halt = disk_trouble(error, path.parent) or f"{path.parent} cannot be written ({error.strerror}): fix that."
        return FrameResult(number, error=str(error), halt=halt)
    if (file.bytes, file.digest) != (size, digest):
        # A frame that has been made is one that is there, and holds what was drawn.
        return FrameResult(number, error=f"{path.name} was changed on disk while it was made: make it again")
    return FrameResult(number, seconds, file)
