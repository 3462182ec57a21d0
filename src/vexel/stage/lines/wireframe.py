"""Wires: the edges of meshes, drawn as lines that are seen through one another.

A renderer in software takes 0.3 µs a line. As long strips, drawn by OpenCV,
lines take a tenth of that.
"""

from dataclasses import dataclass

import cv2
import numpy as np
import pyvista as pv
from numpy.typing import NDArray
from vtkmodules.util.numpy_support import vtk_to_numpy
from vtkmodules.vtkFiltersCore import vtkStripper

from vexel.stage.lines.compositing import thickened

SUB_PIXEL_BITS = 4
"""Ends of lines are placed to a sixteenth of a pixel."""
FAR_ASIDE = 1e8
"""Pixels; what lies further outside the frame is drawn nearer, so that it fits 32 bits."""


@dataclass(frozen=True)
class Wire:
    """The edges of a mesh, each once, as strips.

    Attributes
    ----------
    points : ndarray, shape (N, 4), float32
        Homogeneous.
    corners : ndarray, shape (M,), int
        Numbers of the points along all strips, one strip after another.
    starts : ndarray, shape (K,), int
        Where in `corners` each strip but the first begins.
    """

    points: NDArray[np.float32]
    corners: NDArray[np.int64]
    starts: NDArray[np.int64]


def wire_of(mesh: pv.PolyData) -> Wire:
    """The edges of a mesh."""
    bare = pv.PolyData()
    bare.copy_structure(mesh)
    # A mesh has half as many edges again as triangles; as strips OpenCV projects each point once.
    stripper = vtkStripper()
    stripper.SetInputData(bare.extract_all_edges())
    stripper.Update()
    strips = pv.wrap(stripper.GetOutput())
    points = np.ones((strips.n_points, 4), np.float32)
    points[:, :3] = strips.points
    lines = strips.GetLines()
    return Wire(
        points, vtk_to_numpy(lines.GetConnectivityArray()).copy(), vtk_to_numpy(lines.GetOffsetsArray())[1:-1].copy()
    )


def wire_mask(wire: Wire, projection: NDArray[np.float64], size: tuple[int, int], thick: float) -> NDArray[np.bool_]:
    """Where the lines of a wire are, shape (H, W), the bottom row first.

    Parameters
    ----------
    wire : Wire
    projection : ndarray, shape (4, 4)
        From the world to the frame, whose sides are at −1 and 1; what is nearer
        than the near plane has z < −w.
    size : (int, int)
        Pixels.
    thick : float
        Pixels.
    """
    width, height = size
    mask = np.zeros((height, width), np.uint8)
    seen = wire.points @ projection.T.astype(np.float32)
    ahead = seen[:, 2] >= -seen[:, 3]
    if ahead.all():
        strips = np.split(_pixels(seen, size)[wire.corners], wire.starts)
    else:
        strips = _ahead_of(seen[wire.corners], ahead[wire.corners], wire.starts, size)
    cv2.polylines(mask, strips, False, 255, 1, cv2.LINE_8, SUB_PIXEL_BITS)
    return thickened(mask > 0, thick)


def _ahead_of(
    seen: NDArray[np.float32], ahead: NDArray[np.bool_], starts: NDArray[np.int64], size: tuple[int, int]
) -> list[NDArray[np.int32]]:
    """Strips without what is nearer than the near plane, cut where they cross it."""
    # Behind the camera a projection turns points inside out: a line across the frame would be drawn.
    joined = np.ones(len(seen) - 1, bool)
    joined[starts - 1] = False
    crossing = np.flatnonzero(joined & (ahead[:-1] != ahead[1:]))
    cuts = np.union1d(starts, crossing + 1)
    first = np.concatenate([[0], cuts])
    kept = [strip for strip, on in zip(np.split(_pixels(seen, size, ahead), cuts), ahead[first], strict=True) if on]
    one, other = seen[crossing], seen[crossing + 1]
    # Along a line z + w changes evenly, and is nought on the near plane.
    before, after = one[:, 2] + one[:, 3], other[:, 2] + other[:, 3]
    at = one + (before / (before - after))[:, None] * (other - one)
    inner = np.where(ahead[crossing, None], one, other)
    return [*kept, *np.stack([_pixels(inner, size), _pixels(at, size)], axis=1)]


def _pixels(
    seen: NDArray[np.float32], size: tuple[int, int], there: NDArray[np.bool_] | None = None
) -> NDArray[np.int32]:
    """Places in the frame as OpenCV counts them: whole numbers are the middles of pixels, in sixteenths."""
    deep = seen[:, 3] if there is None else np.where(there, seen[:, 3], np.float32(1))
    half = np.array(size, np.float32) / 2
    middle = half - np.float32(0.5)
    places = seen[:, :2] / deep[:, None] * half
    far = np.maximum(np.abs(places).max(axis=1) / np.float32(FAR_ASIDE), 1)
    places /= far[:, None]
    return np.rint((places + middle) * (1 << SUB_PIXEL_BITS)).astype(np.int32)
