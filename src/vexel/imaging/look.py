"""Pictures for the screen: brighter or darker, smaller, as the bytes of a file that every browser shows."""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.imaging.codes import to_bytes
from vexel.imaging.image_bytes import encoded_image, encoded_png
from vexel.imaging.resize import resized
from vexel.imaging.transfer import encoded_light, linear

STAND_IN_QUALITY = 90


def exposed(pixels: NDArray[Any], stops: float) -> NDArray[np.uint8]:
    """Pixels as sRGB codes of 8 bits, with their light multiplied by 2 to the power of `stops`.

    Parameters
    ----------
    pixels : ndarray, shape (H, W, C)
        Codes of 8 or 16 bits, which are sRGB; or linear light as floats, with straight alpha. One channel becomes grey.
    stops : float
        What exceeds white then is white.
    """
    if pixels.shape[2] < 3:
        pixels = np.repeat(pixels[..., :1], 3, axis=2)
    if pixels.dtype.kind == "f":
        light = np.nan_to_num(pixels.astype(np.float32), nan=0.0, posinf=float(np.finfo(np.float32).max), neginf=0.0)
        return _of_light(light[..., :3] * np.float32(2.0**stops), light[..., 3:])
    if stops == 0.0:
        return to_bytes(pixels) if pixels.dtype == np.uint16 else pixels
    shares = pixels.astype(np.float32) / np.float32(np.iinfo(pixels.dtype).max)
    return _of_light(linear(shares[..., :3]) * np.float32(2.0**stops), shares[..., 3:])


def _of_light(light: NDArray[Any], alpha: NDArray[Any]) -> NDArray[np.uint8]:
    colour = encoded_light(np.clip(light, 0.0, 1.0))
    shares = np.concatenate([colour, np.clip(alpha, 0.0, 1.0)], axis=2)
    codes: NDArray[np.uint8] = np.rint(shares * 255).astype(np.uint8)
    return codes


def for_review(codes: NDArray[np.uint8], wide: int) -> bytes:
    """Codes as PNG in their own size, or `wide` pixels wide as JPEG; as PNG too where they have transparency."""
    if not wide or wide >= codes.shape[1]:
        return encoded_png(codes)
    high = max(round(codes.shape[0] * wide / codes.shape[1]), 1)
    small = resized(codes, (wide, high), cv2.INTER_AREA)
    if small.shape[2] == 4:
        return encoded_png(small)
    return encoded_image(".jpg", small, [cv2.IMWRITE_JPEG_QUALITY, STAND_IN_QUALITY])
