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


LINEAR = _to_linear(np.arange(256) / 255).astype(np.float32)
"""Linear light of each of the 256 sRGB codes."""
_ENCODED = np.rint(_to_encoded(np.arange(_STEPS + 1) / _STEPS) * 255).astype(np.uint8)


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
    opaque = bool((first[..., 3] == 255).all())
    if count == 1:
        return first if opaque else _straight(first)
    total = cv2.LUT(first[..., :3], LINEAR)
    cover = first[..., 3].astype(np.float32)
    for sample in samples:
        cv2.accumulate(cv2.LUT(sample[..., :3], LINEAR), total)
        if not opaque:
            cover += sample[..., 3]
    out = np.empty_like(first)
    if opaque:
        out[..., 3] = 255
        scale: float | NDArray[np.float32] = _STEPS / count
    else:
        out[..., 3] = np.rint(cover / count)
        scale = (_STEPS * 255 / np.maximum(cover, 1.0))[..., None]
    light = np.minimum(total * scale + 0.5, _STEPS).astype(np.uint16)
    out[..., :3] = _ENCODED[light]
    return out


def _straight(premultiplied: NDArray[np.uint8]) -> NDArray[np.uint8]:
    alpha = premultiplied[..., 3:].astype(np.float32)
    out = premultiplied.copy()
    out[..., :3] = np.minimum(premultiplied[..., :3] * (255 / np.maximum(alpha, 1)) + 0.5, 255)
    return out
