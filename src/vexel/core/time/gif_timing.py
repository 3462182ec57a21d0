"""Frame delays on a GIF's clock, which counts whole hundredths of a second (GIF89a)."""

from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

from vexel.core.time.clock import Clock, decimal, nearest_whole

SHORTEST_KEPT = 2
"""Delays below this many hundredths are slowed down to about ten by most players (common practice)."""


@dataclass(frozen=True)
class GifTiming:
    """Delay of every frame in hundredths of a second, and what rounding did.

    Attributes
    ----------
    hundredths : tuple of int
    note : str
        Empty when the rate is kept exactly.
    """

    hundredths: tuple[int, ...]
    note: str

    @property
    def seconds(self) -> Fraction:
        """Total duration that the file will have."""
        return Fraction(sum(self.hundredths), 100)


def gif_timing(clock: Clock) -> GifTiming:
    """Spread whole delays so that every frame starts within half a hundredth of its instant."""
    each = 100 / clock.rate.fps
    starts = [nearest_whole(i * each) for i in range(clock.frames + 1)]
    hundredths = tuple(max(b - a, 1) for a, b in pairwise(starts))
    notes = []
    if each.denominator != 1:
        kinds = " and ".join(f"0.{d:02d}" for d in sorted(set(hundredths)))
        notes.append(
            f"GIF delays are whole hundredths of a second: {clock.rate.label} wants "
            f"{decimal(each / 100, 5)} s per frame and gets {kinds} s, distributed so that the total is exact"
        )
    if min(hundredths) < SHORTEST_KEPT:
        notes.append("delays of 0.01 s are played as about 0.10 s by most players: use 50 fps or fewer")
    return GifTiming(hundredths, "; ".join(notes))
