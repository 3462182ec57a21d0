"""Pictures as linear light, with colours weighted by their alpha; and means of them, as light adds up."""

from collections.abc import Iterable
from typing import Any, TypeAlias

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.imaging.transfer import ENCODED, ENCODED_RGBA, LINEAR, SHARES, STEPS, encoded_light, linear

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
    light = np.take(linear(SHARES).astype(np.float32), codes)
    light[..., 3] = codes[..., 3] / np.float32(65535)
    light[..., :3] *= light[..., 3:]
    return light


def encoded(light: NDArray[np.float32]) -> NDArray[np.uint8]:
    """Linear light, premultiplied by alpha, as sRGB with straight alpha; shape (H, W, 4). It is changed in place."""
    # Opaque pictures, nearly all, are spared the division.
    cover = light[..., 3:]
    if float(cover.min()) < 1:
        light[..., :3] /= np.maximum(cover, 1 / STEPS)
    levels = cv2.multiply(light, (float(STEPS),) * 4, dtype=cv2.CV_16U)
    pixels: NDArray[np.uint8] = cv2.LUT(levels, ENCODED_RGBA)
    return pixels


def light_of_straight(pixels: NDArray[Any]) -> NDArray[np.float32]:
    """Linear light, premultiplied by alpha, of RGBA codes of 8 or 16 bits; shape (…, 4)."""
    if pixels.dtype == np.uint8:
        light = np.take(LINEAR[0, :, 0], pixels)
    else:
        light = linear(pixels / np.float32(STEPS)).astype(np.float32)
    light[..., 3] = pixels[..., 3] / np.float32(np.iinfo(pixels.dtype).max)
    light[..., :3] *= light[..., 3:]
    return light


def light_of_opaque(pixels: NDArray[Any]) -> NDArray[np.float32]:
    """The same of RGB codes, with an alpha of 1."""
    alpha = np.full((*pixels.shape[:-1], 1), np.iinfo(pixels.dtype).max, pixels.dtype)
    return light_of_straight(np.concatenate([pixels, alpha], axis=-1))


def codes_of(light: NDArray[np.float32], dtype: Any) -> NDArray[Any]:
    """Straight linear light as sRGB codes of 8 or 16 bits."""
    light = np.clip(light, 0, 1)
    if dtype == np.uint8:
        return np.take(ENCODED, np.rint(light * STEPS).astype(np.uint16))
    return np.asarray(np.rint(encoded_light(light) * STEPS).astype(dtype))


def deep_codes(light: NDArray[np.float32], premultiplied: bool = False) -> NDArray[np.uint16]:
    """Linear light, premultiplied by alpha, shape (H, W, 4), as sRGB with 16 bits a channel."""
    cover = light[..., 3:]
    straight = light[..., :3] / np.maximum(cover, 1e-6)
    colour = encoded_light(straight)
    if premultiplied:
        colour = colour * cover
    codes: NDArray[np.uint16] = np.rint(np.clip(np.concatenate([colour, cover], axis=2), 0, 1) * 65535).astype(
        np.uint16
    )
    return codes
