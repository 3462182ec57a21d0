"""Backdrops of frames: a gradient, or an image that fills the frame."""

from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.document.background import PLAIN, rgb
from vexel.core.errors import SourceError
from vexel.imaging.images import picture_in
from vexel.imaging.light import light_of
from vexel.imaging.transfer import linear

Light = NDArray[np.float32]


def laid(light: Light, backdrop: str, image: Path | None) -> Light:
    """A frame over its backdrop: source over, in linear light (Porter and Duff, 1984).

    Parameters
    ----------
    light : ndarray, shape (H, W, 4)
        Premultiplied by alpha.
    backdrop : str
        See `FrameSpec.backdrop`.
    image : Path or None

    Raises
    ------
    SourceError
        When the image cannot be read.
    """
    height, width = light.shape[:2]
    under = _gradient(backdrop, width, height) if image is None else _image(image, width, height)
    laid = light.copy()
    laid[..., :3] += under * (1 - light[..., 3:])
    laid[..., 3] = 1
    return laid


@lru_cache(maxsize=2)
def _gradient(backdrop: str, width: int, height: int) -> Light:
    """From one colour above to another below, evenly in sRGB, as style sheets have it."""
    above, below = (np.array(rgb(colour), dtype=np.float64) / 255 for colour in backdrop.split())
    share = ((np.arange(height) + 0.5) / height)[:, None]
    rows = linear(above + share * (below - above)).astype(np.float32)
    return np.broadcast_to(rows[:, None, :], (height, width, 3))


@lru_cache(maxsize=2)
def _image(file: Path, width: int, height: int) -> Light:
    """The middle of an image, as large as fills the frame; where it is clear, the usual background."""
    try:
        light = light_of(picture_in(file))
    except SourceError:
        raise SourceError(
            f"the background {file.name} is not an image that can be read: export it as PNG or JPEG"
        ) from None
    scale = max(width / light.shape[1], height / light.shape[0])
    size = max(round(light.shape[1] * scale), width), max(round(light.shape[0] * scale), height)
    grown = np.maximum(cv2.resize(light, size, interpolation=cv2.INTER_AREA if scale < 1 else cv2.INTER_CUBIC), 0)
    y, x = (grown.shape[0] - height) // 2, (grown.shape[1] - width) // 2
    filled = grown[y : y + height, x : x + width]
    behind = linear(np.array(rgb(PLAIN)) / 255).astype(np.float32)
    return np.asarray(filled[..., :3] + behind * np.maximum(1 - filled[..., 3:], 0), np.float32)
