"""Preflight of the lanes: loops that do not close, keys that are not reached, motion that ends before its shot."""

from fractions import Fraction
from typing import Any

import numpy as np

from vexel.core.document.shot import Shot
from vexel.core.edits.trim_to_motion import last_place, trim_at, trim_to_motion
from vexel.core.evaluate.lane_sampling import closes, keys_of, lane_ends, lane_tracks, shot_phases, whole_shot
from vexel.core.evaluate.rigs import rig_of
from vexel.core.finding import Finding, Fix
from vexel.core.lanes.dial import Dial
from vexel.core.lanes.easing import Easing
from vexel.core.lanes.lane import Key
from vexel.core.time.clock import nearest_whole
from vexel.core.wording import counted

STILL = 0.2
"""A loop that passes its seam at less than this share of its mean speed seems to stop there."""


def lane_findings(shot: Shot) -> list[Finding]:
    """What is off with a shot's lanes, as far as its document tells."""
    eased = _eased_loop(shot)
    return [*_lane_seams(shot), *([eased] if eased else []), *_keys_outside(shot)]


def motion_ends_early(shot: Shot) -> list[Finding]:
    """A shot whose motion ends at its last key; for a source that does not depend on time."""
    moves = shot.orbit is not None and shot.orbit.all_turns > 0
    moves = moves or shot.camera.rig.traits.travels
    simple = all(lane.repeat == 1 and not lane.back and not lane.offset for lane in shot.lanes)
    clock = shot.clock.exact
    if moves or not shot.lanes or not simple or clock.span == "loop":
        return []
    end = last_place(shot)
    last = nearest_whole(Fraction(end) * clock.steps)
    if end >= 1 or last >= clock.motion - 1:
        return []
    still = clock.motion - 1 - last
    return [
        Finding(
            "motion-ends-early",
            f"The motion ends at frame {last:,}, but the shot continues to {clock.motion - 1:,}",
            f"{counted(still, 'frame')} at the end will be identical.",
            (Fix(f"End there, {counted(last + 1, 'frame')}", trim_at(shot, clock, end, last + 1)),),
        )
    ]


def _lane_seams(shot: Shot) -> list[Finding]:
    if shot.clock.span != "loop":
        return []
    found, ends = [], lane_ends(shot)
    for number, lane in enumerate(shot.lanes):
        first, last = ends[lane.drive]
        if closes(first, last):
            continue
        found.append(
            Finding(
                "lane-does-not-close",
                f"Lane {lane.name} ends at {last:g} but begins at {first:g}, {abs(last - first):g} away",
                "The loop will jump at its seam.",
                (*_back(shot, number), Fix("Play it once, with both ends", {"clock": {"span": "ends"}})),
            )
        )
    return found


def _back(shot: Shot, number: int) -> list[Fix]:
    """Let a lane play back and forth, where that closes it."""
    lane = shot.lanes[number]
    if lane.back or not lane.keys:
        return []
    lanes = [other.model_dump(mode="json", exclude_defaults=True) for other in shot.lanes]
    lanes[number]["back"] = True
    # A lane with keys follows no other.
    fixed = shot.model_copy(update={"lanes": [lane.model_copy(update={"back": True})]})
    return [Fix("Play it back and forth", {"lanes": lanes})] if closes(*lane_ends(fixed)[lane.drive]) else []


def _eased_loop(shot: Shot) -> Finding | None:
    turns = shot.orbit.all_turns if shot.orbit else 0
    if shot.orbit is None or shot.clock.span != "loop" or turns == 0 or {shot.ease, shot.orbit.ease} == {"linear"}:
        return None
    near = 1e-3
    # The turntable's own easing and that of the shot, one upon the other, as the rig turns by both.
    turned = rig_of(shot.camera).turns(shot_phases(shot, np.array([0, near, 1 - near, 1.0])))
    a, b, c, d = np.abs([turned.camera, turned.subject, turned.light]).sum(axis=0) / 360 / turns
    if max(b - a, d - c) / near > STILL:
        return None
    eased = [ease for ease in (shot.ease, shot.orbit.ease) if ease != "linear"]
    even: dict[str, Any] = {} if shot.ease == "linear" else {"ease": "linear"}
    even |= {} if shot.orbit.ease == "linear" else {"camera": {"rig": {"ease": "linear"}}}
    names = " and ".join(eased)
    which = f"The easings {names} bring" if eased[1:] else f"The easing {names} brings"
    return Finding(
        "eased-loop",
        f"{which} the turn almost to a stop at the seam of the loop",
        "It stops once per turn.",
        (Fix("Turn at constant speed", even),),
    )


def _keys_outside(shot: Shot) -> list[Finding]:
    clock, found = shot.clock.exact, []
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
                f"A key of lane {lane.name} is at {lane.at} {place}, {where} of the shot",
                "It will not be reached.",
                (
                    Fix("Fit the keys into the shot", {"lanes": _fitted(shot, number, keys)}),
                    *(_lengthened(shot) if keys[0].at >= 0 else ()),
                ),
            )
        )
    return found


def _lengthened(shot: Shot) -> list[Fix]:
    end = trim_to_motion(shot)
    if end is None or end[0] <= shot.clock.exact.motion:
        return []
    return [Fix(f"End with the motion, {counted(end[0], 'frame')}", end[1])]


def _fitted(shot: Shot, number: int, keys: list[Key]) -> list[dict[str, Any]]:
    """All lanes, one of them with its keys drawn together between the ends of the shot."""
    lanes = [lane.model_dump(mode="json", exclude_defaults=True) for lane in shot.lanes]
    lane, whole = shot.lanes[number], whole_shot(shot.lanes[number], shot.clock.exact)
    low, high = min(keys[0].at, 0), max(keys[-1].at, 1)
    places = [(key.at - low) / (high - low) * whole for key in keys]
    lanes[number]["keys"] = [[place, *key[1:]] for place, key in zip(places, lane.keys, strict=True)]
    return lanes


def clipped_lanes(shot: Shot, dials: tuple[Dial, ...]) -> list[Finding]:
    """Lanes that swing past what their dials take, so that they are cut off there."""
    tracks, found = lane_tracks(shot, shot.clock.exact.phases()), []
    for number, lane in enumerate(shot.lanes):
        dial = next((dial for dial in dials if lane.drive == f"dial:{dial.name}"), None)
        if dial is None:
            continue
        values = tracks[lane.drive]
        slack = 1e-9 * max(abs(dial.low), abs(dial.high), 1)
        cut = int(((values < dial.low - slack) | (values > dial.high + slack)).sum())
        if cut == 0:
            continue
        most = float(values.max()) if values.max() > dial.high else float(values.min())
        found.append(
            Finding(
                "lane-cut-off",
                f"Lane {dial.name} overshoots to {most:.4g}, but its dial ranges from {dial.low:g} to {dial.high:g}",
                f"It is cut off there for {counted(cut, 'frame')}.",
                (Fix("Use easings without overshoot", {"lanes": _without_swing(shot, number)}),) if lane.keys else (),
            )
        )
    return found


def _without_swing(shot: Shot, number: int) -> list[dict[str, Any]]:
    """All lanes, one of them with easings that stay between its keys."""
    lanes = [lane.model_dump(mode="json", exclude_defaults=True) for lane in shot.lanes]
    lane = shot.lanes[number]
    lanes[number]["ease"] = lane.ease if _stays(lane.ease) else "ease-out"
    lanes[number]["keys"] = [
        [*key[:2], *(key[2:] if len(key) == 2 or _stays(key[2]) else ("ease-out",))] for key in lane.keys
    ]
    return lanes


def _stays(easing: str) -> bool:
    values = Easing.parse(easing)(np.linspace(0, 1, 257))
    return bool(values.min() >= -1e-9 and values.max() <= 1 + 1e-9)
