"""Styles of drawing: the renderer's settings for each pass."""

from collections.abc import Callable
from colorsys import hsv_to_rgb
from dataclasses import dataclass

from vexel.core.document.background import TRANSPARENT, rgb
from vexel.sources.meshes.parts import Part
from vexel.stage.scene.light import CLAY, LIT, PLAIN

Colour = tuple[float, float, float]
THIN = 1 / 720
"""Width of a drawn line as a share of the frame's height, at least one pixel."""
DARK_INK, LIGHT_INK = (0.078, 0.086, 0.094), (0.9, 0.91, 0.92)


@dataclass(frozen=True)
class DrawStyle:
    """How all parts are drawn.

    Attributes
    ----------
    gives : int
        What the shader gives; see `vexel.stage.scene.light`.
    solid : bool
        Soft points are drawn as solid ones.
    colour_of : callable
        The one colour of a part, by its number and itself; None keeps its own.
    """

    gives: int = LIT
    solid: bool = False
    colour_of: Callable[[int, Part], Colour | None] = lambda number, part: None


def thickness(height: int) -> float:
    """Width of a line in a frame of `height` rows, in pixels."""
    return max(1.0, height * THIN)


def ink(background: str) -> Colour:
    """A colour of lines that stands out from the background; on nothing, dark."""
    if background == TRANSPARENT:
        return DARK_INK
    red, green, blue = _unit(background)
    # Luma (ITU-R BT.709) tells light grounds from dark ones.
    return DARK_INK if 0.2126 * red + 0.7152 * green + 0.0722 * blue > 0.4 else LIGHT_INK


def matte_colour(number: int) -> Colour:
    """A colour for a part by its number, far from those of its neighbours: hues a golden angle apart."""
    return hsv_to_rgb(number * 0.381966 % 1, 0.8, 0.95)


def _unit(colour: str) -> Colour:
    red, green, blue = (c / 255 for c in rgb(colour))
    return red, green, blue


PLAINLY, SOLID = DrawStyle(), DrawStyle(solid=True)
CLAY_STYLE = DrawStyle(colour_of=lambda number, part: _unit(CLAY))
MATTE_STYLE = DrawStyle(PLAIN, solid=True, colour_of=lambda number, part: matte_colour(number))
