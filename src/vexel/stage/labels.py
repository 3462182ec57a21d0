"""Text drawn on the frame."""

import numpy as np
from numpy.typing import NDArray

from vexel.core.document.label import Label
from vexel.imaging.compositing import laid_over
from vexel.stage.text_block import draw


def labelled(pixels: NDArray[np.uint8], labels: tuple[Label, ...]) -> NDArray[np.uint8]:
    """A copy of a frame with text on it, whose soft edges are blended in light.

    Parameters
    ----------
    pixels : ndarray, shape (H, W, 4), uint8
        sRGB with straight alpha.
    labels : tuple of Label
    """
    if not labels:
        return pixels
    import skia

    high, wide = pixels.shape[:2]
    written = np.zeros(pixels.shape, np.uint8)
    info = skia.ImageInfo.Make(wide, high, skia.kRGBA_8888_ColorType, skia.kUnpremul_AlphaType)
    canvas = skia.Canvas.MakeRasterDirect(info, written.data, wide * 4)
    for label in labels:
        draw(canvas, label, wide, high)
    made, where = np.ascontiguousarray(pixels).copy(), written[..., 3] > 0
    made[where] = laid_over(made[where][None], written[where][None])[0]
    return made
