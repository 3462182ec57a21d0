"""A length that changed unasked, because the rate did and the number of frames stayed."""

from fractions import Fraction

from vexel.core.document.shot import Shot
from vexel.core.finding import Finding, Fix
from vexel.core.time.clock import decimal, nearest_whole
from vexel.core.time.rate import Rate
from vexel.core.wording import counted


def length_by_rate(shot: Shot, before: Rate) -> Finding | None:
    """What a new rate did to the length of a shot that is stated in frames.

    Parameters
    ----------
    shot : Shot
    before : Rate
        The rate that it had with the same number of frames.

    Returns
    -------
    Finding or None
        None where the length is stated in seconds, or the frames are pinned, so that they are meant to stay.
    """
    plan, clock = shot.clock, shot.clock.exact
    if plan.frames is None or "frames" in plan.pins or before.fps == clock.rate.fps:
        return None
    was, now = (Fraction(plan.frames) / rate.fps for rate in (before, clock.rate))
    frames = max(nearest_whole(was * clock.rate.fps), 1)
    slower = "slower" if now > was else "faster"
    return Finding(
        "length-by-rate",
        f"{before.label} became {clock.rate.label} with {counted(plan.frames, 'frame')} kept: "
        f"{decimal(was)} s became {decimal(now)} s",
        f"The motion will run {slower} than it did.",
        (
            Fix(f"Keep {decimal(was)} s, {counted(frames, 'frame')}", {"clock": {"frames": frames}}),
            Fix(f"Keep the {counted(plan.frames, 'frame')}", {"clock": {"pins": [*plan.pins, "frames"]}}),
        ),
    )
