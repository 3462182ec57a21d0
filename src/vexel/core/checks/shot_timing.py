"""The timing: every computed number of a clock with its unit and its reason."""

from dataclasses import dataclass
from fractions import Fraction

from vexel.core.document.camera_spec import CameraSpec
from vexel.core.document.clock_spec import ClockSpec
from vexel.core.document.rig_spec import OrbitSpec
from vexel.core.time.audio_samples import audio_derivation
from vexel.core.time.clock import Clock, decimal, nearest_whole
from vexel.core.time.timecode import has_timecode, timecode
from vexel.core.wording import counted, ordinal


@dataclass(frozen=True)
class ShotTiming:
    """Figures of one clock.

    Attributes
    ----------
    rate, rate_label : str
        Exact text, and a readable label.
    motion, frames : int
        Frames of the whole motion, and those that are shown.
    steps, own_steps : int
        Equal steps from phase 0 to 1, and how many of the motion's own time,
        which differ where it is retimed.
    playback, playback_label : str
        The rate at which the frames are played, exact and as a label.
    seconds : str
        True duration, exact, as text.
    seconds_label : str
    given : str
        Which length was stated, ``seconds`` or ``frames``; the other follows.
    degrees_a_frame : float or None
        How far the camera turns from one frame to the next.
    sound : str
        Samples of sound a frame, at 48 kHz.
    timecode : str
        Timecode of the end, or empty where the rate has none.
    reasons : tuple of str
        Derivations, one sentence each.
    """

    rate: str
    rate_label: str
    motion: int
    frames: int
    steps: int
    own_steps: int
    playback: str
    playback_label: str
    seconds: str
    seconds_label: str
    given: str
    span: str
    degrees_a_frame: float | None
    sound: str
    timecode: str
    reasons: tuple[str, ...]


def shot_timing(plan: ClockSpec, orbit: OrbitSpec | None = None, camera: CameraSpec | None = None) -> ShotTiming:
    """Work out the figures of a clock, of an orbit timed by it, and of a walk that times it."""
    clock = plan.exact
    reasons = [_length_reason(plan, clock), _span_reason(clock), *_motion_reasons(clock), *_shown_reasons(plan, clock)]
    if camera is not None and (derivation := camera.rig.derivation(camera.views, clock.rate, clock.span)):
        reasons.insert(0, derivation)
    if clock.rate.note:
        reasons.append(clock.rate.note)
    step = None
    if orbit is not None:
        step = orbit.all_turns * 360 / clock.steps
        reasons.append(f"{orbit.all_turns:g} × 360° ÷ {clock.steps:,} steps = {step:.4g}° per frame")
    return ShotTiming(
        rate=str(clock.rate),
        rate_label=clock.rate.label,
        motion=clock.motion,
        frames=clock.frames,
        steps=clock.steps,
        own_steps=clock.own_steps,
        playback=str(clock.playback),
        playback_label=clock.playback.label,
        seconds=str(clock.seconds),
        seconds_label=f"{decimal(clock.seconds)} s",
        given="seconds" if plan.frames is None else "frames",
        span=clock.span,
        degrees_a_frame=step,
        sound=audio_derivation(clock.playback),
        timecode=timecode(clock.frames, clock.playback) if has_timecode(clock.playback) else "",
        reasons=tuple(reasons),
    )


def stray(plan: ClockSpec) -> Fraction:
    """How far ``rate × seconds`` is from a whole number of frames, in frames."""
    if plan.seconds is None:
        return Fraction(0)
    exact = plan.exact.rate.fps * Fraction(repr(plan.seconds))
    return exact - nearest_whole(exact)


def _length_reason(plan: ClockSpec, clock: Clock) -> str:
    lasting, count = decimal(clock.motion / clock.rate.fps), counted(clock.motion, "frame")
    if plan.seconds is None:
        return f"{count} ÷ {clock.rate.label} = {lasting} s"
    stated = decimal(Fraction(repr(plan.seconds)))
    if stray(plan) == 0:
        return f"{clock.rate.label} × {stated} s = {count}"
    exact = decimal(clock.rate.fps * Fraction(repr(plan.seconds)))
    return f"{clock.rate.label} × {stated} s = {exact}, rounded to {count}, which last {lasting} s"


def _span_reason(clock: Clock) -> str:
    if clock.span == "loop":
        return f"Loop: the end counts as the beginning, so frame {clock.motion + 1:,} is left out"
    if clock.motion == 1:
        return "ends: a single frame is both first and last"
    return f"Ends: first and last are both shown, {counted(clock.motion, 'frame')} make {clock.steps:,} steps"


def _motion_reasons(clock: Clock) -> list[str]:
    """How the motion is retimed, and how long each frame looks."""
    reasons = []
    if clock.own is not None and clock.own != clock.motion:
        pace = decimal(Fraction(clock.own_steps, clock.steps))
        reasons.append(
            f"Retimed: {counted(clock.own, 'frame')} of the motion's own time over {clock.motion:,}, "
            f"{pace} × its speed; "
            "first and last stay"
        )
    if clock.shutter.is_open:
        share, rate = clock.shutter.opening, clock.rate.fps
        reasons.append(
            f"Shutter {clock.shutter.label} ÷ 360° = {decimal(share)} of a frame, "
            f"{decimal(share / rate * clock.selection.every)} s, {clock.shutter.sits}"
        )
    return reasons


def _shown_reasons(plan: ClockSpec, clock: Clock) -> list[str]:
    """Which part of the motion is shown, and how it is played; nothing where all of it is played forward."""
    picks, moving = clock.selection, clock.selection.moving(clock.motion)
    reasons = []
    if len(moving) != clock.motion:
        nth = "" if picks.every == 1 else f", every {ordinal(picks.every)}"
        full = decimal(len(moving) / clock.rate.fps)
        pace = decimal(len(moving) * picks.every / clock.rate.fps)
        both = "" if picks.every == 1 else f": {pace} s at the motion's pace, {full} s played at {clock.rate.label}"
        reasons.append(f"Frames {moving[0]:,} to {moving[-1]:,}{nth} = {counted(len(moving), 'frame')}{both}")
    running = picks.running(clock.motion)
    if picks.order == "backward":
        reasons.append(f"Backward: from frame {moving[-1]:,} to {moving[0]:,}")
    elif picks.order == "there-and-back":
        less = "2, since neither end is shown twice" if picks.closes else "1, since the last is shown once"
        reasons.append(f"Ping-pong: 2 × {len(moving):,} − {less} = {counted(running, 'frame')}")
    if picks.hold_start or picks.hold_end:
        reasons.append(
            f"{picks.hold_start:,} held + {running:,} + {picks.hold_end:,} held = {counted(clock.frames, 'frame')}"
        )
    if reasons or clock.played is not None:
        slower = "" if plan.speed == 1 else f", {plan.speed:g} × as fast as captured,"
        reasons.append(
            f"{counted(clock.frames, 'frame')} ÷ {clock.playback.label}{slower} = {decimal(clock.seconds)} s of video"
        )
    if clock.repeats > 1:
        every, seconds = clock.frames * clock.repeats, decimal(clock.seconds * clock.repeats)
        once = f"{counted(clock.frames, 'frame')} × {clock.repeats:,} plays"
        reasons.append(f"{once} = {counted(every, 'frame')} in a video file, {seconds} s")
    return reasons
