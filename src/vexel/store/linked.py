"""Findings of a shot that takes its clock from another document in its folder."""

from pathlib import Path

from vexel.core.errors import Mistake
from vexel.core.finding import Finding, Mend
from vexel.core.linked import clock_differs
from vexel.core.shot import Shot, read_shot

LET_GO = Mend("Let it go", {"clock": {"like": None}})


def linked_findings(shot: Shot, folder: Path) -> list[Finding]:
    """How the clock differs from that of the shot that ``clock.like`` names, relative to `folder`."""
    like = shot.clock.like
    if like is None:
        return []
    try:
        other = read_shot((folder / like).read_bytes(), like)
    except (OSError, Mistake) as error:
        why = "is not there" if isinstance(error, OSError) else f"cannot be read ({error})"
        return [Finding("clock-unlinked", f"{like}, whose clock this shot is to have, {why}", "", (LET_GO,))]
    return clock_differs(shot, other)
