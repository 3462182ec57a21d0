"""Lines of the requested width, composited over pictures."""

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.imaging.codes import whole
from vexel.imaging.transfer import encoded_light, linear

Colour = tuple[float, float, float]
"""Red, green and blue, 0 to 1."""


def thickened(lines: NDArray[np.bool_], thick: float) -> NDArray[np.bool_]:
    """Lines a pixel wide, made as wide as is asked."""
    wide = round(thick)
    if wide <= 1:
        return lines
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (wide, wide))
    return np.asarray(cv2.dilate(lines.astype(np.uint8), kernel), bool)


def inked(pixels: NDArray[np.uint8], lines: NDArray[np.bool_], ink: Colour, opacity: float = 1.0) -> NDArray[np.uint8]:
    """A copy of a picture, premultiplied by alpha, with lines drawn on it."""
    full = np.array([*(round(255 * c) for c in ink), 255], np.uint8)
    drawn = pixels.copy()
    if opacity < 1:
        below = pixels[lines]
        codes = below * (1 - opacity) + full * opacity
        opaque = below[:, 3] == 255
        light = linear(below[opaque] / 255) * (1 - opacity) + linear(full / 255) * opacity
        codes[opaque, :3] = 255 * encoded_light(light[:, :3])
        drawn[lines] = np.rint(codes)
    else:
        np.copyto(whole(drawn), whole(full), where=lines)
    return drawn
