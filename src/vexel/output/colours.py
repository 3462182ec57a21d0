"""Whether a file has the colours of its frames: parts of some of them, read back."""

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.output.footage import Footage
from vexel.output.pictures import Sized
from vexel.output.readback import VideoFacts
from vexel.output.receipt import Check

PARTS = (12, 8)
"""Columns and rows of parts whose mean colours are compared: small enough to show a tint, too large for noise."""
LEAST = 32
"""And so many pixels at least: colour of half the resolution bleeds over the edges of smaller ones."""
FLAT = 3
"""Codes by which neighbours may differ in a flat part."""
_BT709 = np.array([[1.0, 0.0, 1.5748], [1.0, -0.187324, -0.468124], [1.0, 1.8556, 0.0]])
"""From Y, Cb and Cr to R, G and B (ITU-R BT.709)."""


@dataclass(frozen=True)
class Tolerance:
    """By how many codes of 255 the mean colour of a part may differ, where it is flat and elsewhere."""

    flat: float
    other: float


def colours_check(footage: Footage, sized: Sized, found: VideoFacts, within: Tolerance) -> Check:
    """Compare the pictures that were read back with their frames.

    Parts that are not wholly opaque are passed over, since files keep them each in its own way.
    """
    flat = other = 0.0
    for number, frame in found.pictures.items():
        made = sized.picture(footage.files[number])
        cover = made[..., 3:] if made.shape[2] == 4 else np.full(made.shape[:2], 255, np.uint8)
        whole = _means(cover)[..., 0] > 254.9
        apart = np.abs(_means(made[..., 2::-1]) - _means_of_frame(frame)).max(axis=-1)
        still = _is_flat(made)
        flat = max(flat, float(apart[whole & still].max(initial=0)))
        other = max(other, float(apart[whole & ~still].max(initial=0)))
    planned = f"within {within.flat:g} of 255 where it is flat, {within.other:g} elsewhere"
    holds = flat <= within.flat and other <= within.other and len(found.pictures) > 0
    return Check("colours", planned, f"{flat:.1f} and {other:.1f} apart at most", holds)


def _is_flat(picture: NDArray[np.uint8]) -> NDArray[np.bool_]:
    """Which parts have one colour, up to a little beyond their edges."""
    around = np.ones((5, 5), np.uint8)
    spread = cv2.absdiff(cv2.dilate(picture, around), cv2.erode(picture, around))
    busy: NDArray[np.bool_] = _means((spread > FLAT).astype(np.uint8) * 255).max(axis=-1) > 0
    return ~busy


def _means_of_frame(frame: Any) -> NDArray[np.float32]:
    """Mean R, G and B of each part; of YUV its own numbers, since single colours that leave RGB would be cut off."""
    if frame.format.is_rgb or frame.format.has_palette:
        return _means(frame.to_ndarray(format="rgb24"))
    planes = frame.reformat(format="yuv444p").to_ndarray()
    y, cb, cr = np.moveaxis(_means(np.moveaxis(planes, 0, -1)), -1, 0)
    codes = np.stack([(y - 16) * 255 / 219, (cb - 128) * 255 / 224, (cr - 128) * 255 / 224], axis=-1)
    return np.asarray(codes @ _BT709.T, np.float32)


def _means(picture: NDArray[np.uint8]) -> NDArray[np.float32]:
    """Mean colour of each part, shape (rows, columns, channels)."""
    high, wide = picture.shape[:2]
    parts = max(min(PARTS[0], wide // LEAST), 1), max(min(PARTS[1], high // LEAST), 1)
    means = cv2.resize(picture.astype(np.float32), parts, interpolation=cv2.INTER_AREA)
    return np.asarray(means.reshape(parts[1], parts[0], -1), np.float32)
