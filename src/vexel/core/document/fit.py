"""How a picture is fitted into a frame of another size."""

from typing import Literal, TypeAlias

Fit = Literal["contain", "cover", "none"]
"""The whole picture, so large that it fills the frame, or without scaling; edges beyond the frame are cut off."""
Point: TypeAlias = tuple[float, float]
"""Shares of a picture's width and height, from the top left."""
MIDDLE: Point = (0.5, 0.5)
