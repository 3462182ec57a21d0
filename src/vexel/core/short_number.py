"""Numbers as people would write them into a document."""

from math import ceil, log10

DECIMALS = 4
"""Fewest decimals that are kept: of map coordinates in metres, tenths of a millimetre."""


def short(value: float) -> float:
    """A number with six significant digits, or with four decimals where these are more; never minus zero."""
    return max((float(f"{value:.6g}"), round(float(value), DECIMALS)), key=lambda near: -abs(near - value)) + 0.0


def round_to(value: float, grain: float) -> float:
    """A number with as few decimals as keep it within a grain, which is above 0."""
    return round(float(value), ceil(-log10(grain))) + 0.0
