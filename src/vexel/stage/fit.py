"""Pictures that a source gave, fitted into the frame."""

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.document.background import TRANSPARENT, rgb
from vexel.imaging.compositing import over
from vexel.imaging.fitting import placed
from vexel.imaging.light import light_of
from vexel.imaging.resize import resized


def fitted(picture: NDArray[np.uint8], size: tuple[int, int], background: str) -> NDArray[np.uint8]:
    """A picture in the middle of a frame, as large as its shape allows, on the background.

    Parameters
    ----------
    picture : ndarray, shape (h, w, 4), uint8
        sRGB with straight alpha.
    size : (int, int)
        Width and height of the frame.
    background : str
        ``#rrggbb`` or ``transparent``.

    Returns
    -------
    ndarray
        Shape (H, W, 4), uint8, sRGB with straight alpha.
    """
    wide, high = size
    if picture.shape[:2] != (high, wide):
        picture = placed(_scaled(picture, wide, high), wide, high)
    if background == TRANSPARENT:
        return picture
    if (picture[..., 3] == 255).all():
        return picture
    return np.asarray(cv2.cvtColor(over(picture, rgb(background)), cv2.COLOR_RGB2RGBA), np.uint8)


def fitted_light(light: NDArray[np.float32], size: tuple[int, int], background: str) -> NDArray[np.float32]:
    """The same for a picture of linear light, premultiplied by alpha."""
    wide, high = size
    if light.shape[:2] != (high, wide):
        scale = min(wide / light.shape[1], high / light.shape[0])
        inner = (min(max(round(light.shape[1] * scale), 1), wide), min(max(round(light.shape[0] * scale), 1), high))
        how = cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR
        light = placed(np.asarray(cv2.resize(light, inner, interpolation=how), np.float32), wide, high)
    if background == TRANSPARENT:
        return light
    behind = light_of(np.array([[(*rgb(background), 255)]], np.uint8))
    return light + behind * (1 - light[..., 3:])


def _scaled(picture: NDArray[np.uint8], wide: int, high: int) -> NDArray[np.uint8]:
    scale = min(wide / picture.shape[1], high / picture.shape[0])
    size = (min(max(round(picture.shape[1] * scale), 1), wide), min(max(round(picture.shape[0] * scale), 1), high))
    return np.asarray(resized(picture, size, cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR), np.uint8)
