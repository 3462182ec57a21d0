"""Shots that take their clock from another document in their folder."""

from collections.abc import Iterator
from pathlib import Path

from vexel.core.checks.shared_clock import clock_differs
from vexel.core.document.shot import Shot, read_shot
from vexel.core.errors import Mistake, VexelError
from vexel.core.finding import Finding, Mend
from vexel.store.shots import KeptShot, ShotShelf

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


def taken(shots: ShotShelf, kept: KeptShot) -> KeptShot:
    """A shot with the clock of the shot that it names, taken if the two differ."""
    for finding in linked_findings(kept.shot, shots.folder):
        if finding.name == "clock-differs":
            return shots.edit(kept.id, finding.mends[0].patch, "whose clock it has")
    return kept


def take_along(shots: ShotShelf, kept: KeptShot) -> Iterator[KeptShot]:
    """Let all shots that are to have the clock of one take it; gives those that changed."""
    waiting, seen = [kept], {kept.id}
    while waiting:
        leader = waiting.pop()
        for shot_id in shots.ids():
            try:
                follower = shots.shot(shot_id)
            except VexelError:
                continue
            if shot_id in seen or follower.clock.like != f"{leader.id}.json":
                continue
            seen.add(shot_id)
            for finding in clock_differs(follower, leader.shot):
                changed = shots.edit(shot_id, finding.mends[0].patch, f"the clock, as in {leader.shot.title}")
                waiting.append(changed)
                yield changed
