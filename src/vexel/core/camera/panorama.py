"""Panoramas: which direction each pixel of an equirectangular picture looks in.

Columns are equal steps of longitude and rows of latitude; the middle looks
straight ahead. Directions are those of a camera: +x right, +y up, −z ahead.
"""

from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


Covers = Literal["sphere", "half"]
Eyes = Literal["one", "top-bottom", "left-right"]


@dataclass(frozen=True)
class Panorama:
    """How an equirectangular picture covers the directions.

    Attributes
    ----------
    covers : "sphere" or "half"
    eyes : "one", "top-bottom" or "left-right"
        How the pictures of two eyes are arranged in one frame, the left eye's first.
    """

    covers: Covers
    eyes: Eyes

    @property
    def label(self) -> str:
        """For people."""
        return f"{360 if self.covers == 'sphere' else 180}°, {_EYES[self.eyes]}"


_EYES = {"one": "one eye", "top-bottom": "two eyes, one above the other", "left-right": "two eyes, side by side"}


def frame_shape(covers: str, eyes: str) -> Fraction:
    """Width over height of a frame: 2:1 for a whole sphere (Spherical Video V2), and so on for two eyes."""
    beside, above = (2 if eyes == "left-right" else 1), (2 if eyes == "top-bottom" else 1)
    return Fraction((2 if covers == "sphere" else 1) * beside, above)


def eye_size(width: int, height: int, eyes: str) -> tuple[int, int]:
    """Pixels of one eye's picture in a frame."""
    return width // (2 if eyes == "left-right" else 1), height // (2 if eyes == "top-bottom" else 1)


def longitudes(width: int, covers: str) -> Array:
    """Radians to the right of straight ahead, of the middles of the columns, shape (width,)."""
    whole = 2 * np.pi if covers == "sphere" else np.pi
    columns: Array = ((np.arange(width) + 0.5) / width - 0.5) * whole
    return columns


def latitudes(height: int) -> Array:
    """Radians above the horizon, of the middles of the rows from the top, shape (height,)."""
    rows: Array = (0.5 - (np.arange(height) + 0.5) / height) * np.pi
    return rows


def directions(longitude: Array, latitude: Array) -> Array:
    """Unit vectors of directions, broadcast, shape (…, 3)."""
    longitude, latitude = np.broadcast_arrays(longitude, latitude)
    flat = np.cos(latitude)
    return np.stack([flat * np.sin(longitude), np.sin(latitude), -flat * np.cos(longitude)], axis=-1)
