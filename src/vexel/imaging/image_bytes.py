"""Codes as the bytes of an image file, by OpenCV, which alone counts blue, green, red."""

from collections.abc import Sequence
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.imaging.codes import to_bytes

SCREEN_QUALITY = 88
PNG_LEVEL = 1
"""zlib level; higher levels cost more than the frame itself and save a few per cent."""
_HEADER = 8 + 25
"""Bytes of a PNG file before what may follow its header."""
_SRGB = b"\x00\x00\x00\x01sRGB\x00\xae\xce\x1c\xe9"
"""The chunk that declares sRGB, for pictures that are viewed (PNG third edition, 11.3.2.5)."""


def encoded_image(suffix: str, codes: NDArray[Any], settings: Sequence[int], *, opaque: bool = False) -> bytes:
    """Grey, RGB or RGBA codes as an image file.

    Parameters
    ----------
    suffix : str
        Of its kind: ``.png``, ``.jpg`` or ``.webp``.
    codes : ndarray, shape (H, W), (H, W, 3) or (H, W, 4)
        Of 8 bits, or of 16 for PNG.
    settings : sequence of int
        OpenCV's, name and value in turn.
    opaque : bool
        Leave alpha out.

    Raises
    ------
    OSError
    """
    if codes.ndim == 3 and codes.shape[2] == 4:
        codes = cv2.cvtColor(codes, cv2.COLOR_RGBA2BGR if opaque else cv2.COLOR_RGBA2BGRA)
    elif codes.ndim == 3 and codes.shape[2] == 3:
        codes = cv2.cvtColor(codes, cv2.COLOR_RGB2BGR)
    done, data = cv2.imencode(suffix, codes, settings)
    if not done:
        raise OSError(f"the picture could not be encoded as {suffix.removeprefix('.').upper()}")
    return bytes(data)


def encoded_png(codes: NDArray[Any], level: int = PNG_LEVEL, *, opaque: bool = False, is_colour: bool = True) -> bytes:
    """Grey, RGB or RGBA codes of 8 or 16 bits as a PNG file, which says that its colours are sRGB if they are any.

    Every row is stored as its difference from the one above (PNG third edition, 9.2, filter 2). Trying all filters
    for each row, as OpenCV does of itself, takes 2.5 times as long and saves 1 to 6 per cent on frames and pages;
    rows of that one filter are read back three times as fast.

    Raises
    ------
    OSError
    """
    settings = [cv2.IMWRITE_PNG_COMPRESSION, level, cv2.IMWRITE_PNG_FILTER, cv2.IMWRITE_PNG_FILTER_UP]
    data = encoded_image(".png", codes, settings, opaque=opaque)
    return data[:_HEADER] + _SRGB + data[_HEADER:] if is_colour else data


def for_screen(codes: NDArray[Any]) -> bytes:
    """RGB or RGBA codes as a JPEG file, or as PNG where they have transparency.

    Raises
    ------
    OSError
    """
    codes = to_bytes(codes) if codes.dtype == np.uint16 else codes
    if codes.shape[2] == 4:
        return encoded_png(codes)
    return encoded_image(".jpg", codes, [cv2.IMWRITE_JPEG_QUALITY, SCREEN_QUALITY])
