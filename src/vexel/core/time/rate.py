"""Frame rates as exact fractions.

The decimals of the NTSC family (23.976, 29.97, 59.94 and their doubles) name
fractions over 1001 (SMPTE ST 12-1); read as decimals they would drift by a
frame in about nine hours, so they are read as what they mean and said so.
"""

import re
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache

from vexel.core.errors import Mistake

USUAL_RATE = "24"
"""Of a new shot or reel, and of media without a rate, until the user sets it."""
MAX_RATE = 1000
MIN_RATE = Fraction(1, 10_000_000)
MOST_LETTERS = 60
MAX_SOURCE_RATE = 10**9
"""Of slices of data, of which a second may hold millions."""
_FORM = re.compile(r"\s*(\d+)(?:\s*/\s*(\d+)|(\.\d+))?\s*(?:fps)?\s*")


@dataclass(frozen=True)
class Rate:
    """Frames a second, exactly.

    Attributes
    ----------
    fps : Fraction
        Frames a second, above 0.
    note : str
        How the text was read when that was not literal, else empty.
    """

    fps: Fraction
    note: str = ""

    @staticmethod
    @lru_cache(256)
    def parse(text: str, highest: int = MAX_RATE) -> "Rate":
        """Read a rate such as ``24``, ``12.5``, ``29.97`` or ``24000/1001``.

        Parameters
        ----------
        text : str
        highest : int
            `MAX_SOURCE_RATE` for what is measured and not shown.

        Raises
        ------
        Mistake
            When the text is no rate above 0 and up to the highest.
        """
        if text.strip().startswith("-"):
            raise Mistake(f"rate {text.strip()} is negative: it must be above 0, such as 24")
        form = _FORM.fullmatch(text) if len(text) <= MOST_LETTERS else None
        if form is None:
            raise Mistake(
                f"rate {text.strip()[:MOST_LETTERS]!r} is not a frame rate: write a whole number, a decimal or a "
                "fraction, such as 24, 12.5 or 30000/1001"
            )
        whole, below, decimals = form.groups()
        if below is not None and int(below) == 0:
            raise Mistake(f"rate {text.strip()!r} divides by 0: write a fraction such as 30000/1001")
        literal = Fraction(int(whole), int(below)) if below else Fraction(whole + (decimals or ""))
        if literal <= 0:
            raise Mistake("rate 0 gives no frames: it must be above 0, such as 24")
        if literal < MIN_RATE:
            raise Mistake(f"rate {text.strip()} is too low: at least one frame in {int(1 / MIN_RATE):,} seconds")
        if literal > highest:
            raise Mistake(f"rate {text.strip()} is above {highest} per second, the highest allowed")
        meant = _ntsc_meaning(literal) if decimals else None
        if meant is None:
            return Rate(literal)
        return Rate(meant, f"{text.strip()} is read as {meant.numerator}/{meant.denominator}")

    def __str__(self) -> str:
        if self.fps.denominator == 1:
            return str(self.fps.numerator)
        return f"{self.fps.numerator}/{self.fps.denominator}"

    @property
    def label(self) -> str:
        """The rate as a label, such as ``24 fps`` or ``29.97 fps``."""
        return f"{float(self.fps):.3f}".rstrip("0").rstrip(".") + " fps"


def _ntsc_meaning(decimal: Fraction) -> Fraction | None:
    """The 1000/1001 fraction that a usual decimal means, if there is one."""
    nominal = round(decimal) if decimal.denominator != 1 else 0
    if nominal == 0 or (nominal % 24 and nominal % 30):
        return None
    exact = Fraction(nominal * 1000, 1001)
    # Wide enough for 29.97, 23.98 and 119.88, which are rounded to hundredths, and far from 29.9 or 24.5.
    return exact if abs(decimal - exact) < Fraction(6, 1000) else None
