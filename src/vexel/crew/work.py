"""What a crew worker does: hands one frame to its own stage process and reports."""

import errno
from dataclasses import dataclass
from pathlib import Path

from vexel.core.errors import VexelError
from vexel.core.plan import SourceAt
from vexel.core.recipe import FrameRecipe
from vexel.crew.limits import Limits
from vexel.crew.stage_process import LimitReached, StageProcess
from vexel.sources.contract import TookTooLong

_stages: dict[Limits, StageProcess] = {}


@dataclass(frozen=True)
class FrameResult:
    """How one frame went.

    Attributes
    ----------
    number : int
    seconds : float
    bytes : int
    error : str
        Empty when the frame was made.
    halt : str
        Why no other frame can be made either, such as a full disk; else empty.
    at_limit : bool
        Whether the source ran into a limit of time or memory, or broke its process.
    """

    number: int
    seconds: float = 0.0
    bytes: int = 0
    error: str = ""
    halt: str = ""
    at_limit: bool = False


def warm(limits: Limits) -> None:
    """Start this worker's stage process ahead of its first frame."""
    _stages.setdefault(limits, StageProcess(limits)).start()


def make_frame(number: int, at: SourceAt, recipe: FrameRecipe, path: Path, limits: Limits) -> FrameResult:
    """Make one frame in this worker's stage process."""
    stage = _stages.setdefault(limits, StageProcess(limits))
    try:
        size, seconds = stage.make(at, recipe, path)
    except (LimitReached, TookTooLong) as error:
        return FrameResult(number, error=str(error), at_limit=True)
    except VexelError as error:
        return FrameResult(number, error=str(error))
    except OSError as error:
        return FrameResult(number, error=str(error), halt=disk_trouble(path.parent, error))
    return FrameResult(number, seconds, size)


def disk_trouble(folder: Path, error: OSError) -> str:
    """Why a folder takes no more files, and the cure."""
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return f"The disk that holds {folder} is full. Free some space, then resume: all finished frames are kept."
    return f"{folder} cannot be written ({error.strerror}). Mend that, then resume: all finished frames are kept."
