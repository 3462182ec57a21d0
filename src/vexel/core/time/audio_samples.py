"""Sound against frames: how many samples belong to each frame."""

from fractions import Fraction
from itertools import pairwise

from vexel.core.time.clock import decimal, nearest_whole
from vexel.core.time.rate import Rate

USUAL = 48_000
"""Samples a second of sound for video."""


def samples_before(frame: int, rate: Rate, samples_a_second: int = USUAL) -> int:
    """The sample at which a frame begins: the nearest one, computed from the frame's number alone."""
    return nearest_whole(frame * samples_a_second / rate.fps)


def samples_per_frame(rate: Rate, samples_a_second: int = USUAL) -> tuple[int, ...]:
    """Samples of each frame, up to where the pattern starts again.

    At 30000/1001 and 48 kHz: 1602, 1601, 1602, 1601, 1602, which is 8008 in five
    (SMPTE ST 299 family).
    """
    each = samples_a_second / rate.fps
    starts = [samples_before(frame, rate, samples_a_second) for frame in range(each.denominator + 1)]
    return tuple(b - a for a, b in pairwise(starts))


def audio_derivation(rate: Rate, samples_a_second: int = USUAL) -> str:
    """The derivation in words."""
    each: Fraction = samples_a_second / rate.fps
    line = f"{samples_a_second:,} samples per second ÷ {rate.label}"
    if each.denominator == 1:
        return f"{line} = {each.numerator:,} samples per frame"
    pattern = samples_per_frame(rate, samples_a_second)
    return (
        f"{line} = {decimal(each)} samples per frame: {min(pattern):,} or {max(pattern):,} in turn, "
        f"{sum(pattern):,} in {len(pattern):,} frames"
    )
