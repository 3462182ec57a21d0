"""Numbers of an image file as codes of 8 or 16 bits, the right way up."""

from typing import Any

import numpy as np
from numpy.typing import NDArray


def as_codes(values: NDArray[Any]) -> NDArray[Any]:
    """Codes without conversion.

    Raises
    ------
    ValueError
        When values are of another type.
    """
    if values.dtype not in (np.uint8, np.uint16):
        raise ValueError(f"its values are {values.dtype}, not 8 or 16 bits, nor floats")
    return values


def upright(pixels: NDArray[Any], orientation: int) -> NDArray[Any]:
    """A picture turned and mirrored as its file says: 1 to 8, after Exif 3.0, 4.6.5.4 (Orientation); 1 for others."""
    if orientation in (5, 6, 7, 8):
        pixels = pixels.swapaxes(0, 1)
    down, right = orientation in (3, 4, 7, 8), orientation in (2, 3, 6, 7)
    return np.ascontiguousarray(pixels[:: -1 if down else 1, :: -1 if right else 1])


def to_bytes(codes: NDArray[Any]) -> NDArray[np.uint8]:
    """Codes of 16 bits as the nearest of 8."""
    return ((codes.astype(np.uint32) * 255 + 32767) // 65535).astype(np.uint8)


def whole(pixels: NDArray[np.uint8]) -> NDArray[np.uint32]:
    """Pixels of four channels as one number each, of the same memory."""
    return pixels.view(np.uint32)[..., 0]
