"""Accumulation: the mean of jittered samples, taken in linear light with premultiplied alpha."""

from collections.abc import Iterator

import cv2
import numpy as np
from numpy.typing import NDArray

_STEPS = 65535


def _to_linear(encoded: NDArray[np.float64]) -> NDArray[np.float64]:
    """sRGB to linear light (IEC 61966-2-1)."""
    return np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)


def _to_encoded(linear: NDArray[np.float64]) -> NDArray[np.float64]:
    """Linear light to sRGB (IEC 61966-2-1)."""
    return np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)


_CODES, _LEVELS = np.arange(256) / 255, np.arange(_STEPS + 1) / _STEPS
LINEAR = np.stack([_to_linear(_CODES)] * 3 + [_CODES], axis=-1)[None].astype(np.float32)
"""Linear light of each of the 256 sRGB codes, and alpha as it is; shape (1, 256, 4)."""
_ENCODED = np.rint(255 * np.stack([_to_encoded(_LEVELS)] * 3 + [_LEVELS], axis=-1)[None]).astype(np.uint8)


def mean_of_samples(samples: Iterator[NDArray[np.uint8]], count: int) -> NDArray[np.uint8]:
    """Average pictures of one frame.

    Edges are averaged as light is, not as code values, so that a bright line on
    a dark ground keeps its width; a single sample passes through unchanged.

    Parameters
    ----------
    samples : iterator of ndarray, shape (H, W, 4), uint8
        sRGB, premultiplied by alpha, as the renderer leaves them.
    count : int

    Returns
    -------
    ndarray, shape (H, W, 4), uint8
        sRGB with straight alpha.
    """
    first = next(samples)
    if count == 1 and (first[..., 3] == 255).all():
        return first
    total = cv2.LUT(first, LINEAR)
    for sample in samples:
        cv2.accumulate(cv2.LUT(sample, LINEAR), total)
    cover = total[..., 3:]
    if float(cover.min()) < count:
        total[..., :3] *= count / np.maximum(cover, 1 / 255)
    light = cv2.multiply(total, (_STEPS / count,) * 4, dtype=cv2.CV_16U)
    mean: NDArray[np.uint8] = cv2.LUT(light, _ENCODED)
    return mean
