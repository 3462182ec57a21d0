"""What a GIF can be made smaller by: width, colours, rate and dither, from the best looking down."""

from dataclasses import dataclass
from fractions import Fraction
from itertools import product
from math import log2
from typing import Literal

from vexel.core.recipes.recipe import Recipe
from vexel.core.time.rate import Rate

SHARES = (Fraction(1), Fraction(3, 4), Fraction(1, 2), Fraction(1, 3))
COLOURS = (256, 128, 64)
DITHERS: tuple[Literal["diffuse", "none"], ...] = ("diffuse", "none")
LEAST_SIDE, LEAST_FPS = 64, 8


@dataclass(frozen=True)
class GifOption:
    """One way to make a GIF.

    Attributes
    ----------
    long_side : int
    colours : int
    rate : str
        Empty for the take's own.
    dither : str
    """

    long_side: int
    colours: int
    rate: str
    dither: Literal["diffuse", "none"]

    def applied(self, recipe: Recipe) -> Recipe:
        """The recipe made this way, without a size to keep to."""
        size = recipe.size.model_copy(update={"width": None, "height": None, "long_side": self.long_side})
        palette = recipe.palette.model_copy(update={"colours": self.colours, "dither": self.dither})
        timing = recipe.timing.model_copy(update={"rate": self.rate or recipe.timing.rate})
        quality = recipe.quality.model_copy(update={"at_most": ""})
        return recipe.model_copy(update={"size": size, "palette": palette, "timing": timing, "quality": quality})


def gif_options(width: int, height: int, rate: Rate) -> list[GifOption]:
    """All ways, the best looking first.

    Halving the width costs the eye about as much as halving the rate twice, or
    all but an eighth of the colours (common practice).
    """
    whole = max(width, height)
    sides = dict.fromkeys(max(round(whole * share), min(LEAST_SIDE, whole)) for share in SHARES)
    half = rate.fps / 2
    rates = ["", *([f"{half.numerator}/{half.denominator}"] if half >= LEAST_FPS else [])]
    found = [
        GifOption(side, colours, slower, dither)
        for side, colours, slower, dither in product(sides, COLOURS, rates, DITHERS)
    ]
    return sorted(found, key=lambda option: worse_by(option, whole))


def worse_by(option: GifOption, whole: int) -> float:
    """By how much a way looks worse than the best, which is `whole` pixels long; in halvings of the rate."""
    worse = 2 * log2(whole / option.long_side) + 0.6 * log2(256 / option.colours)
    return worse + (1 if option.rate else 0) + (0.4 if option.dither == "none" else 0)
