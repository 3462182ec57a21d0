"""Figures of a picture's signal, and of the difference between two: brightness, clipping, sharpness, noise, bands."""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.review.figures import Closer, Figures, Step, Three

LUMA = np.array([[0.2126, 0.7152, 0.0722]], np.float32)
"""Weights of red, green and blue in brightness: ITU-R BT.709."""
_NOISE = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32)
"""The difference of two Laplacians: edges add little to it (Immerkær, *Fast Noise Variance Estimation*, 1996)."""
_SLOW, _STEEP = 0.004, 0.1
"""Codes a pixel between which a gradient has bands of 10 to 250 pixels."""
_AROUND = 31
"""Pixels over which a gradient is measured."""
_EDGE = (0.1, 0.9)
"""Alpha of pixels whose colour shows what they were mixed with."""
_FEWEST = 100
"""Pixels of edges that are enough to recognize a fringe."""


def figures_of(pixels: NDArray[Any]) -> Figures:
    """Figures of one picture.

    Parameters
    ----------
    pixels : ndarray, shape (H, W, 3) or (H, W, 4)
        RGB or RGBA with straight alpha, uint8 or uint16.
    """
    top = float(np.iinfo(pixels.dtype).max)
    brightness = brightness_of(pixels)
    low, high = cv2.minMaxLoc(brightness)[:2]
    count = brightness.size
    bounds = [cv2.minMaxLoc(cv2.extractChannel(pixels, n))[:2] for n in range(3)]
    border = np.concatenate([brightness[0], brightness[-1], brightness[:, 0], brightness[:, -1]])
    depth = cv2.CV_16S if pixels.dtype == np.uint8 else cv2.CV_32F
    spread = cv2.meanStdDev(cv2.Laplacian(brightness, depth))[1]
    return Figures(
        mean=cv2.mean(brightness)[0] / top,
        low=low / top,
        high=high / top,
        channel_means=_three(value / top for value in cv2.mean(pixels)[:3]),
        channel_lows=_three(one[0] / top for one in bounds),
        channel_highs=_three(one[1] / top for one in bounds),
        dark=1.0 - cv2.countNonZero(brightness) / count,
        light=cv2.countNonZero(cv2.inRange(brightness, top, top)) / count if high == top else 0.0,
        near_light=cv2.countNonZero(cv2.inRange(brightness, top * 240 / 255, top - 1)) / count if high == top else 0.0,
        light_border=float((border == top).mean()),
        sharpness=float(spread[0, 0]) / top,
        noise=_noise(brightness, depth) / top,
        clear=1.0 - cv2.countNonZero(cv2.extractChannel(pixels, 3)) / count if pixels.shape[2] == 4 else 0.0,
    )


def step_of(before: NDArray[Any], after: NDArray[Any]) -> Step:
    """The difference of two pictures of one size, depth and number of channels; of floats in their own numbers.

    Floats of which one alone is infinite, or no number, differ by 1.
    """
    if after.dtype == np.float32:
        return _step_of_floats(before, after)
    top = float(np.iinfo(after.dtype).max)
    apart = cv2.absdiff(before, after)
    channels = apart.shape[2]
    mean = float(sum(cv2.mean(apart)[:channels])) / channels
    if mean == 0.0:
        return Step(0.0, 0.0, 0.0)
    changed = cv2.extractChannel(apart, 0)
    for channel in range(1, channels):
        changed = cv2.max(changed, cv2.extractChannel(apart, channel))
    most = cv2.minMaxLoc(changed)[1]
    return Step(mean / top, most / top, cv2.countNonZero(changed) / changed.size)


def _step_of_floats(before: NDArray[Any], after: NDArray[Any]) -> Step:
    same = (before == after) | (np.isnan(before) & np.isnan(after))
    with np.errstate(invalid="ignore", over="ignore"):
        apart = np.where(same, 0.0, np.nan_to_num(np.abs(before - after), nan=1.0, posinf=1.0))
    return Step(float(apart.mean()), float(apart.max(initial=0.0)), float(1.0 - same.all(axis=2).mean()))


def apart_of(before: NDArray[Any], after: NDArray[Any]) -> float:
    """The mean difference of two pictures alone."""
    channels = after.shape[2]
    top = float(np.iinfo(after.dtype).max)
    return float(cv2.norm(before, after, cv2.NORM_L1) / (channels * after.shape[0] * after.shape[1] * top))


def closer_of(pixels: NDArray[Any]) -> Closer:
    """Bands and fringes of one picture."""
    return Closer(_banding(pixels), _fringe(pixels) if pixels.shape[2] == 4 else 0.0)


def brightness_of(pixels: NDArray[Any]) -> NDArray[Any]:
    """Brightness, rounded to the codes of the picture; shape (H, W)."""
    weights = LUMA if pixels.shape[2] == 3 else np.append(LUMA, [[0.0]], axis=1).astype(np.float32)
    return np.asarray(cv2.transform(pixels, weights))


def _three(values: Any) -> Three:
    first, second, third = (float(value) for value in values)
    return first, second, third


def _noise(brightness: NDArray[Any], depth: int) -> float:
    high, wide = brightness.shape
    if min(high, wide) < 3:
        return 0.0
    found = cv2.filter2D(brightness, depth, _NOISE)[1:-1, 1:-1]
    return float(np.sqrt(np.pi / 2) * cv2.norm(found, cv2.NORM_L1) / (6 * (wide - 2) * (high - 2)))


def _banding(pixels: NDArray[Any]) -> float:
    """The share of a picture that is a slow gradient whose pixels equal all of their neighbours, but for steps."""
    if pixels.dtype != np.uint8 or min(pixels.shape[:2]) < 2 * _AROUND:
        return 0.0
    brightness = brightness_of(pixels)
    smooth = cv2.blur(brightness.astype(np.float32), (_AROUND, _AROUND))
    steep = cv2.magnitude(cv2.Sobel(smooth, cv2.CV_32F, 1, 0), cv2.Sobel(smooth, cv2.CV_32F, 0, 1)) / 8
    slow = (steep > _SLOW) & (steep < _STEEP)
    cross = np.ones((3, 3), np.uint8)
    spread = cv2.absdiff(cv2.dilate(brightness, cross), cv2.erode(brightness, cross))
    # Dither and noise are in steps of one code as well, but everywhere; bands are flat in between.
    flat = float((spread[slow] == 0).mean()) if slow.any() else 0.0
    one_code = float((spread[slow] <= 1).mean()) if slow.any() else 0.0
    return float(slow.mean()) if flat > 0.6 and one_code > 0.98 else 0.0


def _fringe(pixels: NDArray[Any]) -> float:
    """How much darker (or lighter, negative) half transparent pixels are than the opaque ones beside them.

    A colour c that was mixed with black and not divided by its alpha is a·c; mixed with white it is a·c + 1 - a.
    """
    top = float(np.iinfo(pixels.dtype).max)
    alpha = cv2.extractChannel(pixels, 3).astype(np.float32) / top
    brightness = brightness_of(pixels).astype(np.float32) / top
    opaque = (alpha == 1.0).astype(np.float32)
    near = cv2.blur(opaque, (5, 5))
    beside = cv2.blur(brightness * opaque, (5, 5)) / np.maximum(near, 1e-6)
    edge = (alpha > _EDGE[0]) & (alpha < _EDGE[1]) & (near > 0.1)
    if int(edge.sum()) < _FEWEST:
        return 0.0
    lacks, own, given = 1.0 - alpha[edge], brightness[edge], beside[edge]

    def fitted(tends: NDArray[np.float32]) -> float:
        """How much of the way to a colour the pixels are, by least squares."""
        return float((tends @ (own - given)) / max(float(tends @ tends), 1e-9))

    dark, light = fitted(-lacks * given), fitted(lacks * (1.0 - given))
    return dark if dark >= light else -light
