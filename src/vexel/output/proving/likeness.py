"""How alike two pictures are: PSNR and SSIM of their brightness."""

import math
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.recipes.colour_tags import luma_weights

_C1, _C2 = (0.01 * 255) ** 2, (0.03 * 255) ** 2
VIEWED = 256
SAME = 100.0
"""Decibels for pictures without any difference."""


def luma(pixels: NDArray[Any], matrix: str = "bt709") -> NDArray[np.float32]:
    """Brightness of RGB or RGBA codes, from 0 to 255, shape (H, W)."""
    scale = 255 / float(np.iinfo(pixels.dtype).max)
    weights = np.zeros((1, pixels.shape[2]), np.float32)
    weights[0, :3] = luma_weights(matrix) * scale
    return np.asarray(cv2.transform(pixels.astype(np.float32), weights), np.float32).reshape(pixels.shape[:2])


def psnr(one: NDArray[np.float32], other: NDArray[np.float32]) -> float:
    """Peak signal to noise ratio in dB of codes from 0 to 255; `SAME` at most."""
    error = cv2.norm(one, other, cv2.NORM_L2SQR) / one.size
    return min(10 * math.log10(255**2 / error), SAME) if error > 0 else SAME


def ssim(one: NDArray[np.float32], other: NDArray[np.float32]) -> float:
    """Structural similarity, -1 to 1, by a Gaussian of 11 pixels and 1.5 (Wang, Bovik, Sheikh, Simoncelli 2004).

    Pictures are first reduced to about 256 pixels a side, the distance at which it was fitted to
    what people see, as its authors advise.
    """
    smaller = max(round(min(one.shape) / VIEWED), 1)
    if smaller > 1:
        size = (one.shape[1] // smaller, one.shape[0] // smaller)
        one, other = (cv2.resize(values, size, interpolation=cv2.INTER_AREA) for values in (one, other))

    def blurred(values: NDArray[Any]) -> NDArray[Any]:
        return np.asarray(cv2.GaussianBlur(values, (11, 11), 1.5))

    mean_one, mean_other = blurred(one), blurred(other)
    var_one = blurred(one * one) - mean_one**2
    var_other = blurred(other * other) - mean_other**2
    both = blurred(one * other) - mean_one * mean_other
    top = (2 * mean_one * mean_other + _C1) * (2 * both + _C2)
    below = (mean_one**2 + mean_other**2 + _C1) * (var_one + var_other + _C2)
    return float(np.mean(top / below))
