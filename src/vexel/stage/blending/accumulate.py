"""Accumulation: the mean of jittered samples, taken in linear light with premultiplied alpha."""

from collections.abc import Iterator

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.imaging.light import encoded
from vexel.imaging.premultiplied import light_of_sample


def mean_of_shares(samples: Iterator[NDArray[np.uint8]], count: int) -> NDArray[np.uint8]:
    """Average pictures whose codes are shares, such as occlusion, and no light: as plain numbers.

    Parameters
    ----------
    samples : iterator of ndarray, shape (H, W, 4), uint8
        Premultiplied by alpha.
    count : int

    Returns
    -------
    ndarray, shape (H, W, 4), uint8
        With straight alpha.
    """
    # As light, samples that differ would pull the mean up: 42 % of open sky came out as 37 %.
    total = sum((sample.astype(np.float32) for sample in samples), np.float32(0)) / np.float32(count)
    mean = np.asarray(total, dtype=np.float32)
    mean[..., :3] *= 255 / np.maximum(mean[..., 3:], 1 / 255)
    return np.rint(np.clip(mean, 0, 255)).astype(np.uint8)


def mean_of_samples(samples: Iterator[NDArray[np.uint8]], count: int) -> NDArray[np.uint8]:
    """Average pictures of one frame.

    Edges are averaged as light is, not as code values, so that a bright line on
    a dark ground keeps its width; a single sample passes through unchanged.

    Parameters
    ----------
    samples : iterator of ndarray, shape (H, W, 4), uint8
        sRGB codes times alpha, as the renderer leaves them.
    count : int

    Returns
    -------
    ndarray, shape (H, W, 4), uint8
        sRGB with straight alpha.
    """
    first = next(samples)
    if count == 1 and ((first[..., 3] == 255) | (first[..., 3] == 0)).all():
        return first
    return encoded(_light(first, samples, count))


def mean_light(samples: Iterator[NDArray[np.uint8]], count: int) -> NDArray[np.float32]:
    """The same as linear light, premultiplied by alpha, 0 to 1; shape (H, W, 4)."""
    return _light(next(samples), samples, count)


def _light(first: NDArray[np.uint8], rest: Iterator[NDArray[np.uint8]], count: int) -> NDArray[np.float32]:
    total = light_of_sample(first)
    for sample in rest:
        cv2.accumulate(light_of_sample(sample), total)
    total /= count
    return total
