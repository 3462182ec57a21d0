"""Where the motion of a shot ends: at the last key of any lane."""

from fractions import Fraction
from typing import Any

from vexel.core.document.shot import Shot
from vexel.core.evaluate.lane_sampling import keys_of
from vexel.core.time.clock import Clock, nearest_whole


def trim_to_motion(shot: Shot) -> tuple[int, dict[str, Any]] | None:
    """How many frames the shot has when it ends with its motion, and the patch that ends it there.

    None where no lane has a last key that means an end: a lane that repeats,
    goes back or is offset runs on.
    """
    own = [lane for lane in shot.lanes if lane.keys]
    if (
        shot.clock.retimed_from is not None
        or shot.camera.rig.traits.times_shot
        or not own
        or any(lane.formula is not None for lane in shot.lanes)
        or any(lane.repeat != 1 or lane.back or lane.offset for lane in own)
    ):
        return None
    clock, end = shot.clock.exact, last_place(shot)
    steps = nearest_whole(Fraction(end) * clock.steps)
    frames = steps + (1 if clock.span == "ends" else 0)
    return (frames, trim_at(shot, clock, end, frames)) if steps > 0 else None


def last_place(shot: Shot) -> float:
    """The phase of the last key of any lane."""
    clock = shot.clock.exact
    ends = []
    for lane in shot.lanes:
        if lane.keys:
            begin, end = lane.within
            ends.append(begin + keys_of(lane, clock)[-1].at * (end - begin))
    return max(ends, default=1.0)


def trim_at(shot: Shot, clock: Clock, end: float, frames: int) -> dict[str, Any]:
    """Let the shot end at a phase of it, with all lanes running as they did."""
    scale = clock.steps / (frames if clock.span == "loop" else max(frames - 1, 1))
    lanes = []
    for lane in shot.lanes:
        trimmed = lane.model_dump(mode="json", exclude_defaults=True)
        if lane.within != (0, 1):
            trimmed["within"] = [min(place * scale, 1) for place in lane.within]
        elif lane.at == "phase" and lane.keys:
            trimmed["keys"] = [[min(key[0] * scale, 1), *key[1:]] for key in lane.keys]
        lanes.append(trimmed)
    return {"clock": {"frames": frames, "seconds": None}, "lanes": lanes}
