"""Preflight: what is off in a shot before it is captured, each finding with its mend."""

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from vexel.core.clock import decimal, nearest_whole
from vexel.core.motion import ends_of
from vexel.core.picture import even_sides
from vexel.core.plan import SourceFacts, pace_of
from vexel.core.reckon import stray
from vexel.core.shot import Shot
from vexel.core.source_plan import StillsSource
from vexel.core.terms import whole_lengths


@dataclass(frozen=True)
class Mend:
    """What one press does: a label, and a merge patch (RFC 7396) of the shot document."""

    label: str
    patch: dict[str, Any]


@dataclass(frozen=True)
class Finding:
    """Something off: what, what it would cost, and how to mend it."""

    name: str
    what: str
    cost: str
    mends: tuple[Mend, ...] = field(default=())


def preflight(shot: Shot) -> list[Finding]:
    """All findings of a shot."""
    found = [_length(shot), _turn_seam(shot), *_lane_seams(shot), _odd_size(shot)]
    return [finding for finding in found if finding is not None]


def _length(shot: Shot) -> Finding | None:
    if stray(shot.clock) == 0:
        return None
    clock, stated = shot.clock.clock(), Fraction(repr(shot.clock.seconds))
    return Finding(
        "length-not-whole",
        f"{shot.clock.seconds:g} s at {clock.rate.label} is not a whole number of frames",
        f"The video will last {decimal(clock.seconds)} s, {clock.frames:,} frames.",
        (
            Mend(f"State it as {clock.frames:,} frames", {"clock": {"frames": clock.frames, "seconds": None}}),
            *(_length_mend(length, clock.rate.fps) for length in whole_lengths(clock.rate.fps, stated)),
        ),
    )


def _length_mend(length: Fraction, fps: Fraction) -> Mend:
    """A whole length, stated in seconds where a short decimal says it exactly."""
    seconds, frames = float(length), int(length * fps)
    patch = (
        {"seconds": seconds, "frames": None}
        if Fraction(repr(seconds)) == length
        else {"frames": frames, "seconds": None}
    )
    return Mend(f"Make it {decimal(length)} s", {"clock": patch})


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
    found = []
    for number, lane in enumerate(shot.lanes):
        first, last = ends_of(shot, lane)
        if abs(first - last) <= 1e-9 * max(abs(first), abs(last), 1):
            continue
        found.append(
            Finding(
                "lane-does-not-close",
                f"{lane.dial or lane.drive} ends at {last:g} but begins at {first:g}",
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
    first, last = ends_of(mended, mended.lanes[number])
    return [Mend("Go there and back", {"lanes": lanes})] if first == last else []


def _odd_size(shot: Shot) -> Finding | None:
    picture = shot.picture
    width, height = even_sides(picture.width, picture.height)
    if (width, height) == (picture.width, picture.height):
        return None
    return Finding(
        "odd-size",
        f"{picture.width} × {picture.height} has an odd side",
        "H.264 video in 4:2:0 needs even sides; the frames could only become a GIF.",
        (Mend(f"Make it {width} × {height}", {"picture": {"width": width, "height": height}}),),
    )


def source_findings(shot: Shot, facts: SourceFacts) -> list[Finding]:
    """What is odd about a source, and where the shot does not fit it."""
    found = [Finding("odd-source", what, "", _gap_mends(shot, what)) for what in facts.findings]
    return [*found, *_other_length(shot, facts), *_uneven_pace(shot, facts)]


def _gap_mends(shot: Shot, what: str) -> tuple[Mend, ...]:
    if not isinstance(shot.source, StillsSource) or shot.source.gaps != "refuse" or "missing" not in what:
        return ()
    return (
        Mend("Hold the picture before", {"source": {"gaps": "hold"}}),
        Mend("Blend the neighbours", {"source": {"gaps": "blend"}}),
    )


def _other_length(shot: Shot, facts: SourceFacts) -> list[Finding]:
    """A shot that shows less or more than a source of fixed pictures has."""
    slots, clock = facts.slots, shot.clock.clock()
    if slots is None or slots.times:
        return []
    needed = slots.count if not slots.rate else nearest_whole(slots.count / Fraction(slots.rate) * clock.rate.fps)
    if abs(clock.frames - needed) < 1:
        return []
    last, _ = slots.at(clock.frames - 1, clock.instant(clock.frames - 1).seconds)
    if clock.frames > needed:
        what = f"the source ends after {needed:,} frames, the shot has {clock.frames:,}"
        cost = "Its last picture will stand still for the rest."
    else:
        what = f"the shot ends with picture {last + 1:,} of {slots.count:,}"
        cost = "The rest will not be seen."
    mend = Mend(f"Take all, {needed:,} frames", {"clock": {"frames": needed, "seconds": None}})
    return [Finding("other-length", what, cost, (mend,))]


def _uneven_pace(shot: Shot, facts: SourceFacts) -> list[Finding]:
    pace = pace_of(shot, facts)
    if pace is None or pace.steps_a_frame.denominator == 1:
        return []
    mends = [
        Mend(
            f"{(even / pace.rate / pace.step).numerator:,} steps a frame, pace {decimal(even)}",
            {"source": {"pace": float(even)}},
        )
        for even in pace.even_paces()
    ]
    return [Finding("uneven-pace", pace.told, "Very quick motion may look unsteady.", tuple(mends))]
