"""Frames as the pictures of a file: of its size, over its ground where it keeps no transparency, mixed if wanted."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import Failure
from vexel.core.recipes.colour_tags import to_primaries
from vexel.core.recipes.frame_size import Fitted
from vexel.imaging.codes import to_bytes
from vexel.imaging.compositing import over
from vexel.imaging.resize import resized
from vexel.output.footage.footage import Footage
from vexel.output.reading.sequence_kind import other_size

Pixels = NDArray[Any]
"""RGB or RGBA, straight alpha, codes of 8 or 16 bits; shape (H, W, 3 or 4)."""
_FILTERS = {
    "area": cv2.INTER_AREA,
    "lanczos": cv2.INTER_LANCZOS4,
    "bicubic": cv2.INTER_CUBIC,
    "nearest": cv2.INTER_NEAREST,
}


@dataclass(frozen=True)
class Source:
    """Frames of one size, read from disk on request.

    Attributes
    ----------
    footage : Footage
    width, height : int
    transparent : bool
        Whether one of them has transparency.
    deep : bool
        Whether one of them is finer than 8 bits a channel.
    """

    footage: Footage
    width: int
    height: int
    transparent: bool
    deep: bool

    @classmethod
    def of(cls, footage: Footage) -> "Source":
        """Look at all frames: the kind of a sequence is that of each of them.

        Raises
        ------
        Failure
            When one is missing, cannot be read, or has another size than the first.
        """
        kind = footage.kind
        return cls(footage, kind.width, kind.height, kind.clear, kind.deep)

    def picture(self, position: int, deep: bool = False) -> Pixels:
        """Pixels of a frame, straight; of 16 bits where it has them and `deep` asks for them.

        Raises
        ------
        Failure
            When it has another size than the first.
        """
        pixels = self.footage.picture(position, deep and self.deep)
        if pixels.shape[:2] != (self.height, self.width):
            high, wide = pixels.shape[:2]
            raise Failure(other_size(self.footage.file_names[position], wide, high, self.width, self.height))
        return pixels


@dataclass(frozen=True)
class Placement:
    """How frames are converted to the pictures of a file.

    Attributes
    ----------
    fitted : Fitted
    alpha : bool
        Whether the pictures have transparency; else they lie over `ground`.
    ground : str
    filter : str
    deep : bool
        Whether they have 16 bits a channel.
    primaries : str
        Into which colours are converted.
    is_data : bool
        Whether codes are numbers of a data pass, and no light.
    """

    fitted: Fitted
    alpha: bool
    ground: str = "#000000"
    filter: str = "area"
    deep: bool = False
    primaries: str = "bt709"
    is_data: bool = False

    def placed(self, pixels: Pixels) -> Pixels:
        """A frame as the file shows it; RGBA with transparency, else RGB."""
        pixels = self._laid(self._depth(pixels))
        return pixels if self.primaries == "bt709" else _in_primaries(pixels, self.primaries)

    def _laid(self, pixels: Pixels) -> Pixels:
        if not self.fitted.is_whole:
            pixels = self._scaled(pixels)
        if self.alpha:
            return pixels if pixels.shape[2] == 4 else with_alpha(pixels)
        return over(pixels, _codes(self.ground)) if pixels.shape[2] == 4 else pixels

    def _depth(self, pixels: Pixels) -> Pixels:
        if self.deep and pixels.dtype == np.uint8:
            return pixels.astype(np.uint16) * np.uint16(257)
        if not self.deep and pixels.dtype == np.uint16:
            return to_bytes(pixels)
        return pixels

    def _scaled(self, pixels: Pixels) -> Pixels:
        """The visible part, scaled and placed on the canvas."""
        left, top, wide, high = self.fitted.part
        part = np.ascontiguousarray(pixels[top : top + high, left : left + wide])
        if self.fitted.scaled != (wide, high):
            part = self._resized(part)
        canvas = (self.fitted.height, self.fitted.width)
        if part.shape[:2] == canvas:
            return part
        if self.alpha and part.shape[2] == 3:
            part = with_alpha(part)
        # Bars are clear where the file keeps transparency, and of the ground's colour where not.
        clear = self.alpha or part.shape[2] == 4
        unit = int(np.iinfo(part.dtype).max) // 255
        fill = (0, 0, 0, 0) if clear else tuple(unit * code for code in _codes(self.ground))
        whole = filled(*canvas, fill[: part.shape[2]], part.dtype)
        x, y = self.fitted.at
        whole[y : y + part.shape[0], x : x + part.shape[1]] = part
        return whole

    def _resized(self, part: Pixels) -> Pixels:
        # A box that is as wide as a pixel of the smaller picture is no filter for a larger one.
        larger = self.fitted.enlarged > 1 and self.filter == "area"
        how = cv2.INTER_CUBIC if larger else _FILTERS[self.filter]
        return resized(part, self.fitted.scaled, how, is_data=self.is_data)


def with_alpha(pixels: Pixels) -> Pixels:
    """RGB as wholly opaque RGBA."""
    return np.asarray(cv2.cvtColor(pixels, cv2.COLOR_RGB2RGBA))


def _codes(colour: str) -> tuple[int, int, int]:
    """Red, green and blue of a colour such as ``#2b2f33``, 0 to 255."""
    red, green, blue = (int(colour[at : at + 2], 16) for at in (1, 3, 5))
    return red, green, blue


def filled(height: int, width: int, colour: Sequence[int], dtype: Any = np.uint8) -> Pixels:
    """A picture of one colour, of as many channels as that has."""
    whole = np.empty((height, width, len(colour)), dtype)
    # Row by row: pixel by pixel NumPy takes fifteen times as long.
    row = np.empty((width, len(colour)), dtype)
    row[:] = colour
    whole[:] = row
    return whole


def _in_primaries(pixels: Pixels, primaries: str) -> Pixels:
    """The same colours by other primaries, worked out in linear light."""
    (light,) = _lights(pixels)
    light[..., :3] = np.clip(cv2.transform(light[..., :3], to_primaries(primaries)), 0, 1)
    return _codes_of(light, pixels)


def mixed_with(one: Pixels, other: Pixels, share: Fraction) -> Pixels:
    """Two pictures mixed in linear light, `share` of the second; of the same type as its inputs."""
    first, second = _lights(one, other)
    return _codes_of(first * np.float32(1 - share) + second * np.float32(share), one)


def _lights(*pictures: Pixels) -> list[NDArray[np.float32]]:
    """Linear light, premultiplied by alpha, as RGBA, of pictures."""
    from vexel.imaging.light import light_of, light_of_codes

    lights = []
    for pixels in pictures:
        rgba = pixels if pixels.shape[2] == 4 else with_alpha(pixels)
        lights.append(light_of_codes(rgba) if pixels.dtype == np.uint16 else light_of(rgba))
    return lights


def _codes_of(light: NDArray[np.float32], like: Pixels) -> Pixels:
    """Linear light as a picture of the same kind as another."""
    from vexel.imaging.light import deep_codes

    codes = deep_codes(light)[..., : like.shape[2]]
    return np.ascontiguousarray(codes if like.dtype == np.uint16 else to_bytes(codes))


def bled(pixels: Pixels) -> Pixels:
    """The same picture with the colours of its edges continued under its clear pixels.

    Codecs smear colours over several pixels. The colour of clear pixels is never seen, but
    black there would darken the edges: the fringe that a film gets when it is composited over a page.
    """
    cover = pixels[..., 3]
    clear = cover == 0
    if not clear.any() or clear.all():
        return pixels
    most = float(np.iinfo(pixels.dtype).max)
    share = cover.astype(np.float32) / most
    weighted = pixels[..., :3].astype(np.float32) * share[..., None]
    made, left = pixels.copy(), clear
    for side in (5, 17, 65):
        weights = cv2.blur(share, (side, side))
        reached = left & (weights > 1e-4)
        near = cv2.blur(weighted, (side, side))[reached] / weights[reached][:, None]
        made[reached, :3] = np.rint(np.clip(near, 0, most)).astype(pixels.dtype)
        left = left & ~reached
    made[left, :3] = np.rint(weighted.sum(axis=(0, 1)) / max(float(share.sum()), 1e-6)).astype(pixels.dtype)
    return made
