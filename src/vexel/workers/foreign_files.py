"""Files of other programs, read by native libraries in a bounded process that may end without harm."""

from vexel.core.errors import Failure, Mistake
from vexel.core.reel.reel_spec import Reel, read_reel
from vexel.store.user_files import secrets_of
from vexel.workers.bounded_process import LimitReached
from vexel.workers.bounds.isolation import Reach
from vexel.workers.bounds.limits import Limits
from vexel.workers.stage_process import StageProcess

READING = Limits(30, 1024)
MOST_TIMELINE_BYTES = 32_000_000
"""A timeline of 5,000 items has some 10 MB."""


def read_timeline(name: str, data: bytes) -> tuple[Reel, list[str]]:
    """The reel of an OpenTimelineIO file, and a sentence for each thing that was skipped.

    Raises
    ------
    Mistake
        When it is no timeline, or no reel can be made of it.
    """
    if len(data) > MOST_TIMELINE_BYTES:
        raise Mistake(f"{name} has more than {MOST_TIMELINE_BYTES // 1_000_000} MB, too much for a timeline: split it")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise Mistake(f"{name} is not a text: give an OpenTimelineIO file (.otio)") from None
    stage = StageProcess(READING, reach=Reach(hidden=secrets_of()))
    try:
        document, notes = stage.timeline(name, text)
    except LimitReached:
        raise Mistake(f"{name} is damaged so badly that its reader ended: export it again") from None
    except Failure as error:
        raise Mistake(str(error)) from None
    finally:
        stage.close()
    return read_reel(document, name), notes
