"""Means of pictures, taken as light adds up: in linear light, with colours weighted by their alpha."""

from collections.abc import Iterable
from typing import Any, TypeAlias

import cv2
import numpy as np
from numpy.typing import NDArray

_STEPS = 65535


def linear(encoded: NDArray[Any]) -> NDArray[Any]:
    """sRGB to linear light (IEC 61966-2-1)."""
    return np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)


def encoded_light(linear: NDArray[Any]) -> NDArray[Any]:
    """Linear light to sRGB (IEC 61966-2-1)."""
    return np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)


# Tables in place of a power for every pixel: 256 codes in, 65,536 levels out, finer than any code.
_CODES, _LEVELS = np.arange(256) / 255, np.arange(_STEPS + 1) / _STEPS
LINEAR = np.stack([linear(_CODES)] * 3 + [_CODES], axis=-1)[None].astype(np.float32)
"""Linear light of each of the 256 sRGB codes, and alpha as it is; shape (1, 256, 4)."""
_ENCODED = np.rint(255 * np.stack([encoded_light(_LEVELS)] * 3 + [_LEVELS], axis=-1)[None]).astype(np.uint8)
ENCODED = np.ascontiguousarray(_ENCODED[0, :, 0])
"""The sRGB code of each of 65,536 levels of linear light; shape (65536,)."""


Picture: TypeAlias = "NDArray[np.uint8] | NDArray[np.float32]"
"""Shape (H, W, 4): sRGB with straight alpha as uint8, or, of more than 8 bits, linear light premultiplied by alpha."""


def mixed(pictures: Iterable[tuple[NDArray[np.uint8], float]]) -> NDArray[np.uint8]:
    """The weighted mean of pictures of one size.

    Parameters
    ----------
    pictures : iterable of (ndarray, float)
        Shape (H, W, 4), uint8, sRGB with straight alpha; weights whose sum is 1.

    Returns
    -------
    ndarray, shape (H, W, 4), uint8
        sRGB with straight alpha.
    """
    return encoded(mixed_light(pictures))


def mixed_light(pictures: Iterable[tuple[Picture, float]]) -> NDArray[np.float32]:
    """The same as linear light, premultiplied by alpha."""
    total: NDArray[np.float32] | None = None
    for picture, weight in pictures:
        light = light_of(picture) * np.float32(weight)
        total = light if total is None else total + light
    if total is None:
        raise ValueError("no pictures to mix")
    return total


def light_of(picture: Picture) -> NDArray[np.float32]:
    """Linear light, premultiplied by alpha, of a picture; shape (H, W, 4). Never the array itself."""
    if picture.dtype == np.float32:
        return np.array(picture)
    light: NDArray[np.float32] = cv2.LUT(picture, LINEAR)
    light[..., :3] *= light[..., 3:]
    return light


def light_of_codes(codes: NDArray[np.uint16]) -> NDArray[np.float32]:
    """Linear light, premultiplied by alpha, of 16-bit sRGB with straight alpha; shape (H, W, 4)."""
    light = np.take(linear(_LEVELS).astype(np.float32), codes)
    light[..., 3] = codes[..., 3] / np.float32(65535)
    light[..., :3] *= light[..., 3:]
    return light


def encoded(light: NDArray[np.float32]) -> NDArray[np.uint8]:
    """Linear light, premultiplied by alpha, as sRGB with straight alpha; shape (H, W, 4). It is changed in place."""
    # Opaque pictures, nearly all, are spared the division.
    cover = light[..., 3:]
    if float(cover.min()) < 1:
        light[..., :3] /= np.maximum(cover, 1 / _STEPS)
    levels = cv2.multiply(light, (float(_STEPS),) * 4, dtype=cv2.CV_16U)
    pixels: NDArray[np.uint8] = cv2.LUT(levels, _ENCODED)
    return pixels
