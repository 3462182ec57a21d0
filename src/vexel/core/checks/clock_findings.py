"""Preflight of the clock: counts, rates and lengths that are off."""

from fractions import Fraction
from typing import Any

from vexel.core.checks.shot_timing import stray
from vexel.core.document.rig_spec import OrbitSpec
from vexel.core.document.shot import Shot
from vexel.core.evaluate.lane_sampling import closes, lane_ends
from vexel.core.finding import Finding, Fix
from vexel.core.recipes.shipped import RECIPES
from vexel.core.time.clock import Clock, decimal, nearest_whole
from vexel.core.time.gif_timing import SHORTEST_KEPT
from vexel.core.time.rate import Rate
from vexel.core.time.term_solver import whole_lengths
from vexel.core.wording import counted

SMOOTH_FPS, SLOWED_FPS = 15, 20
"""Below these rates motion looks choppy: as captured, and played more slowly than captured (common practice)."""
FASTEST_USUAL = 120
ROUGH_STEP, EVEN_STEP = 20, 2
"""A step in degrees with a larger denominator is no step that was meant; one with so small a denominator may be."""
FEWEST_LOOKS = 8
"""With fewer looks than this, an open shutter shows single pictures, and no blur (common practice)."""


def clock_findings(shot: Shot) -> list[Finding]:
    """What is off with a shot's clock, as far as its document tells."""
    found = [
        _length(shot),
        _repeated_end(shot),
        _one_too_many(shot),
        _turn_seam(shot),
        _slow_rate(shot),
        _odd_rate(shot),
    ]
    found += [_long_holds(shot), _few_looks(shot)]
    return [finding for finding in found if finding is not None]


def _length(shot: Shot) -> Finding | None:
    if stray(shot.clock) == 0:
        return None
    clock, stated = shot.clock.exact, Fraction(repr(shot.clock.seconds))
    return Finding(
        "length-not-whole",
        f"{shot.clock.seconds:g} s at {clock.rate.label} is not a whole number of frames",
        f"The motion will last {decimal(clock.motion / clock.rate.fps)} s, {counted(clock.motion, 'frame')}.",
        (
            Fix(f"State it as {counted(clock.motion, 'frame')}", {"clock": {"frames": clock.motion, "seconds": None}}),
            *(_length_fix(length, clock.rate.fps) for length in whole_lengths(clock.rate.fps, stated)),
        ),
    )


def _length_fix(length: Fraction, fps: Fraction) -> Fix:
    """A whole length, stated in seconds where a short decimal is exact."""
    seconds, frames = float(length), int(length * fps)
    exact = Fraction(repr(seconds)) == length
    patch = {"seconds": seconds, "frames": None} if exact else {"frames": frames, "seconds": None}
    return Fix(f"Make it {decimal(length)} s", {"clock": patch})


def _repeated_end(shot: Shot) -> Finding | None:
    """The classic of the turntable: 361 frames for a turn of 360."""
    clock, turns = shot.clock.exact, shot.orbit.all_turns if shot.orbit else 0
    comes_round = (
        shot.orbit is not None
        and turns > 0
        and not _left_over(shot, shot.orbit)
        and all(closes(*ends) for ends in lane_ends(shot).values())
    )
    if clock.span == "loop" or clock.motion < 3 or not comes_round:
        return None
    return Finding(
        "last-repeats-first",
        f"{clock.motion:,} frames: the last repeats the first",
        "Played as a loop, it will stutter once per turn.",
        (
            Fix(
                f"Leave it out, {clock.motion - 1:,} frames",
                {"clock": {"span": "loop", "frames": clock.motion - 1, "seconds": None}},
            ),
        ),
    )


def _one_too_many(shot: Shot) -> Finding | None:
    """A loop of 361 frames: nearly always meant as 360, of which the 361st would be the first again."""
    clock, turns = shot.clock.exact, shot.orbit.all_turns if shot.orbit else 0
    if shot.clock.span != "loop" or not turns or round(turns) != turns or clock.motion < 3:
        return None
    now, then = (Fraction(360 * round(turns), count) for count in (clock.motion, clock.motion - 1))
    if now.denominator <= ROUGH_STEP or then.denominator > EVEN_STEP:
        return None
    return Finding(
        "one-too-many",
        f"{clock.motion:,} frames turn {decimal(now, 4)}° each, {clock.motion - 1:,} would be exactly {decimal(then)}°",
        "In a loop no frame repeats the first, so none needs to be added.",
        (Fix(f"Make it {clock.motion - 1:,} frames", {"clock": {"frames": clock.motion - 1, "seconds": None}}),),
    )


def _turn_seam(shot: Shot) -> Finding | None:
    if shot.orbit is None or shot.clock.span != "loop":
        return None
    turns, left = shot.orbit.turns, _left_over(shot, shot.orbit)
    if left == 0:
        return None
    fixes = [Fix("Play it once, with both ends", {"clock": {"span": "ends"}})]
    if not shot.orbit.followed_by and round(turns) > 0:
        fixes.insert(0, _turns_fix(round(turns)))
    what = f"{turns:g} turns leave the {shot.orbit.what}"
    if shot.orbit.followed_by:
        what = "The turns one after another leave the picture"
    return Finding(
        "turn-does-not-close",
        f"{what} {left * 360:g}° from where it began",
        "The loop will jump at its seam.",
        tuple(fixes),
    )


def _left_over(shot: Shot, orbit: OrbitSpec) -> float:
    """Share of a turn by which the end of a turntable's plan differs from its beginning.

    The picture is the same when camera and light stand to the subject as they
    did; a light that goes with the camera is turned by itself.
    """
    whole = {"camera": 0.0, "subject": 0.0, "light": 0.0}
    for step in orbit.steps:
        whole[step.what] += step.turns * (1 if step.direction == "ccw" else -1)
    light = whole["light"] - (whole["subject"] if shot.light.stands == "world" else 0.0)
    gaps = [abs(turns - round(turns)) for turns in (whole["camera"] - whole["subject"], light)]
    return max(round(gap, 9) for gap in gaps)


def _turns_fix(turns: int) -> Fix:
    label = "Turn once" if turns == 1 else f"Turn {turns} times"
    return Fix(label, {"camera": {"rig": {"turns": turns}}})


def _slow_rate(shot: Shot) -> Finding | None:
    clock = shot.clock.exact
    slowed = clock.playback.fps < clock.rate.fps
    limit = SLOWED_FPS if slowed else SMOOTH_FPS
    if clock.playback.fps >= limit or clock.frames == 1:
        return None
    fixes = [_rate_fix(shot, Fraction(rate)) for rate in (24, 30)]
    if slowed and clock.rate.fps >= limit:
        fixes = [Fix(f"Play every frame, at {clock.rate.label}", {"clock": {"every": 1, "speed": 1}})]
        if shot.clock.every == 1 and not shot.camera.rig.traits.times_shot:
            fixes.insert(0, _more_frames(clock))
    return Finding(
        "choppy",
        f"{clock.playback.label} is fewer than about {limit} frames per second",
        "Motion will look choppy.",
        tuple(fixes),
    )


def _more_frames(clock: Clock) -> Fix:
    """The same slow motion with as many frames as the full rate needs."""
    steps = nearest_whole(clock.steps * clock.rate.fps / clock.playback.fps)
    frames = steps + (clock.motion - clock.steps)
    patch = {
        "speed": 1, "frames": frames, "seconds": None, "retimed_from": clock.own or clock.motion, "first": 0,
        "last": None,
    }  # fmt: skip
    return Fix(f"Capture it as slowly, {counted(frames, 'frame')} at {clock.rate.label}", {"clock": patch})


def _long_holds(shot: Shot) -> Finding | None:
    clock = shot.clock.exact
    held = clock.selection.hold_start + clock.selection.hold_end
    moving = clock.selection.running(clock.motion)
    if held <= moving:
        return None
    return Finding(
        "long-holds",
        f"{counted(held, 'frame')} are still, and {moving:,} move",
        "The video will seem to freeze.",
        (Fix("Remove the holds", {"clock": {"hold_start": 0, "hold_end": 0}}),),
    )


def _odd_rate(shot: Shot) -> Finding | None:
    """A rate that the kind of file cannot keep, or that players seldom meet."""
    if not RECIPES[shot.recipe].exact_rate:
        return _gif_rate(shot)
    rate = shot.clock.exact.rate
    usual = rate.fps.denominator == 1 or rate.fps * 1001 % 1000 == 0 or rate.fps in (Fraction(25, 2), Fraction(15, 2))
    if usual and rate.fps <= FASTEST_USUAL:
        return None
    nearest = sorted((abs(Fraction(whole) - rate.fps), whole) for whole in (24, 25, 30, 50, 60, 120))[:2]
    return Finding(
        "odd-rate",
        f"{rate.label} is not a common rate",
        "Some players and editors will drop or double frames of it.",
        tuple(_rate_fix(shot, Fraction(whole)) for _, whole in nearest),
    )


def _gif_rate(shot: Shot) -> Finding | None:
    """A GIF counts hundredths of a second, so it keeps 100/n fps, and players ignore the shortest delays."""
    clock = shot.clock.exact
    each = 100 / clock.playback.fps
    if each.denominator == 1 and each >= SHORTEST_KEPT:
        return None
    whole = [max(n, SHORTEST_KEPT) for n in (each.__floor__(), each.__floor__() + 1)]
    fixes = tuple(_rate_fix(shot, clock.rate.fps * Fraction(100, n) / clock.playback.fps) for n in dict.fromkeys(whole))
    if each < SHORTEST_KEPT:
        what = f"{clock.playback.label} needs delays of {decimal(each / 100)} s, which most GIF players ignore"
        return Finding("gif-rate", what, "Players then show each frame for about 0.10 s, far too slowly.", fixes[:1])
    gets = f"0.{whole[0]:02d} and 0.{whole[1]:02d} s in turn" if each < 99 else "whole hundredths of a second"
    wants = f"{decimal(each / 100, 5)} s per frame and gets {gets}"
    what = f"{clock.playback.label} cannot be kept by a GIF: it needs {wants}"
    return Finding("gif-rate", what, "The total stays true; quick motion may look slightly uneven.", fixes)


def _few_looks(shot: Shot) -> Finding | None:
    """An open shutter takes one look a sample."""
    clock, samples = shot.clock.exact, shot.picture.samples
    if not clock.shutter.is_open or samples >= FEWEST_LOOKS:
        return None
    times = f"{counted(samples, 'sample')} gives {counted(samples, 'exposure')} per frame"
    return Finding(
        "too-few-shutter-samples",
        f"A shutter of {clock.shutter.label} with {times}",
        "Fast motion will show as separate images instead of blur.",
        (Fix(f"Use {2 * FEWEST_LOOKS} samples", {"picture": {"samples": 2 * FEWEST_LOOKS}}),),
    )


def _rate_fix(shot: Shot, fps: Fraction) -> Fix:
    """Another rate, for the same length."""
    rate = Rate(fps)
    clock: dict[str, Any] = {"rate": str(rate)}
    if shot.clock.frames is not None:
        clock["frames"] = max(nearest_whole(shot.clock.frames / shot.clock.exact.rate.fps * fps), 1)
    return Fix(f"Make it {rate.label}", {"clock": clock})
