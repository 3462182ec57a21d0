"""Shots that take their clock from another document in their folder."""

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from vexel.core.checks.shared_clock import clock_differs
from vexel.core.document.shot import Shot, read_shot
from vexel.core.document_text import MOST_BYTES
from vexel.core.edits.share_clock import share_clock
from vexel.core.errors import Mistake, VexelError
from vexel.core.finding import Finding, Fix
from vexel.disk.named_place import named_place

if TYPE_CHECKING:
    # A capture without a project does not wait for the libraries of a database.
    from vexel.store.documents.shots import KeptShot, ShotStore

LET_GO = Fix("Unlink the clock", {"clock": {"like": None}})


def linked_findings(shot: Shot, folder: Path) -> list[Finding]:
    """How the clock differs from that of the shot that ``clock.like`` names, relative to `folder`."""
    try:
        other = _leader_of(shot, folder)
    except (OSError, Mistake) as error:
        why = "is not there" if isinstance(error, OSError) else f"cannot be read ({error})"
        return [Finding("clock-unlinked", f"{shot.clock.like}, whose clock this shot shares, {why}", "", (LET_GO,))]
    return [] if other is None else clock_differs(shot, other)


def _leader_of(shot: Shot, folder: Path) -> Shot | None:
    like = shot.clock.like
    if like is None:
        return None
    file = named_place(folder, like)
    if not file.is_file() or file.stat().st_size > MOST_BYTES:
        raise FileNotFoundError(like)
    return read_shot(file.read_bytes(), like)


def taken(shots: "ShotStore", kept: "KeptShot") -> "KeptShot":
    """A shot with the clock of the shot that it names, taken if the two differ."""
    try:
        leader = _leader_of(kept.value, shots.folder)
    except (OSError, Mistake):
        return kept  # `linked_findings` reports it
    patch = None if leader is None else share_clock(kept.value, leader)
    return kept if patch is None else shots.edit(kept.id, patch, "whose clock it has")


def take_along(shots: "ShotStore", kept: "KeptShot") -> Iterator["KeptShot"]:
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
            patch = share_clock(follower, leader.value)
            if patch is not None:
                changed = shots.edit(shot_id, patch, f"the clock, as in {leader.value.title}")
                waiting.append(changed)
                yield changed
