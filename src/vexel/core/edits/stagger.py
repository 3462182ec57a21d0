"""Lanes one after another, each beginning before the one before it has ended."""

from typing import Any

from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake


def stagger_lanes(shot: Shot, overlap: float) -> dict[str, Any]:
    """The merge patch that lets the lanes of a shot run one after another over its whole length.

    With n lanes of which each overlaps the next by a share o of its duration,
    each takes 1 / (n − (n − 1)·o) of the shot.

    Parameters
    ----------
    shot : Shot
    overlap : float
        0 lets each begin when the one before it ends, 1 lets all run at once.

    Raises
    ------
    Mistake
        When the overlap is zero, or fewer than two lanes have keys.
    """
    if not 0 <= overlap <= 1:
        raise Mistake(f"lanes cannot overlap by {overlap:g}: write a share from 0 to 1")
    count = sum(bool(lane.keys) for lane in shot.lanes)
    if count < 2:
        raise Mistake("a stagger needs two lanes with keys: add one")
    each = 1 / (count - (count - 1) * overlap)
    lanes, turn = [], 0
    for lane in shot.lanes:
        staggered = lane.model_dump(mode="json", exclude_defaults=True)
        if lane.keys:
            begin = turn * each * (1 - overlap)
            staggered["within"] = [_short(begin), _short(min(begin + each, 1))]
            turn += 1
        lanes.append(staggered)
    return {"lanes": lanes}


def _short(phase: float) -> float:
    return float(f"{phase:.9g}")
