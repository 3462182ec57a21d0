"""The reckoning: every computed number of a clock with its unit and its reason."""

from dataclasses import dataclass
from fractions import Fraction

from vexel.core.clock import Clock, decimal, nearest_whole
from vexel.core.shot import ClockPlan, OrbitPlan
from vexel.core.timecode import has_timecode, timecode


@dataclass(frozen=True)
class Reckoning:
    """Figures of one clock.

    Attributes
    ----------
    rate, rate_label : str
        Exact text, and as people say it.
    frames : int
    seconds : str
        True duration, exact, as text.
    seconds_label : str
    given : str
        Which length was stated, ``seconds`` or ``frames``; the other follows.
    degrees_a_frame : float or None
        How far the camera turns from one frame to the next.
    timecode : str
        Timecode of the end, or empty where the rate has none.
    reasons : tuple of str
        Derivations, one sentence each.
    """

    rate: str
    rate_label: str
    frames: int
    seconds: str
    seconds_label: str
    given: str
    span: str
    degrees_a_frame: float | None
    timecode: str
    reasons: tuple[str, ...]


def reckon(plan: ClockPlan, orbit: OrbitPlan | None = None) -> Reckoning:
    """Work out the figures of a clock, and of an orbit timed by it."""
    clock = plan.clock()
    reasons = [_length_reason(plan, clock), _span_reason(clock)]
    if clock.rate.note:
        reasons.append(clock.rate.note)
    step = None
    if orbit is not None:
        step = orbit.turns * 360 / clock.steps
        reasons.append(f"{orbit.turns:g} × 360° ÷ {clock.steps:,} steps = {step:.4g}° a frame")
    return Reckoning(
        rate=str(clock.rate),
        rate_label=clock.rate.label,
        frames=clock.frames,
        seconds=str(clock.seconds),
        seconds_label=f"{decimal(clock.seconds)} s",
        given="seconds" if plan.frames is None else "frames",
        span=clock.span,
        degrees_a_frame=step,
        timecode=timecode(clock.frames, clock.rate) if has_timecode(clock.rate) else "",
        reasons=tuple(reasons),
    )


def stray(plan: ClockPlan) -> Fraction:
    """How far ``rate × seconds`` is from a whole number of frames, in frames."""
    if plan.seconds is None:
        return Fraction(0)
    exact = plan.clock().rate.fps * Fraction(repr(plan.seconds))
    return exact - nearest_whole(exact)


def _length_reason(plan: ClockPlan, clock: Clock) -> str:
    if plan.seconds is None:
        return f"{clock.frames:,} frames ÷ {clock.rate.label} = {decimal(clock.seconds)} s"
    stated = decimal(Fraction(repr(plan.seconds)))
    if stray(plan) == 0:
        return f"{clock.rate.label} × {stated} s = {clock.frames:,} frames"
    exact = decimal(clock.rate.fps * Fraction(repr(plan.seconds)))
    return (
        f"{clock.rate.label} × {stated} s = {exact}, rounded to {clock.frames:,} frames, "
        f"which last {decimal(clock.seconds)} s"
    )


def _span_reason(clock: Clock) -> str:
    if clock.span == "loop":
        return f"loop: frame {clock.frames + 1:,} would repeat the first, so it is left out"
    if clock.frames == 1:
        return "ends: a single frame is both first and last"
    return f"ends: first and last are both shown, {clock.frames:,} frames make {clock.steps:,} steps"
