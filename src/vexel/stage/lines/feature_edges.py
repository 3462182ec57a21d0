"""Edges that are drawn: outlines and creases, found in the depths of the picture itself."""

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.evaluate.frame_spec import CameraPose
from vexel.stage.lines.compositing import thickened

CREASE = 0.6
"""Slopes that differ by more than the tangent of about 31° make a crease."""
JUMP_PIXELS = 8.0
"""A step in depth of more than this number of pixel widths makes an outline."""
_AHEAD, _ALONE = np.array([0.0, -1.0, 1.0], np.float32), np.array([0.0, 1.0, 0.0], np.float32)
_BEND = np.array([1.0, -2.0, 1.0], np.float32)
Array = NDArray[np.float32]


def line_mask(depths: Array, camera: CameraPose, thick: float) -> NDArray[np.bool_]:
    """Where outlines and creases are.

    Depth itself changes quickly on a surface that is seen at a slant; its
    inverse is linear on a plane in perspective, as depth is in parallel
    projection, so what departs from that is a step or a bend. A curved
    surface bends more from pixel to pixel where it is seen at a slant, by
    1 + slope². Lines belong to the nearer surface.

    Parameters
    ----------
    depths : ndarray, shape (H, W)
        Infinite where nothing is.
    camera : CameraPose
    thick : float
        Pixels.
    """
    lines = np.zeros(depths.shape, bool)
    area = _area(np.isfinite(depths))
    lines[area] = _lines_of(depths[area], len(depths), camera)
    return thickened(lines, thick)


def _area(there: NDArray[np.bool_]) -> tuple[slice, slice]:
    """The rectangle in which anything is, with a margin for what looks at its neighbours."""
    ends = []
    for axis in (1, 0):
        taken = np.flatnonzero(there.any(axis=axis))
        ends.append(slice(max(int(taken[0]) - 2, 0), int(taken[-1]) + 3) if len(taken) else slice(0, 0))
    return ends[0], ends[1]


def _lines_of(depths: Array, height: int, camera: CameraPose) -> NDArray[np.bool_]:
    """Lines a pixel wide, in a part of a frame that is so high."""
    if not depths.size:
        return np.zeros(depths.shape, bool)
    there = np.isfinite(depths)
    parallel = camera.parallel_high > 0
    safe = np.where(there, depths, np.float32(camera.far if parallel else 1))
    if parallel:
        flat, scale = -safe, np.full_like(safe, height / camera.parallel_high)
    else:
        flat = np.where(there, 1 / safe, np.float32(0))
        scale = safe * np.float32(height / 2 / np.tan(np.radians(camera.view_high_deg) / 2))
    # All in pixels' widths at that depth: how it slopes, and how it bends, across and upward.
    slope_x, slope_y = _filtered(flat, _AHEAD, _ALONE) * scale, _filtered(flat, _ALONE, _AHEAD) * scale
    bend_x, bend_y = _filtered(flat, _BEND, _ALONE) * scale, _filtered(flat, _ALONE, _BEND) * scale
    step = -(bend_x + bend_y)
    slant = np.float32(CREASE) * (1 + slope_x * slope_x + slope_y * slope_y)
    creased = np.maximum(np.abs(bend_x), np.abs(bend_y)) > slant
    lines: NDArray[np.bool_] = there & ((step > JUMP_PIXELS) | (creased & (step > -JUMP_PIXELS)))
    lines |= there & ~cv2.erode(there.astype(np.uint8), np.ones((3, 3), np.uint8), borderValue=1).astype(bool)
    return lines


def _filtered(values: Array, across: Array, upward: Array) -> Array:
    return np.asarray(cv2.sepFilter2D(values, cv2.CV_32F, across, upward, borderType=cv2.BORDER_REPLICATE), np.float32)
