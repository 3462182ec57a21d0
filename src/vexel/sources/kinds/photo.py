"""Source kind ``photo``: one picture, of which each frame shows a part: panned and zoomed by its dials."""

from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_array

from vexel.core.errors import SourceError
from vexel.core.evaluate.source_facts import SourceFacts
from vexel.core.lanes.dial import Dial
from vexel.imaging.images import header_of, picture_in
from vexel.imaging.light import Picture, encoded, light_of
from vexel.sources.pictures.sequence_report import layers_of, oddities_of
from vexel.sources.protocols import FrameRequest

MOST_ZOOM = 20
DIALS = (
    Dial("x", 0.5, 0, 1, about="where the part lies, from left to right"),
    Dial("y", 0.5, 0, 1, about="where the part lies, from top to bottom"),
    Dial("zoom", 1, 1, MOST_ZOOM, "×", "how much larger the part is seen"),
)
SHARPNESS = -0.5
"""Of the cubic that weights pixels (R. Keys, Cubic convolution interpolation, 1981)."""


class PhotoFile:
    """A picture file.

    Parameters
    ----------
    file : Path
    layer : str
        Of layered EXR files; empty takes the main one.
    """

    def __init__(self, file: Path, layer: str = "") -> None:
        header = header_of(file)
        if header.width < 2 or header.height < 2:
            raise SourceError(f"{file.name} has {header.width} × {header.height} pixels: take a larger picture")
        self._picture = picture_in(file, layer)
        self._light = light_of(self._picture)
        high, wide = self._picture.shape[:2]
        layers = (("layer", one.name) for one in layers_of(file))
        about = (("size", f"{wide:,} × {high:,}"), ("depth", header.depth), *layers)
        self.facts = SourceFacts(
            dials=DIALS, pictures=True, size=(wide, high), about=about, findings=tuple(oddities_of(file, layer))
        )

    def show(self, asked: FrameRequest) -> Picture:
        """The part that the dials name, at the frame's size; see `Source.show`."""
        x, y, zoom = (asked.dials.get(dial.name, dial.default) for dial in DIALS)
        high, wide = self._light.shape[:2]
        left, top, part_wide, part_high = part_of((wide, high), asked.size, x, y, zoom)
        down = weights(high, top, part_high, asked.size[1])
        across = weights(wide, left, part_wide, asked.size[0])
        rows = (down @ self._light.reshape(high, wide * 4)).reshape(asked.size[1], wide, 4)
        turned = np.ascontiguousarray(rows.transpose(1, 0, 2)).reshape(wide, asked.size[1] * 4)
        light = (across @ turned).reshape(asked.size[0], asked.size[1], 4).transpose(1, 0, 2)
        light = np.ascontiguousarray(np.maximum(light, 0), np.float32)
        light[..., 3] = np.minimum(light[..., 3], 1)
        return light if self._picture.dtype == np.float32 else encoded(np.minimum(light, 1))


def part_of(
    size: tuple[int, int], frame: tuple[int, int], x: float, y: float, zoom: float
) -> tuple[float, float, float, float]:
    """The part of a picture that fills a frame: left, top, width and height in pixels of the picture.

    Parameters
    ----------
    size, frame : (int, int)
        Widths and heights of the picture and of the frame.
    x, y : float
        Where it lies between the edges, from 0 to 1.
    zoom : float
        At 1 it is the largest part of the frame's shape.
    """
    scale = min(size[0] / frame[0], size[1] / frame[1]) / zoom
    wide, high = frame[0] * scale, frame[1] * scale
    return (size[0] - wide) * x, (size[1] - high) * y, wide, high


def weights(length: int, begin: float, part: float, count: int) -> csr_array:
    """How much each pixel of a line counts for each pixel of a part of it, drawn with `count` pixels.

    A cubic that grows with the reduction, so that nothing flickers when it is smaller; places are exact, so that a
    slow pan does not step from pixel to pixel.

    Returns
    -------
    csr_array, shape (count, length), float32
        Each row adds up to 1; pixels beyond the edge are those at the edge.
    """
    step = part / count
    grown = max(step, 1.0)
    centres = begin + (np.arange(count) + 0.5) * step - 0.5
    reach = int(np.ceil(2 * grown))
    places = np.floor(centres)[:, None].astype(int) + np.arange(-reach, reach + 2)
    share = _cubic(np.abs(places - centres[:, None]) / grown)
    share /= share.sum(axis=1, keepdims=True)
    rows = np.repeat(np.arange(count), places.shape[1])
    columns = np.clip(places, 0, length - 1).ravel()
    return csr_array((share.ravel().astype(np.float32), (rows, columns)), shape=(count, length))


def _cubic(t: NDArray[np.float64]) -> NDArray[np.float64]:
    near = (SHARPNESS + 2) * t**3 - (SHARPNESS + 3) * t**2 + 1
    far = SHARPNESS * (t**3 - 5 * t**2 + 8 * t - 4)
    return np.where(t <= 1, near, np.where(t < 2, far, 0.0))
