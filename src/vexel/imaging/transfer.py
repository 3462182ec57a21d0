"""The transfer of sRGB (IEC 61966-2-1): codes to linear light and back, by formula and by tables."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

STEPS = 65535
"""Levels of linear light in tables: finer than any code."""


def linear(encoded: NDArray[Any]) -> NDArray[Any]:
    """sRGB to linear light (IEC 61966-2-1)."""
    return np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)


def encoded_light(linear: NDArray[Any]) -> NDArray[Any]:
    """Linear light to sRGB (IEC 61966-2-1)."""
    return np.where(linear <= 0.0031308, linear * 12.92, 1.055 * np.maximum(linear, 0) ** (1 / 2.4) - 0.055)


# Tables in place of a power for every pixel: 256 codes in, 65,536 levels out, finer than any code.
_CODES, SHARES = np.arange(256) / 255, np.arange(STEPS + 1) / STEPS
LINEAR = np.stack([linear(_CODES)] * 3 + [_CODES], axis=-1)[None].astype(np.float32)
"""Linear light of each of the 256 sRGB codes, and linear alpha; shape (1, 256, 4)."""
ENCODED_RGBA = np.rint(255 * np.stack([encoded_light(SHARES)] * 3 + [SHARES], axis=-1)[None]).astype(np.uint8)
"""sRGB codes of 65,536 levels, with linear alpha; shape (1, 65536, 4)."""
ENCODED = np.ascontiguousarray(ENCODED_RGBA[0, :, 0])
"""The sRGB code of each of 65,536 levels of linear light; shape (65536,)."""
LEVELS = np.rint(LINEAR[0, :, 0] * STEPS).astype(np.uint16)
"""Linear light of the 256 sRGB codes, in 16 bits: the darkest step is 20 of them, so that no code is lost."""
