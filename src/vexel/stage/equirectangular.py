"""Panoramas: pictures of flat views, laid together as an equirectangular one."""

import itertools
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import TYPE_CHECKING, Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.panorama import directions, eye_size, latitudes, longitudes
from vexel.core.evaluate.frame_spec import CameraPose
from vexel.imaging.premultiplied import light_of_sample, sample_of_light
from vexel.imaging.transfer import ENCODED, LEVELS

if TYPE_CHECKING:
    from vexel.stage.scene.scene import Scene

Array = NDArray[np.float64]
MOST_STRIPS, FEWEST_STRIPS, STRIP = 180, 24, 22
"""Two eyes move on a circle: each stretch of it, this many pixels wide, is seen from its middle. A subject at
11 times their distance away is shifted by half a pixel at most where two stretches meet."""
MARGIN = 2
"""Pixels beyond a view's edge, so that its last ones have neighbours too."""
NEARER = 0.3
"""A view's corners see as near as its middle, whose plane is nearer by this factor."""
ONE_SURFACE = 0.03
"""A surface bends by less than this share of the inverse distance from pixel to pixel; else there is an edge."""
BEND = np.array([[1.0, -2.0, 1.0]], np.float32)
Holds = Literal["light", "numbers", "codes"]
Draw = Callable[[CameraPose, tuple[int, int]], NDArray[Any]]


@dataclass(frozen=True)
class Facet:
    """A flat view that fills a rectangle of the panorama.

    Attributes
    ----------
    rows, columns : slice
    axes : ndarray, shape (3, 3)
        Its right, up and back in the camera's coordinates, a row each.
    eye : ndarray, shape (3,)
        Where its right eye would stand, as a share of the distance of both.
    half_high : float
        Tangent of half its vertical field of view.
    size : (int, int)
        Pixels.
    at : (ndarray, ndarray)
        Where in it each pixel of the rectangle lies, from the top left.
    slant : ndarray
        How much longer the way to each pixel is than along the view's axis.
    """

    rows: slice
    columns: slice
    axes: Array
    eye: Array
    half_high: float
    size: tuple[int, int]
    at: tuple[NDArray[np.float32], NDArray[np.float32]]
    slant: NDArray[np.float32]


def equirectangular(
    scene: "Scene", camera: CameraPose, size: tuple[int, int], draw: Draw, pixel: Array, holds: Holds = "numbers"
) -> NDArray[Any]:
    """An equirectangular picture, the top row first.

    Parameters
    ----------
    scene : Scene
    camera : CameraPose
        Whose line of sight is the picture's middle.
    size : (int, int)
    draw : callable
        Draws a flat view, the top row first: shape (h, w, 4), uint8, or of
        distances along its axis, shape (h, w).
    pixel : ndarray, shape (2,)
        By how much of a pixel the flat views are shifted; it is taken back here.
    holds : {"light", "numbers", "codes"}
        What the flat views hold: light and numbers are interpolated, codes are those of the nearest pixel.
    """
    picture: NDArray[Any] | None = None
    width, height = eye_size(*size, camera.eyes)
    sides = (0,) if camera.eyes == "one" else (-1, 1)
    for number, side in enumerate(sides):
        for facet in facets(width, height, camera.panorama, camera.eyes != "one"):
            # Light and normals stay those of the camera, or a seam would show where two views meet.
            scene.turn(facet.axes.T)
            flat = draw(_aimed(camera, facet, side), facet.size)
            if picture is None:
                picture = np.zeros((size[1], size[0], *flat.shape[2:]), flat.dtype)
            down = number * height if camera.eyes == "top-bottom" else 0
            beside = number * width if camera.eyes == "left-right" else 0
            rows = slice(facet.rows.start + down, facet.rows.stop + down)
            columns = slice(facet.columns.start + beside, facet.columns.stop + beside)
            picture[rows, columns] = _laid(flat, facet, pixel, holds)
    scene.turn(None)
    assert picture is not None
    return picture


def _laid(flat: NDArray[Any], facet: Facet, pixel: Array, holds: Holds) -> Any:
    # A view shifted to the right shows its content further to the left.
    x, y = facet.at[0] - np.float32(pixel[0]), facet.at[1] + np.float32(pixel[1])
    if holds == "light":
        return _light_at(flat, x, y)
    if holds == "codes":
        return cv2.remap(flat, x, y, cv2.INTER_NEAREST, borderMode=cv2.BORDER_REPLICATE)
    if flat.ndim == 3:
        return _between(flat, x, y)
    return np.multiply(_distances_at(flat, x, y), facet.slant)


def _light_at(flat: NDArray[np.uint8], x: NDArray[np.float32], y: NDArray[np.float32]) -> NDArray[np.uint8]:
    """A sample between its pixels, interpolated as light."""
    if int(flat[..., 3].min(initial=255)) < 255:
        return sample_of_light(np.asarray(_between(light_of_sample(flat), x, y), np.float32))
    # Opaque ones, which most are, in half of the time.
    levels = cv2.LUT(np.ascontiguousarray(flat), LEVELS)
    return np.asarray(cv2.LUT(np.asarray(_between(levels, x, y), np.uint16), ENCODED), np.uint8)


def _between(flat: NDArray[Any], x: NDArray[np.float32], y: NDArray[np.float32]) -> Any:
    return cv2.remap(flat, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)


def _distances_at(flat: NDArray[np.float32], x: NDArray[np.float32], y: NDArray[np.float32]) -> NDArray[np.float32]:
    """Distances between pixels: on one surface interpolated, at an edge those of the nearest pixel.

    Between a near edge and what is far behind it there is nothing. Along a plane the inverse of the distance is linear.
    """
    near = np.divide(1, flat, out=np.zeros_like(flat), where=flat > 0)
    nearest, between = (
        cv2.remap(near, x, y, how, borderMode=cv2.BORDER_REPLICATE) for how in (cv2.INTER_NEAREST, cv2.INTER_LINEAR)
    )
    # Along a surface the inverse bends little from pixel to pixel, at an edge it jumps.
    bends = np.maximum(np.abs(cv2.filter2D(near, -1, BEND)), np.abs(cv2.filter2D(near, -1, BEND.T)))
    bends[near == 0] = np.inf
    bends = cv2.dilate(bends, np.ones((2, 2), np.uint8), anchor=(0, 0))
    bend = cv2.remap(bends, np.floor(x), np.floor(y), cv2.INTER_NEAREST, borderMode=cv2.BORDER_REPLICATE)
    inverse = np.where(bend < ONE_SURFACE * nearest, between, nearest)
    distances: NDArray[np.float32] = np.divide(1, inverse, out=np.full_like(inverse, np.inf), where=inverse > 0)
    return distances


def _aimed(camera: CameraPose, facet: Facet, side: int) -> CameraPose:
    position, up = np.array(camera.position), np.array(camera.up)
    forward = np.array(camera.target) - position
    forward /= np.linalg.norm(forward)
    right = np.cross(forward, up)
    right /= np.linalg.norm(right)
    base = np.stack([right, np.cross(right, forward), -forward])
    axes = facet.axes @ base
    eye = position + side * camera.eye_gap / 2 * (facet.eye @ base)
    return replace(
        camera,
        position=tuple(eye),
        target=tuple(eye - axes[2] * (camera.near + camera.far) / 2),
        up=tuple(axes[1]),
        view_high_deg=float(np.degrees(2 * np.arctan(facet.half_high))),
        near=camera.near * NEARER,
        panorama="",
    )


@lru_cache(maxsize=2)
def facets(width: int, height: int, covers: str, two_eyes: bool) -> tuple[Facet, ...]:
    """Flat views that fill an eye's picture.

    For one eye four of them stand round the horizon, and one each looks up and
    down. For two, each stretch of the circle has its own, up to the poles.
    """
    around = 2 * np.pi if covers == "sphere" else np.pi
    count = 4 if covers == "sphere" else 2
    if two_eyes:
        whole_circle = width if covers == "sphere" else 2 * width
        count = min(max(whole_circle // STRIP, FEWEST_STRIPS), MOST_STRIPS) * count // 4
    columns = [round(n * width / count) for n in range(count + 1)]
    bands = [0, height // 4, height - height // 4, height]
    made = []
    for top, bottom in itertools.pairwise(bands):
        level, edges = 0.0, columns
        if not top < height / 2 < bottom:
            # Up and down a pixel is a smaller angle, so that stretches may be twice as wide.
            level, edges = np.pi / 2 if top == 0 else -np.pi / 2, [*columns[:-1:2], width] if two_eyes else [0, width]
        for left, right in itertools.pairwise(edges):
            middle = ((left + right) / 2 / width - 0.5) * around
            if two_eyes:
                level = (0.5 - (top + bottom) / 2 / height) * np.pi
            area = slice(top, bottom), slice(left, right)
            made.append(_facet(width, height, covers, area, middle, level))
    return tuple(made)


def _facet(width: int, height: int, covers: str, area: tuple[slice, slice], longitude: float, latitude: float) -> Facet:
    rows, columns = area
    back = -directions(np.array(longitude), np.array(latitude))
    right = np.array([np.cos(longitude), 0.0, np.sin(longitude)])
    axes = np.stack([right, np.cross(back, right), back])
    seen = directions(longitudes(width, covers)[None, columns], latitudes(height)[rows, None]) @ axes.T
    x, y = seen[..., 0] / -seen[..., 2], seen[..., 1] / -seen[..., 2]
    # As many pixels a radian in the view's middle as the panorama has at its horizon.
    scale = height / np.pi
    half = [float(np.abs(tangents).max()) + MARGIN / scale for tangents in (x, y)]
    wide, high = (int(np.ceil(2 * tangent * scale)) for tangent in half)
    half_high = high / 2 / scale
    at = (wide / 2 + x * scale - 0.5).astype(np.float32), (high / 2 - y * scale - 0.5).astype(np.float32)
    slant = np.sqrt(1 + x * x + y * y).astype(np.float32)
    return Facet(rows, columns, axes, right, half_high, (wide, high), at, slant)
