"""Snap cuts to markers: items become longer or shorter, so that they meet at the markers."""

from bisect import bisect_left
from collections.abc import Sequence
from fractions import Fraction
from typing import Any

from vexel.core.errors import Mistake
from vexel.core.reel.played_item import Playing
from vexel.core.reel.reel_plan import ReelPlan
from vexel.core.reel.tracks import missing_items
from vexel.core.wording import counted


def cuts_to_markers(plan: ReelPlan) -> dict[str, Any]:
    """A patch of a reel that moves each cut, or the middle of each transition, to the nearest marker.

    An item that plays frames is trimmed at its end, or holds its last frame; what repeats, is played to and fro or
    fitted to a length already is fitted to the new one, and so are items without frames, such as cards.

    Raises
    ------
    Mistake
        When there are no markers or cuts, or fewer markers than cuts, something is missing, or the reel is fitted to
        a length.
    """
    reel, row = plan.reel, plan.sequence
    if row is None or len(row.tracks) < 2:
        raise Mistake(f"{reel.title} has no cuts yet: put a second item into it")
    if plan.frames != row.count:
        raise Mistake(f"{reel.title} is fitted to a length, which moves all cuts: take its length out first")
    if gone := next(missing_items(row), None):
        raise Mistake(f"{gone.what} is missing, so its length is unknown: fix it or take it out, then snap the cuts")
    markers = sorted({marker.frame for marker in reel.markers})
    cuts = [start + overlap // 2 for start, overlap in zip(row.starts[1:], row.overlaps, strict=True)]
    goals = _nearest(cuts, markers, reel.title)
    items = [dict(item) for item in plan.item_documents]
    for number, (cut, goal) in enumerate(zip(cuts, goals, strict=True)):
        start = 0 if number == 0 else goals[number - 1] - row.overlaps[number - 1] // 2
        # The next item starts as far before its cut as half of the transition, which both share.
        length = goal - row.overlaps[number] // 2 - start + row.overlaps[number]
        transitions = row.overlaps[number] + (row.overlaps[number - 1] if number else 0)
        if length < max(transitions, 1):
            raise Mistake(
                f"{plan.names[number]} would be {length} frames long before the marker at {goal}, no more than its "
                "transitions: take a marker out, or shorten the transition"
            )
        if cut != goal or start != row.starts[number]:
            items[number] |= _of_length(plan, number, length)
    for number, (transition, overlap) in enumerate(zip(row.transitions, row.overlaps, strict=True)):
        # A transition that was cut short would grow with its items, and move its middle.
        if transition.frames > overlap:
            kept = {"frames": overlap} if overlap else {"kind": "cut", "frames": 0}
            items[number] |= {"transition": items[number]["transition"] | kept}
    return {"items": items}


def _nearest(cuts: Sequence[int], markers: Sequence[int], title: str) -> list[int]:
    """A marker for each cut, rising: each the nearest that leaves enough for the others."""
    if not markers:
        raise Mistake(f"{title} has no markers yet: add some, or find the beats of its sound")
    markers = [frame for frame in markers if frame > 0]
    if len(markers) < len(cuts):
        raise Mistake(f"{title} has {len(cuts)} cuts and {len(markers)} markers after its beginning: add some more")
    goals: list[int] = []
    low = 0
    for number, cut in enumerate(cuts):
        high = len(markers) - (len(cuts) - number - 1)
        after = min(max(bisect_left(markers, cut), low), high - 1)
        before = max(after - 1, low)
        best = before if abs(markers[before] - cut) <= abs(markers[after] - cut) else after
        goals.append(markers[best])
        low = best + 1
    return goals


def _of_length(plan: ReelPlan, number: int, length: int) -> dict[str, Any]:
    """Values that make an item `length` frames of the reel long."""
    assert plan.sequence is not None
    track, item = plan.sequence.tracks[number], plan.reel.items[number]
    if not isinstance(track, Playing):
        return {"frames": length, "seconds": None} | ({"speed": 1} if hasattr(item, "speed") else {})
    spec = track.item
    plain = spec.order == "forward" and spec.repeat == 1 and spec.frames is None and spec.seconds is None
    if not plain or track.step is not None:
        values = _fitted(length, spec.hold_start, spec.hold_end)
        if spec.between == "refuse" and values["frames"] != track.steps > 1:
            raise Mistake(
                f"{plan.names[number]} would be fitted to {counted(length, 'frame')} at its marker, by frames that are "
                "dropped or doubled, which between: refuse forbids: choose nearest, blend or true for it"
            )
        return values
    moving = length - spec.hold_start
    # This number of media frames gives that number of reel frames: rounding is undone by holding the last one.
    if moving < 1:
        return _fitted(length, spec.hold_start, 0)
    steps = min(int(moving * track.pace + Fraction(1, 2)), track.facts.frames - spec.first)
    steps = max(steps, 1)
    lasts = max(int(steps / track.pace + Fraction(1, 2)), 1)
    if lasts > moving:
        return _fitted(length, spec.hold_start, 0)
    last = spec.first + steps - 1
    return {"last": None if last == track.facts.frames - 1 else last, "hold_end": moving - lasts}


def _fitted(length: int, before: int, after: int) -> dict[str, Any]:
    """Values that fit an item to a length, with its still frames as far as they leave room for motion."""
    after = min(after, max(length - before - 1, 0))
    before = min(before, length - after - 1)
    held = {"hold_start": before, "hold_end": after}
    return {"frames": length - before - after, "seconds": None, "speed": 1} | held
