"""Where the pictures of a layout lie: whole pixels that tile the frame."""

from itertools import pairwise
from math import ceil, sqrt

from vexel.core.reel.item_spec import LayoutItem
from vexel.core.reel.node import Rect


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
    """The first fills the frame; the others lie in its lower right corner, from right to left."""
    wide, high = max(round(width * layout.share), 1), max(round(height * layout.share), 1)
    found = [(0, 0, width, height)]
    for number in range(len(layout.cells) - 1):
        found.append((max(width - wide * (number + 1), 0), height - high, wide, high))
    return found
