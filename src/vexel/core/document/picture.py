"""Rules of the picture: colours, sample positions, sizes that an encoder takes."""

import re
from typing import Final, Literal

import numpy as np
from numpy.typing import NDArray

TRANSPARENT = "transparent"
Pass = Literal["shaded", "edges", "wire", "hidden-line", "clay", "occlusion", "depth", "normal", "matte"]
PASSES: Final[dict[Pass, str]] = {
    "shaded": "shaded",
    "edges": "shaded, with edges",
    "wire": "wire",
    "hidden-line": "hidden line",
    "clay": "clay",
    "occlusion": "occlusion",
    "depth": "depth",
    "normal": "normals",
    "matte": "matte",
}
"""Renderings of a frame, and what people call them."""
Format = Literal["png", "png16", "exr"]
Alpha = Literal["straight", "premultiplied"]
SUFFIXES: Final[dict[Format, str]] = {"png": ".png", "png16": ".png", "exr": ".exr"}
"""Endings of frames' files: PNG with 8 or 16 bits, sRGB; or OpenEXR with half floats, linear."""
DATA_PASSES = ("depth", "normal", "matte")
"""Passes whose pixels are numbers, on which nothing may be written or blurred."""
FAR = 65535
"""Code of the largest distance in the pass of that name, and of where nothing is."""
_GRADIENT = re.compile(r"#[0-9a-fA-F]{6} #[0-9a-fA-F]{6}")
_HEX = re.compile(r"#[0-9a-fA-F]{6}")


def is_background(text: str) -> bool:
    """Whether the text is ``#rrggbb`` or ``transparent``."""
    return text == TRANSPARENT or _HEX.fullmatch(text) is not None


def is_backdrop(text: str) -> bool:
    """Whether the text is a gradient, ``#rrggbb #rrggbb`` from above to below, or ``image:`` and a file."""
    return _GRADIENT.fullmatch(text) is not None or bool(image_of(text))


def image_of(text: str) -> str:
    """The file of a background that is an image, relative to the shot document; empty for any other."""
    return text.removeprefix("image:").strip() if text.startswith("image:") else ""


def rgb(colour: str) -> tuple[int, int, int]:
    """Red, green and blue, 0 to 255, of ``#rrggbb``."""
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


def sample_offsets(samples: int) -> NDArray[np.float64]:
    """Where in the pixel each accumulated sample looks.

    The first points of the R2 low-discrepancy sequence (additive recurrence by
    the plastic number, M. Roberts 2018, from memory), moved so that their mean
    is the pixel's centre: more samples never shift the picture.

    Returns
    -------
    ndarray, shape (samples, 2)
        Offsets in pixels from the pixel's centre, within one pixel; (0, 0)
        for a single sample.
    """
    plastic = 1.32471795724474602596
    index = np.arange(1, samples + 1)
    points = np.stack([index / plastic, index / plastic**2], axis=1) % 1.0
    centred: NDArray[np.float64] = points - points.mean(axis=0)
    return centred


def lens_offsets(samples: int) -> NDArray[np.float64]:
    """Where on the lens each accumulated sample looks from.

    Points of a sunflower (Vogel, 1979, from memory), which cover the disc
    evenly, moved so that their mean is its middle.

    Returns
    -------
    ndarray, shape (samples, 2)
        In radii of the lens.
    """
    index = np.arange(samples)
    radius, angle = np.sqrt((index + 0.5) / samples), index * np.pi * (3 - 5**0.5)
    points = np.stack([radius * np.cos(angle), radius * np.sin(angle)], axis=1)
    centred: NDArray[np.float64] = points - points.mean(axis=0)
    return centred


def even_sides(width: int, height: int) -> tuple[int, int]:
    """The nearest size, not larger, that 4:2:0 video can hold: both sides even."""
    return max(width - width % 2, 2), max(height - height % 2, 2)
