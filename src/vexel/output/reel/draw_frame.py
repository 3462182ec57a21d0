"""A reel's picture drawn: each node of its tree into a part of the frame."""

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from pathlib import Path
from threading import Lock

import cv2
import numpy as np
from cachetools import LRUCache, cached

from vexel.core.document.background import rgb
from vexel.core.document.label import Label
from vexel.core.errors import Mistake, VexelError
from vexel.core.reel.item_spec import TitleItem
from vexel.core.reel.layout import CellPlace, placed_cells
from vexel.core.reel.node import Card, Cells, MissingMedia, Mixed, Node, Plain, ReelFrame, Shown, SideTransition
from vexel.core.reel.reel_spec import MarkSpec
from vexel.disk.named_place import named_place
from vexel.imaging.codes import to_bytes
from vexel.imaging.compositing import laid_over, over
from vexel.imaging.fitting import fitted_into
from vexel.output.job.pictures import Pixels, filled, mixed_with, with_alpha
from vexel.output.reading.picture_file import read_picture
from vexel.output.reel.light import mixed_codes
from vexel.output.reel.reel_texts import caption_label, title_label

Fitted = Callable[[Shown, int, int], Pixels]
"""Gives a frame scaled into a part of a width and a height: RGB or RGBA with straight alpha, 8 bits; not changed."""
MOST_SAID = 260
HOLE, HOLE_TEXT = "#7a2f2f", "#ffffff"


@dataclass(frozen=True)
class Brush:
    """Draws pictures of a reel.

    Attributes
    ----------
    fitted : callable
        See `Fitted`.
    ground : str
        ``#rrggbb`` or ``transparent``.
    folder : Path
        That paths of images are relative to.
    """

    fitted: Fitted
    ground: str
    folder: Path

    @property
    def is_clear(self) -> bool:
        """Whether pictures have transparency."""
        return self.ground == "transparent"

    def frame(self, frame: ReelFrame, width: int, height: int, mark: MarkSpec | None = None) -> Pixels:
        """A frame with its labels and its mark: RGB of 8 bits, or RGBA where the ground is transparent."""
        pixels = self.node(frame.node, width, height)
        if mark is not None:
            pixels = self._marked(pixels, mark)
        return _labelled(pixels, frame.labels) if frame.labels else pixels

    def node(self, node: Node, width: int, height: int) -> Pixels:
        """What a node shows, of a size."""
        if isinstance(node, Shown):
            return self._on_ground(self.fitted(node, width, height), width, height)
        if isinstance(node, Plain):
            return self._plain(node.colour, width, height)
        if isinstance(node, Card):
            return self._card(node.title, width, height)
        if isinstance(node, MissingMedia):
            return _hole(node.why or f"{node.what} is missing", width, height, self.is_clear)
        if isinstance(node, Cells):
            return self._cells(node, width, height)
        one, other = self.node(node.one, width, height), self.node(node.other, width, height)
        if isinstance(node, Mixed):
            if self.is_clear:
                return mixed_with(one, other, Fraction(node.share).limit_denominator(1 << 16))
            return mixed_codes(one, other, node.share)
        if isinstance(node, SideTransition):
            return _moved(one, other, node)
        edge = round(width * node.place)
        return np.concatenate([one[:, :edge], other[:, edge:]], axis=1)

    def _on_ground(self, pixels: Pixels, width: int, height: int) -> Pixels:
        """A picture in the middle of the ground."""
        if pixels.shape[:2] == (height, width):
            if self.is_clear:
                return pixels if pixels.shape[2] == 4 else with_alpha(pixels)
            return over(pixels, rgb(self.ground)) if pixels.shape[2] == 4 else pixels
        whole = self._plain(None, width, height)
        top, left = (height - pixels.shape[0]) // 2, (width - pixels.shape[1]) // 2
        part = self._on_ground(pixels, pixels.shape[1], pixels.shape[0])
        whole[top : top + pixels.shape[0], left : left + pixels.shape[1]] = part
        return whole

    def _plain(self, colour: str | None, width: int, height: int) -> Pixels:
        if colour is None and self.is_clear:
            return filled(height, width, (0, 0, 0, 0))
        return filled(height, width, (*rgb(colour or self.ground), 255)[: 4 if self.is_clear else 3])

    def _card(self, title: TitleItem, width: int, height: int) -> Pixels:
        return _card_drawn(self, title, width, height).copy()

    def _cells(self, node: Cells, width: int, height: int) -> Pixels:
        whole = self._plain(None, width, height)
        labels = []
        places = placed_cells(node.layout, width, height)
        for cell, one, place in zip(node.layout.cells, node.nodes, places, strict=True):
            self._cell(whole, one, place, cell.border_colour)
            if cell.caption:
                labels.append(caption_label(node.layout, cell.caption, place, width, height))
        return _labelled(whole, tuple(labels)) if labels else whole

    def _cell(self, whole: Pixels, node: Node, place: CellPlace, border_colour: str) -> None:
        left, top, width, height = place.rect
        if edge := place.border:
            colour = (*rgb(border_colour), 255)[: whole.shape[2]]
            whole[max(top - edge, 0) : top + height + edge, max(left - edge, 0) : left + width + edge] = colour
        part = self.node(node, width, height)
        whole[top : top + height, left : left + width] = part[: whole.shape[0] - top, : whole.shape[1] - left]

    def _marked(self, pixels: Pixels, mark: MarkSpec) -> Pixels:
        image = image_of(self.folder, mark.file)
        if image is None:
            return pixels
        height, width = pixels.shape[:2]
        high = max(round(mark.size * height), 1)
        wide = max(round(image.shape[1] * high / image.shape[0]), 1)
        small = fitted_into(image, wide, high, "contain")
        small = small if small.shape[2] == 4 else with_alpha(small)
        room = round(mark.margin * height)
        vertical, _, side = mark.corner.partition("-")
        top = room if vertical == "top" else height - room - small.shape[0]
        left = room if side == "left" else width - room - small.shape[1]
        top, left = max(top, 0), max(left, 0)
        whole = pixels.copy()
        place = whole[top : top + small.shape[0], left : left + small.shape[1]]
        place[:] = laid_over(place, small[: place.shape[0], : place.shape[1]], mark.opacity)
        return whole


def _moved(one: Pixels, other: Pixels, node: SideTransition) -> Pixels:
    """The second comes in over the first, or pushes it out, by whole pixels."""
    axis = 1 if node.towards in ("left", "right") else 0
    length = one.shape[axis]
    come = round(length * node.share)
    back = node.towards in ("left", "up")
    if node.kind == "wipe":
        kept, shown = (slice(0, length - come), slice(length - come, length)) if back else (
            slice(come, length), slice(0, come))  # fmt: skip
        parts = [_cut(one, axis, kept), _cut(other, axis, shown)]
    else:
        first, second = (slice(come, length), slice(0, come)) if back else (
            slice(0, length - come), slice(length - come, length))  # fmt: skip
        parts = [_cut(one, axis, first), _cut(other, axis, second)]
    return np.concatenate(parts if back else parts[::-1], axis=axis)


def _cut(pixels: Pixels, axis: int, part: slice) -> Pixels:
    return pixels[:, part] if axis else pixels[part]


def _labelled(pixels: Pixels, labels: tuple[Label, ...]) -> Pixels:
    from vexel.stage.labels import labelled

    if pixels.shape[2] == 4:
        return np.asarray(labelled(pixels, labels))
    return np.asarray(cv2.cvtColor(labelled(with_alpha(pixels), labels), cv2.COLOR_RGBA2RGB))


def _card_key(brush: Brush, title: TitleItem, width: int, height: int) -> tuple[object, ...]:
    # A title's framings are a mapping, so that it has no hash.
    return brush, title.model_dump_json(), width, height


@cached(LRUCache(16), key=_card_key, lock=Lock())
def _card_drawn(brush: Brush, title: TitleItem, width: int, height: int) -> Pixels:
    whole = brush._plain(title.background, width, height)
    if title.image and (image := image_of(brush.folder, title.image)) is not None:
        whole = brush._on_ground(fitted_into(image, width, height, "cover", title.focus), width, height)
    if not title.text:
        return whole
    return _labelled(whole, (title_label(title),))


@lru_cache(16)
def _hole(said: str, width: int, height: int, clear: bool) -> Pixels:
    """Stripes, and what should be there."""
    y, x = np.mgrid[:height, :width]
    stripe = ((x + y) // max(height // 12, 1)) % 2
    whole = np.empty((height, width, 4 if clear else 3), np.uint8)
    whole[..., :3] = np.where(stripe[..., None] == 0, rgb(HOLE), tuple(c * 3 // 4 for c in rgb(HOLE)))
    whole[..., 3:] = 255
    said = said if len(said) <= MOST_SAID else f"{said[:MOST_SAID]}…"
    return _labelled(whole, (Label(said, (0.5, 0.5), 0.05, HOLE_TEXT, "middle"),))


def image_of(folder: Path, name: str) -> Pixels | None:
    """An image that lies over or behind others, 8 bits; None where it is not there, which findings say."""
    try:
        file = named_place(folder, name)
    except Mistake:
        return None
    try:
        return _image(file, file.stat().st_mtime_ns)
    except (OSError, VexelError):
        return None


@lru_cache(32)
def _image(file: Path, changed: int) -> Pixels:
    pixels = read_picture(file)
    return to_bytes(pixels) if pixels.dtype == np.uint16 else pixels
