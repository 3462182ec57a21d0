"""Where the pictures of a layout lie: whole pixels that tile the frame."""

from dataclasses import dataclass
from itertools import pairwise
from math import ceil, sqrt
from typing import TypeAlias

from vexel.core.reel.item_spec import CellSpec, LayoutItem

Rect: TypeAlias = tuple[int, int, int, int]
"""Left, top, width and height in pixels."""
LINE = 1.6
"""Height of a caption's line, in sizes of its letters."""


@dataclass(frozen=True)
class CellPlace:
    """Where a cell's picture lies.

    Attributes
    ----------
    rect : Rect
        Of the picture, inside margin and border.
    border : int
        Pixels around it.
    caption : Rect
        Below it; of no height without a caption.
    """

    rect: Rect
    border: int
    caption: Rect


def placed_cells(layout: LayoutItem, width: int, height: int) -> list[CellPlace]:
    """Rectangle of each cell's picture in a frame of a given size."""
    rects = cell_rects(layout, width, height)
    return [_placed(layout, cell, rect, height) for cell, rect in zip(layout.cells, rects, strict=True)]


def _placed(layout: LayoutItem, cell: CellSpec, rect: Rect, high: int) -> CellPlace:
    left, top, width, height = rect
    margin, border = round(cell.margin * high), round(cell.border * high)
    line = round(layout.caption_size * LINE * high) if cell.caption else 0
    inner = (
        left + margin + border,
        top + margin + border,
        max(width - 2 * (margin + border), 1),
        max(height - 2 * (margin + border) - line, 1),
    )
    return CellPlace(inner, border, (inner[0], inner[1] + inner[3] + border, inner[2], line))


def cell_rects(layout: LayoutItem, width: int, height: int) -> list[Rect]:
    """Parts of the frame, one a cell, before margins.

    They tile the frame, apart from an inset, which lies over the large picture.
    """
    count = len(layout.cells)
    if layout.arrangement == "row":
        return _across((0, 0, width, height), count)
    if layout.arrangement == "column":
        return _down((0, 0, width, height), count)
    if layout.arrangement == "grid":
        return _grid(count, layout.columns or ceil(sqrt(count)), width, height)
    if layout.arrangement == "large":
        if count == 1:
            return [(0, 0, width, height)]
        wide = min(max(round(width * layout.share), 1), width - 1)
        return [(0, 0, wide, height), *_down((wide, 0, width - wide, height), count - 1)]
    if layout.arrangement == "inset":
        return _insets(layout, width, height)
    return [(0, 0, width, height)] * count


def _edges(length: int, parts: int) -> list[int]:
    return [round(length * n / parts) for n in range(parts + 1)]


def _across(rect: Rect, parts: int) -> list[Rect]:
    left, top, width, height = rect
    edges = _edges(width, parts)
    return [(left + a, top, b - a, height) for a, b in pairwise(edges)]


def _down(rect: Rect, parts: int) -> list[Rect]:
    left, top, width, height = rect
    edges = _edges(height, parts)
    return [(left, top + a, width, b - a) for a, b in pairwise(edges)]


def _grid(count: int, columns: int, width: int, height: int) -> list[Rect]:
    """Rows of so many; what is left for the last row shares its width."""
    columns = min(columns, count)
    rows = ceil(count / columns)
    found = []
    for number, row in enumerate(_down((0, 0, width, height), rows)):
        found += _across(row, min(columns, count - number * columns))
    return found


def _insets(layout: LayoutItem, width: int, height: int) -> list[Rect]:
    """The first fills the frame; the others are placed in its lower right corner, from right to left."""
    wide, high = max(round(width * layout.share), 1), max(round(height * layout.share), 1)
    found = [(0, 0, width, height)]
    for number in range(len(layout.cells) - 1):
        found.append((max(width - wide * (number + 1), 0), height - high, wide, high))
    return found
