"""Composites and scales pictures in linear light, at every bit depth.

The rule: colours are decoded to linear light, multiplied by their alpha, blended or averaged, and made codes last, as
the samples of a frame are (Porter and Duff, 1984, on IEC 61966-2-1). A half-clear white over black is 188 of 255, the
half of its light. Blended as codes it would be 128, and a transparent frame composited over a colour would differ from
the frame that is captured on that colour. Numbers of a data pass are not light: they are averaged without a curve.
"""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.sources.pictures.mixing import ENCODED, LINEAR, encoded_light, linear

Codes = NDArray[Any]
"""RGB or RGBA with straight alpha, of 8 or 16 bits; shape (H, W, 3 or 4)."""
_STEPS = 65535
LEVELS = np.rint(LINEAR[0, :, 0] * _STEPS).astype(np.uint16)
"""Linear light of the 256 sRGB codes, in 16 bits: the darkest step is 20 of them, so that no code is lost."""


def over(pixels: Codes, ground: tuple[int, int, int]) -> Codes:
    """Composite RGBA over a colour of 8 bits a channel; the result is RGB of the same depth."""
    most = int(np.iinfo(pixels.dtype).max)
    alpha = pixels[..., 3]
    made = np.ascontiguousarray(pixels[..., :3])
    if int(alpha.min(initial=most)) == most:
        return made
    made[alpha == 0] = np.array(ground, pixels.dtype) * (most // 255)
    # Most pixels of most frames are wholly there or wholly clear.
    part = (alpha > 0) & (alpha < most)
    if part.any():
        light = light_of_pixels(pixels[part])
        behind = linear(np.array(ground) / 255).astype(np.float32)
        made[part] = _as_codes(light[:, :3] + behind * (1 - light[:, 3:]), pixels.dtype)
    return made


def laid_over(below: Codes, above: Codes, opacity: float = 1.0) -> Codes:
    """Composite RGBA over RGB or RGBA of the same depth and size; the result has the channels of `below`."""
    top = light_of_pixels(above) * np.float32(opacity)
    under = light_of_pixels(below) if below.shape[-1] == 4 else _opaque_light(below)
    whole = top + under * (1 - top[..., 3:])
    cover = whole[..., 3:]
    colour = _as_codes(whole[..., :3] / np.maximum(cover, 1 / _STEPS), below.dtype)
    if below.shape[-1] == 3:
        return colour
    most = np.iinfo(below.dtype).max
    return np.concatenate([colour, np.rint(cover * most).astype(below.dtype)], axis=-1)


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
        return _as_codes(_scaled(_opaque_light(pixels)[..., :3], size, how), pixels.dtype)
    small = _scaled(light_of_pixels(pixels), size, how)
    most = np.iinfo(pixels.dtype).max
    cover = np.clip(small[..., 3:], 0, 1)
    colour = _as_codes(small[..., :3] / np.maximum(cover, 1 / _STEPS), pixels.dtype)
    return np.concatenate([colour, np.rint(cover * most).astype(pixels.dtype)], axis=2)


def light_of_pixels(pixels: Codes) -> NDArray[np.float32]:
    """Linear light, premultiplied by alpha, of RGBA codes of 8 or 16 bits; shape (…, 4)."""
    if pixels.dtype == np.uint8:
        light = np.take(LINEAR[0, :, 0], pixels)
    else:
        light = linear(pixels / np.float32(_STEPS)).astype(np.float32)
    light[..., 3] = pixels[..., 3] / np.float32(np.iinfo(pixels.dtype).max)
    light[..., :3] *= light[..., 3:]
    return light


def _opaque_light(pixels: Codes) -> NDArray[np.float32]:
    alpha = np.full((*pixels.shape[:-1], 1), np.iinfo(pixels.dtype).max, pixels.dtype)
    return light_of_pixels(np.concatenate([pixels, alpha], axis=-1))


def _as_codes(light: NDArray[np.float32], dtype: Any) -> Codes:
    """Straight linear light as sRGB codes of 8 or 16 bits."""
    light = np.clip(light, 0, 1)
    if dtype == np.uint8:
        return np.take(ENCODED, np.rint(light * _STEPS).astype(np.uint16))
    return np.asarray(np.rint(encoded_light(light) * _STEPS).astype(dtype))


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
