"""The lanes of a shot, worked out: what is driven, as one array a lane for all frames asked for."""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from vexel.core.document.lane_spec import LaneSpec
from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.lanes.formula import Formula
from vexel.core.lanes.lane import Key, LaneTiming, lane_values, snapped
from vexel.core.time.clock import Clock

Array = NDArray[np.float64]
MOST_DEEP = 4
"""Greatest chain of lanes that follow one another with repeats or offsets: each evaluates its leaders once more."""


def shot_phases(shot: Shot, phases: Array) -> Array:
    """Phases of frames with the easing of the shot as a whole, shape (N,)."""
    easing = shot.easing
    return phases if easing.kind == "linear" else easing(phases.copy())


def lane_tracks(shot: Shot, phases: Array) -> dict[str, Array]:
    """Values of every lane at given phases of the shot.

    Parameters
    ----------
    shot : Shot
    phases : ndarray, shape (N,)
        Before the easing of the shot as a whole, 0 to 1.

    Returns
    -------
    dict of str to ndarray, shape (N,)
        By what is driven, such as ``dial:whorls``, in its unit.

    Raises
    ------
    Mistake
        When lanes follow one another in a ring, a followed lane does not exist, or lanes with repeats or offsets follow
        one another in a long chain.
    """
    return eased_tracks(shot, shot_phases(shot, phases))


def eased_tracks(shot: Shot, run: Array) -> dict[str, Array]:
    """The same at phases with the easing of the shot as a whole."""
    return _tracks(shot, {lane.drive: lane for lane in shot.lanes}, run, 0)


def _tracks(shot: Shot, lanes: Mapping[str, LaneSpec], run: Array, depth: int) -> dict[str, Array]:
    """Values of lanes, and of those that they follow, in the motion's own time."""
    tracks: dict[str, Array] = {}
    waiting = dict(lanes)
    while waiting:
        ready = [lane for lane in waiting.values() if all(leader in tracks for leader in lane.leaders)]
        if not ready:
            raise Mistake(_unled(waiting, tracks))
        for lane in ready:
            tracks[lane.drive] = _track(shot, lane, run, tracks, depth)
            del waiting[lane.drive]
    return tracks


def _leaders(shot: Shot, lane: LaneSpec) -> dict[str, LaneSpec]:
    """The lanes that a lane takes values of, and those that these take values of."""
    lanes, found = {one.drive: one for one in shot.lanes}, dict[str, LaneSpec]()
    waiting = list(lane.leaders)
    while waiting:
        drive = waiting.pop()
        if drive not in found:
            found[drive] = lanes[drive]
            waiting += found[drive].leaders
    return found


def keys_of(lane: LaneSpec, clock: Clock) -> list[Key]:
    """Keys of a lane, with their places as phases."""
    whole = whole_shot(lane, clock)
    return [Key(key[0] / whole, key[1], lane.easing_of(key)) for key in lane.keys]


def lane_places(shot: Shot, lane: LaneSpec, phases: Array) -> Array:
    """Position of a lane among its keys at given phases of the shot, in the unit of its key times; shape (N,)."""
    course = LaneTiming(lane.repeat, lane.back, lane.offset, *lane.within)
    return course.places(shot_phases(shot, phases)) * whole_shot(lane, shot.clock.exact)


def whole_shot(lane: LaneSpec, clock: Clock) -> float:
    """The whole shot in the motion's own time, counted in what a lane's places are counted in."""
    return {"phase": 1.0, "seconds": clock.own_steps / float(clock.rate.fps), "frames": float(clock.own_steps)}[lane.at]


def lane_ends(shot: Shot) -> dict[str, tuple[float, float]]:
    """Values of every lane at the beginning of the shot and at its very end, which a loop does not show."""
    tracks = lane_tracks(shot, np.array([0.0, 1.0]))
    return {drive: (float(first), float(last)) for drive, (first, last) in tracks.items()}


def _track(shot: Shot, lane: LaneSpec, run: Array, tracks: Mapping[str, Array], depth: int) -> Array:
    clock, course = shot.clock.exact, LaneTiming(lane.repeat, lane.back, lane.offset, *lane.within)
    if lane.leaders and course != LaneTiming():
        # Its leaders are seen where it stands itself.
        if depth == MOST_DEEP:
            raise Mistake(
                f"lane {lane.drive} follows over {MOST_DEEP} lanes with repeats or offsets in a chain: give one of "
                "them keys"
            )
        tracks = _tracks(shot, _leaders(shot, lane), course.places(run), depth + 1)
    if lane.follows is not None:
        return lane.plus + lane.times * tracks[lane.follows]
    if lane.formula is not None:
        place, own = course.places(run), float(clock.own_steps)
        # Whole frames are whole, so that a formula may compare them.
        frame = snapped(place * own, np.rint(place * own))
        times = {"phase": place, "seconds": frame / float(clock.rate.fps), "frame": frame}
        return Formula.parse(lane.formula)(times, tracks)
    return lane_values(keys_of(lane, clock), course.places(run), closes=shot.clock.span == "loop")


def _unled(waiting: Mapping[str, LaneSpec], tracks: Mapping[str, Array]) -> str:
    for lane in waiting.values():
        for leader in lane.leaders:
            if leader not in waiting and leader not in tracks:
                return f"lane {lane.drive} follows {leader}, but there is no such lane"
    lane = next(iter(waiting.values()))
    leader = next(leader for leader in lane.leaders if leader in waiting)
    return f"lane {lane.drive} follows {leader}, which follows it in turn: give one of them keys"


def said_dials(shot: Shot) -> dict[str, tuple[float, ...]]:
    """Values of the dials that lanes drive or the shot sets: one a frame of its take, and that at the motion's end.

    Those that only saved views set, or that have the source's own value, are known while capturing only.
    """
    clock = shot.clock.exact
    dials = {name: (float(value),) * (clock.frames + 1) for name, value in getattr(shot.source, "dials", {}).items()}
    try:
        tracks = lane_tracks(shot, np.append(clock.phases(), 1.0))
    except Mistake:
        return dials
    driven = {drive: values for drive, values in tracks.items() if drive.startswith("dial:")}
    return dials | {drive.removeprefix("dial:"): tuple(map(float, values)) for drive, values in driven.items()}


def closes(first: float, last: float) -> bool:
    """Whether two values are equal but for rounding."""
    return abs(first - last) <= 1e-9 * max(abs(first), abs(last), 1)
