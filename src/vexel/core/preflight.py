"""Preflight: what is off in a shot before it is captured, each finding with its mend."""

from fractions import Fraction

from vexel.core.clock import decimal, nearest_whole
from vexel.core.finding import Finding, Mend
from vexel.core.picture import even_sides
from vexel.core.plan import SourceFacts, pace_of
from vexel.core.preflight_time import motion_ends_early, time_findings
from vexel.core.shot import Shot
from vexel.core.source_plan import StillsSource


def preflight(shot: Shot) -> list[Finding]:
    """All findings of a shot."""
    size = _odd_size(shot)
    return [*time_findings(shot), *([size] if size else [])]


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
    early = [] if facts.sees else motion_ends_early(shot)
    return [*found, *_other_length(shot, facts), *_uneven_pace(shot, facts), *early]


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
    if abs(clock.motion - needed) < 1:
        return []
    last, _ = slots.at(clock.motion - 1, (clock.motion - 1) / clock.rate.fps)
    if clock.motion > needed:
        what = f"the source ends after {needed:,} frames, the shot has {clock.motion:,}"
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
