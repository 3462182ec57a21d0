"""The window of an OpenEXR file in which its pixels are shown: larger or smaller than the one that they fill."""

from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray


def shown_size(header: Mapping[str, Any]) -> tuple[int, int]:
    """Width and height of the display window in pixels."""
    (left, top), (right, bottom) = (tuple(map(int, corner)) for corner in header["displayWindow"])
    return right - left + 1, bottom - top + 1


def in_display_window(values: NDArray[Any], header: Mapping[str, Any], outside: float = 0.0) -> NDArray[Any]:
    """Values of the data window at their position in the display window, shape (H, W) or (H, W, C).

    A renderer crops its data window to what it drew: shown as the whole frame, a sequence would jump. See "Technical
    Introduction to OpenEXR", Academy Software Foundation.
    """
    (left, top), (right, bottom) = (tuple(map(int, corner)) for corner in header["dataWindow"])
    (x, y), _ = (tuple(map(int, corner)) for corner in header["displayWindow"])
    width, height = shown_size(header)
    if (left - x, top - y, right - left + 1, bottom - top + 1) == (0, 0, width, height):
        return values
    whole = np.full((height, width, *values.shape[2:]), outside, values.dtype)
    across = slice(max(left - x, 0), min(right - x + 1, width))
    down = slice(max(top - y, 0), min(bottom - y + 1, height))
    if across.start < across.stop and down.start < down.stop:
        rows, columns = (slice(of.start - off, of.stop - off) for of, off in ((down, top - y), (across, left - x)))
        whole[down, across] = values[rows, columns]
    return whole
