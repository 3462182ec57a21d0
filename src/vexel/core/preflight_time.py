"""Preflight of the clock and the lanes: counts, rates, loops and keys that are off."""

from fractions import Fraction
from typing import Any

import numpy as np

from vexel.core.clock import Clock, decimal, nearest_whole
from vexel.core.ease import Easing
from vexel.core.finding import Finding, Mend
from vexel.core.lane import Key
from vexel.core.motion import keys_of, lane_ends, whole_shot
from vexel.core.numbered import counted
from vexel.core.rate import Rate
from vexel.core.reckon import stray
from vexel.core.shot import Shot
from vexel.core.terms import whole_lengths

SMOOTH_FPS = 15
"""Below about so many frames a second motion looks choppy (common practice)."""
FASTEST_USUAL = 120
STILL = 0.2
"""A loop that passes its seam at less than this share of its mean speed seems to stop there."""


def time_findings(shot: Shot) -> list[Finding]:
    """What is off with a shot's clock and lanes, as far as its document tells."""
    found = [_length(shot), _repeated_end(shot), _turn_seam(shot), *_lane_seams(shot), _eased_loop(shot)]
    found += [_slow_rate(shot), _odd_rate(shot), _long_holds(shot), *_keys_outside(shot)]
    return [finding for finding in found if finding is not None]


def motion_ends_early(shot: Shot) -> list[Finding]:
    """A shot that stands still after its last key; for a source that sees nothing of the time."""
    moves = shot.orbit is not None and shot.orbit.turns > 0
    simple = all(lane.repeat == 1 and not lane.back and not lane.offset for lane in shot.lanes)
    clock = shot.clock.clock()
    if moves or not shot.lanes or not simple or clock.span == "loop":
        return []
    end = _last_place(shot)
    last = nearest_whole(Fraction(end) * clock.steps)
    if end >= 1 or last >= clock.motion - 1:
        return []
    still = clock.motion - 1 - last
    return [
        Finding(
            "motion-ends-early",
            f"the motion ends at frame {last:,}, the shot goes on to {clock.motion - 1:,}",
            f"{counted(still, 'frame')} at the end will be equal.",
            (Mend(f"End there, {last + 1:,} frames", _ending_at(shot, clock, end, last + 1)),),
        )
    ]


def _last_place(shot: Shot) -> float:
    """The phase of the last key of any lane."""
    clock = shot.clock.clock()
    ends = []
    for lane in shot.lanes:
        if lane.follows is None:
            begin, end = lane.within
            ends.append(begin + min(keys_of(lane, clock)[-1].at, 1) * (end - begin))
    return max(ends, default=1.0)


def _ending_at(shot: Shot, clock: Clock, end: float, frames: int) -> dict[str, Any]:
    """Cut the shot at a phase, with all lanes running as they did."""
    scale = clock.steps / max(frames - 1, 1)
    lanes = []
    for lane in shot.lanes:
        told = lane.model_dump(mode="json", exclude_defaults=True)
        if lane.within != (0, 1):
            told["within"] = [min(place * scale, 1) for place in lane.within]
        elif lane.at == "phase" and lane.follows is None:
            told["keys"] = [[min(key[0] * scale, 1), *key[1:]] for key in lane.keys]
        lanes.append(told)
    return {"clock": {"frames": frames, "seconds": None}, "lanes": lanes}


def _length(shot: Shot) -> Finding | None:
    if stray(shot.clock) == 0:
        return None
    clock, stated = shot.clock.clock(), Fraction(repr(shot.clock.seconds))
    return Finding(
        "length-not-whole",
        f"{shot.clock.seconds:g} s at {clock.rate.label} is not a whole number of frames",
        f"The motion will last {decimal(clock.motion / clock.rate.fps)} s, {clock.motion:,} frames.",
        (
            Mend(f"State it as {clock.motion:,} frames", {"clock": {"frames": clock.motion, "seconds": None}}),
            *(_length_mend(length, clock.rate.fps) for length in whole_lengths(clock.rate.fps, stated)),
        ),
    )


def _length_mend(length: Fraction, fps: Fraction) -> Mend:
    """A whole length, stated in seconds where a short decimal says it exactly."""
    seconds, frames = float(length), int(length * fps)
    exact = Fraction(repr(seconds)) == length
    patch = {"seconds": seconds, "frames": None} if exact else {"frames": frames, "seconds": None}
    return Mend(f"Make it {decimal(length)} s", {"clock": patch})


def _repeated_end(shot: Shot) -> Finding | None:
    """The classic of the turntable: 361 frames for a turn of 360."""
    clock, turns = shot.clock.clock(), shot.orbit.turns if shot.orbit else 0
    closes = turns > 0 and turns == round(turns) and all(_closes(*ends) for ends in lane_ends(shot).values())
    if clock.span == "loop" or clock.motion < 3 or not closes:
        return None
    return Finding(
        "last-repeats-first",
        f"{clock.motion:,} frames: the last repeats the first",
        "Played again and again, it will stutter once a turn.",
        (
            Mend(
                f"Leave it out, {clock.motion - 1:,} frames",
                {"clock": {"span": "loop", "frames": clock.motion - 1, "seconds": None}},
            ),
        ),
    )


def _closes(first: float, last: float) -> bool:
    return abs(first - last) <= 1e-9 * max(abs(first), abs(last), 1)


def _turn_seam(shot: Shot) -> Finding | None:
    turns = shot.orbit.turns if shot.orbit else 0
    if shot.clock.span != "loop" or turns == round(turns):
        return None
    gap = abs(turns - round(turns)) * 360
    mends = [Mend("Show it once, with both ends", {"clock": {"span": "ends"}})]
    if round(turns) > 0:
        mends.insert(0, _turns_mend(round(turns)))
    return Finding(
        "turn-does-not-close",
        f"{turns:g} turns leave the camera {gap:g}° from where it began",
        "The loop will jump at its seam.",
        tuple(mends),
    )


def _turns_mend(turns: int) -> Mend:
    label = "Turn once" if turns == 1 else f"Turn {turns} times"
    return Mend(label, {"camera": {"rig": {"turns": turns}}})


def _lane_seams(shot: Shot) -> list[Finding]:
    if shot.clock.span != "loop":
        return []
    found, ends = [], lane_ends(shot)
    for number, lane in enumerate(shot.lanes):
        first, last = ends[lane.drive]
        if _closes(first, last):
            continue
        found.append(
            Finding(
                "lane-does-not-close",
                f"{lane.name} ends at {last:g} but begins at {first:g}, {abs(last - first):g} away",
                "The loop will jump at its seam.",
                (*_back(shot, number), Mend("Show it once, with both ends", {"clock": {"span": "ends"}})),
            )
        )
    return found


def _back(shot: Shot, number: int) -> list[Mend]:
    """Letting a lane go there and back, where that closes it."""
    lane = shot.lanes[number]
    if lane.back or lane.follows is not None:
        return []
    lanes = [other.model_dump(mode="json", exclude_defaults=True) for other in shot.lanes]
    lanes[number]["back"] = True
    mended = shot.model_copy(update={"lanes": [*shot.lanes[:number], lane.model_copy(update={"back": True})]})
    return [Mend("Go there and back", {"lanes": lanes})] if _closes(*lane_ends(mended)[lane.drive]) else []


def _eased_loop(shot: Shot) -> Finding | None:
    turns = shot.orbit.turns if shot.orbit else 0
    if shot.clock.span != "loop" or turns == 0 or shot.ease == "linear":
        return None
    near = 1e-3
    a, b, c, d = Easing.parse(shot.ease)(np.array([0, near, 1 - near, 1.0]))
    if max(b - a, d - c) / near > STILL:
        return None
    return Finding(
        "eased-loop",
        f"{shot.ease} lets the turn stand nearly still at the seam of the loop",
        "It stops once every time it goes round.",
        (Mend("Turn evenly", {"ease": "linear"}),),
    )


def _slow_rate(shot: Shot) -> Finding | None:
    clock = shot.clock.clock()
    if clock.playback.fps >= SMOOTH_FPS or clock.frames == 1:
        return None
    mends = [_rate_mend(shot, rate) for rate in ("24", "30")]
    if clock.rate.fps >= SMOOTH_FPS:
        mends = [Mend(f"Play every frame, at {clock.rate.label}", {"clock": {"every": 1, "speed": 1}})]
    return Finding(
        "choppy",
        f"{clock.playback.label} is fewer than about {SMOOTH_FPS} frames a second",
        "Motion will look choppy.",
        tuple(mends),
    )


def _long_holds(shot: Shot) -> Finding | None:
    clock = shot.clock.clock()
    held = clock.picks.hold_start + clock.picks.hold_end
    moving = len(clock.picks.moving(clock.motion))
    if held <= moving:
        return None
    return Finding(
        "long-holds",
        f"{counted(held, 'frame')} stand still, and {moving:,} move",
        "The video will seem to hang.",
        (Mend("Leave the holds out", {"clock": {"hold_start": 0, "hold_end": 0}}),),
    )


def _odd_rate(shot: Shot) -> Finding | None:
    rate = shot.clock.clock().rate
    usual = rate.fps.denominator == 1 or rate.fps * 1001 % 1000 == 0 or rate.fps in (Fraction(25, 2), Fraction(15, 2))
    if usual and rate.fps <= FASTEST_USUAL:
        return None
    nearest = sorted((abs(Fraction(whole) - rate.fps), whole) for whole in (24, 25, 30, 50, 60, 120))[:2]
    return Finding(
        "odd-rate",
        f"{rate.label} is no usual rate",
        "Some players and editors will drop or double frames of it.",
        tuple(_rate_mend(shot, str(whole)) for _, whole in nearest),
    )


def _rate_mend(shot: Shot, rate: str) -> Mend:
    """Another rate, for the same length."""
    clock: dict[str, Any] = {"rate": rate}
    if shot.clock.frames is not None:
        seconds = shot.clock.frames / shot.clock.clock().rate.fps
        clock["frames"] = max(nearest_whole(seconds * Rate.parse(rate).fps), 1)
    return Mend(f"Make it {rate} fps", {"clock": clock})


def _keys_outside(shot: Shot) -> list[Finding]:
    clock, found = shot.clock.clock(), []
    for number, lane in enumerate(shot.lanes):
        keys = keys_of(lane, clock)
        if not keys or (keys[0].at >= 0 and keys[-1].at <= 1 + 1e-9):
            continue
        odd = keys[0] if keys[0].at < 0 else keys[-1]
        place = f"{lane.keys[keys.index(odd)][0]:g}"
        where = "before the beginning" if odd.at < 0 else "after the end"
        found.append(
            Finding(
                "key-outside",
                f"a key of {lane.name} stands at {lane.at} {place}, {where} of the shot",
                "It will not be reached.",
                (Mend("Fit the keys into the shot", {"lanes": _fitted(shot, number, keys)}),),
            )
        )
    return found


def _fitted(shot: Shot, number: int, keys: list[Key]) -> list[dict[str, Any]]:
    """All lanes, one of them with its keys drawn together between the ends of the shot."""
    lanes = [lane.model_dump(mode="json", exclude_defaults=True) for lane in shot.lanes]
    lane, whole = shot.lanes[number], whole_shot(shot.lanes[number], shot.clock.clock())
    low, high = min(keys[0].at, 0), max(keys[-1].at, 1)
    places = [(key.at - low) / (high - low) * whole for key in keys]
    lanes[number]["keys"] = [[place, *key[1:]] for place, key in zip(places, lane.keys, strict=True)]
    return lanes
