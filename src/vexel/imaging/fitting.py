"""Pictures fitted into a frame of another size: whole, filling it, or without scaling."""

from math import floor
from typing import Any, TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.document.fit import MIDDLE, Fit, Point
from vexel.imaging.resize import resized

Pixel = TypeVar("Pixel", np.uint8, np.uint16, np.float32)


def fitted_into(pixels: NDArray[Pixel], width: int, height: int, fit: Fit, focus: Point = MIDDLE) -> NDArray[Pixel]:
    """A picture scaled into a part of the frame: whole, filling it, or without scaling; never larger than that part.

    Parameters
    ----------
    pixels : ndarray, shape (h, w, 3 or 4)
        Codes of 8 or 16 bits with straight alpha, or linear light premultiplied by alpha.
    focus : (float, float)
        Shares of the picture's width and height. Where edges are cut off, what is left is centred on this point,
        as far as the edges allow.
    """
    high, wide = pixels.shape[:2]
    if (wide, high) == (width, height):
        return pixels
    if fit != "none":
        scale = (min if fit == "contain" else max)(width / wide, height / high)
        size = (max(round(wide * scale), 1), max(round(high * scale), 1))
        if fit == "contain":
            size = (min(size[0], width), min(size[1], height))
        pixels = _scaled(pixels, size)
        high, wide = pixels.shape[:2]
    left, top = _begin(wide, width, focus[0]), _begin(high, height, focus[1])
    return np.ascontiguousarray(pixels[top : top + height, left : left + width])


def placed(picture: NDArray[Pixel], wide: int, high: int) -> NDArray[Pixel]:
    """A picture in the middle of a clear frame that is as large or larger; shape (high, wide, 4)."""
    if picture.shape[:2] == (high, wide):
        return picture
    frame = np.zeros((high, wide, 4), picture.dtype)
    y, x = (high - picture.shape[0]) // 2, (wide - picture.shape[1]) // 2
    frame[y : y + picture.shape[0], x : x + picture.shape[1]] = picture
    return frame


def _scaled(pixels: NDArray[Any], size: tuple[int, int]) -> NDArray[Any]:
    smaller = size[0] < pixels.shape[1]
    if pixels.dtype == np.float32:
        how = cv2.INTER_AREA if smaller else cv2.INTER_LINEAR
        return np.asarray(cv2.resize(pixels, size, interpolation=how))
    return resized(pixels, size, cv2.INTER_AREA if smaller else cv2.INTER_CUBIC)


def _begin(length: int, shown: int, focus: float) -> int:
    """The first pixel of a stretch about a point that lies within a length."""
    return min(max(floor(focus * length - shown / 2), 0), max(length - shown, 0))
