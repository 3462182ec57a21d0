"""Pictures scaled in linear light, weighted by their alpha; numbers of a data pass are averaged without a curve."""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.imaging.light import codes_of, light_of_opaque, light_of_straight
from vexel.imaging.transfer import ENCODED, LEVELS, STEPS

Codes = NDArray[Any]
"""RGB or RGBA with straight alpha, of 8 or 16 bits; shape (H, W, 3 or 4)."""


def resized(pixels: Codes, size: tuple[int, int], how: int, *, is_data: bool = False) -> Codes:
    """A picture scaled to a width and a height.

    Parameters
    ----------
    how : int
        OpenCV's interpolation.
    is_data : bool
        Whether its codes are numbers of a data pass, which are averaged without a curve.

    Notes
    -----
    An enlarged picture keeps within the range of the neighbours of each pixel: cubic filters would else leave a seam
    of other colours along every edge.
    """
    if size == pixels.shape[1::-1]:
        return pixels
    if how == cv2.INTER_NEAREST:
        return np.asarray(cv2.resize(pixels, size, interpolation=how))
    if is_data:
        return _scaled(pixels, size, how)
    if pixels.shape[2] == 3 and pixels.dtype == np.uint8:
        levels = cv2.LUT(pixels.reshape(len(pixels), -1), LEVELS).reshape(pixels.shape)
        small = _scaled(levels, size, how)
        return np.asarray(cv2.LUT(small.reshape(len(small), -1), ENCODED).reshape(small.shape), np.uint8)
    if pixels.shape[2] == 3:
        return codes_of(_scaled(light_of_opaque(pixels)[..., :3], size, how), pixels.dtype)
    small = _scaled(light_of_straight(pixels), size, how)
    most = np.iinfo(pixels.dtype).max
    cover = np.clip(small[..., 3:], 0, 1)
    colour = codes_of(small[..., :3] / np.maximum(cover, 1 / STEPS), pixels.dtype)
    return np.concatenate([colour, np.rint(cover * most).astype(pixels.dtype)], axis=2)


def _scaled(values: NDArray[Any], size: tuple[int, int], how: int) -> NDArray[Any]:
    made = np.asarray(cv2.resize(values, size, interpolation=how))
    if size[0] <= values.shape[1] and size[1] <= values.shape[0]:
        return made
    if how in (cv2.INTER_AREA, cv2.INTER_LINEAR):
        return made
    around = np.ones((3, 3), np.uint8)
    low, high = (
        cv2.resize(of(values, around), size, interpolation=cv2.INTER_NEAREST) for of in (cv2.erode, cv2.dilate)
    )
    return np.asarray(np.clip(made, low, high))
