"""Whether a file has the colours of its frames: parts of some of them, read back."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.recipes.colour_tags import to_rgb
from vexel.core.recipes.recipe import Colour, Recipe
from vexel.imaging.codes import to_bytes
from vexel.imaging.compositing import over
from vexel.output.job.frame_converter import PixelForm, planes_of_yuv, rgb_of_yuv
from vexel.output.job.pictures import Pixels
from vexel.output.job.receipt import Check
from vexel.output.proving.likeness import luma

PARTS = (12, 8)
"""Columns and rows of parts whose mean colours are compared: small enough to show a tint, too large for noise."""
LEAST = 32
"""And the fewest pixels: colour of half the resolution bleeds over the edges of smaller areas."""
FLAT = 3
"""Codes by which neighbours may differ in a flat part."""


@dataclass(frozen=True)
class Tolerance:
    """By how many codes of 255 the mean colour of a part may differ, where it is flat and elsewhere."""

    flat: float
    other: float


CLOSELY, BY_PALETTE, LOOSELY = Tolerance(1.8, 6), Tolerance(24, 255), Tolerance(3, 12)
"""Rounding Y, Cb and Cr to 8 bits alone moves a flat colour by up to 1.65; a wrong tint moves white by 2."""
BY_SIZE = Tolerance(12, 32)
"""Where a size was asked for, at any quality."""
CONVERTED = Tolerance(2.1, 6)
"""Where colours are rounded twice, as codes of other primaries and as Y, Cb and Cr."""
_USUAL_LOSS = 1.2
"""Of the usual quality; what is coarser may differ more."""


def tolerance_of(recipe: Recipe) -> Tolerance:
    """How near the colours of a recipe's files come."""
    if recipe.codec == "gif":
        return BY_PALETTE
    scale, quality = recipe.form.quality, recipe.quality
    if scale is None:
        return CLOSELY
    if quality.kilobits or quality.at_most:
        return BY_SIZE
    given = quality.level if quality.level is not None else scale.usual
    down = abs(given - scale.best) > abs(scale.usual - scale.best) * _USUAL_LOSS
    if not down and recipe.colour.primaries != "bt709":
        return CONVERTED
    coarse = down or recipe.container in ("webp", "page", "still", "folder")
    return LOOSELY if coarse else CLOSELY


def colours_check(apart: Sequence[tuple[float, float]], within: Tolerance) -> Check:
    """Hold by how much pictures differ at most, each in its flat parts and elsewhere, against what is allowed."""
    flat, other = (max((one[k] for one in apart), default=0.0) for k in (0, 1))
    planned = f"within {within.flat:g} of 255 where it is flat, {within.other:g} elsewhere"
    holds = flat <= within.flat and other <= within.other and len(apart) > 0
    return Check("colours", planned, f"{flat:.1f} and {other:.1f} apart at most", holds)


def parts_apart(made: Pixels, frame: Any, colour: Colour) -> tuple[float, float]:
    """By how much parts of a picture that was read back differ at most from what it was to show: flat ones, others.

    Parts that are not wholly opaque are passed over, since files keep them each in its own way.
    """
    # Of 16 bits, rounded to 8 they would be up to half a code aside already.
    apart = means_apart(made, frame, colour)
    picture = to_bytes(made) if made.dtype == np.uint16 else made
    whole = np.ones(apart.shape, bool)
    if picture.shape[2] == 4:
        whole = _means(picture[..., 3:])[..., 0] > 254.9
    still = _is_flat(picture)
    return float(apart[whole & still].max(initial=0)), float(apart[whole & ~still].max(initial=0))


def means_apart(picture: Pixels, frame: Any, colour: Colour) -> NDArray[np.float64]:
    """By how much the mean colour of each part differs at most."""
    apart: NDArray[np.float64] = np.abs(_means(picture)[..., :3] - _means_of_frame(frame, colour)).max(axis=-1)
    return apart


def rgb_of(frame: Any, colour: Colour) -> NDArray[Any]:
    """A decoded frame as RGB or RGBA; arrays are that already."""
    if isinstance(frame, np.ndarray):
        return frame
    kind = frame.format
    if not (kind.is_rgb or kind.has_palette):
        return rgb_of_yuv(frame, PixelForm(kind.name, colour.matrix, colour.range == "full"))
    clear = kind.has_palette or any(part.is_alpha for part in kind.components)
    if max(part.bits for part in kind.components) > 12:
        return np.asarray(frame.to_ndarray(format="rgba64le" if clear else "rgb48le"))
    return np.asarray(frame.to_ndarray(format="rgba" if clear else "rgb24"))


def luma_of(frame: Any, colour: Colour) -> NDArray[np.float32]:
    """Brightness of a decoded frame over mid grey, from 0 to 255; of YUV without alpha its own numbers."""
    if isinstance(frame, np.ndarray) or not frame.format.name.startswith("yuv") or frame.format.name.startswith("yuva"):
        return luma(on_grey(rgb_of(frame, colour)), colour.matrix)
    plane, bits = frame.planes[0], frame.format.components[0].bits
    kind = np.dtype(np.uint16 if bits > 8 else np.uint8)
    codes = np.frombuffer(plane, kind).reshape(plane.height, -1)[:, : plane.width].astype(np.float32)
    if colour.range == "full":
        return np.asarray(codes * (255 / ((1 << bits) - 1)), np.float32)
    unit = 1 << (bits - 8)
    return np.asarray((codes - 16 * unit) * (255 / (219 * unit)), np.float32)


def on_grey(pixels: Pixels) -> Pixels:
    """Composited over mid grey: colours of clear pixels do not count."""
    return over(pixels, (127, 127, 127)) if pixels.shape[2] == 4 else pixels


def _is_flat(picture: NDArray[np.uint8]) -> NDArray[np.bool_]:
    """Which parts have one colour, up to a little beyond their edges."""
    around = np.ones((5, 5), np.uint8)
    spread = cv2.absdiff(cv2.dilate(picture, around), cv2.erode(picture, around))
    _, busy = cv2.threshold(spread, FLAT, 1, cv2.THRESH_BINARY)
    return np.asarray(_means(np.asarray(busy)).max(axis=-1) == 0)


def _means_of_frame(frame: Any, colour: Colour) -> NDArray[np.float64]:
    """Mean R, G and B of each part; of YUV its own numbers, since single colours that leave RGB would be cut off."""
    if isinstance(frame, np.ndarray):
        return _means(frame)[..., :3]
    if frame.format.is_rgb or frame.format.has_palette:
        return _means(frame.to_ndarray(format="rgb24"))
    form = PixelForm(frame.format.name, colour.matrix, colour.range == "full")
    y, cb, cr = (_means(plane)[..., 0] for plane in planes_of_yuv(frame, form))
    if colour.range == "full":
        codes = np.stack([y, cb - 128, cr - 128], axis=-1)
    else:
        codes = np.stack([(y - 16) * 255 / 219, (cb - 128) * 255 / 224, (cr - 128) * 255 / 224], axis=-1)
    return np.asarray(codes @ to_rgb(colour.matrix).T, np.float64)


def _means(picture: Pixels) -> NDArray[np.float64]:
    """Mean codes of 255 of each part of a picture, of one channel or more; shape (rows, columns, channels)."""
    unit = int(np.iinfo(picture.dtype).max) // 255
    high, wide = picture.shape[:2]
    columns, rows = max(min(PARTS[0], wide // LEAST), 1), max(min(PARTS[1], high // LEAST), 1)
    tops, lefts = np.arange(rows + 1) * high // rows, np.arange(columns + 1) * wide // columns
    # Sums of strips need no copy of the picture in a wider type.
    kind = cv2.CV_32S if unit == 1 else cv2.CV_64F
    strips = [
        cv2.reduce(picture[top:below], 0, cv2.REDUCE_SUM, dtype=kind).reshape(wide, -1)
        for top, below in itertools.pairwise(tops)
    ]
    sums = np.add.reduceat(np.stack(strips), lefts[:-1], axis=1)
    return np.asarray(sums / (unit * np.multiply.outer(np.diff(tops), np.diff(lefts))[..., None]), np.float64)
