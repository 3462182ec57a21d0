"""Edges that are drawn: outlines and creases, found in the picture itself."""

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.recipe import CameraPose
from vexel.stage.manner import Colour

CREASE_COS = 0.86
"""Neighbouring normals that differ by more than about 31° make a crease."""
JUMP_PIXELS = 8.0
"""A step in depth of more than so many pixels' width makes an outline."""


def line_mask(
    normals: NDArray[np.uint8], depths: NDArray[np.float32], camera: CameraPose, thick: float
) -> NDArray[np.bool_]:
    """Where outlines and creases are.

    Depth itself may change quickly on a surface that is seen at a slant; its
    inverse is linear on a plane in perspective, and so is depth in parallel
    projection, so what departs from that is a step. Lines lie on what is in front.

    Parameters
    ----------
    normals : ndarray, shape (H, W, 4), uint8
        The pass of that name, alpha 0 where nothing is.
    depths : ndarray, shape (H, W)
    camera : CameraPose
    thick : float
        Pixels.
    """
    there = normals[..., 3] > 0
    height = len(depths)
    parallel = camera.parallel_high > 0
    flat = np.where(there, depths, np.float32(camera.far)) if parallel else np.where(there, 1 / depths, 0)
    step = cv2.Laplacian(flat.astype(np.float32), cv2.CV_32F, borderType=cv2.BORDER_REPLICATE)
    safe = np.where(there, depths, np.float32(1))
    if parallel:
        pixel = np.full_like(safe, camera.parallel_high / height)
    else:
        step = -step * safe * safe
        pixel = safe * np.float32(2 * np.tan(np.radians(camera.view_high_deg) / 2) / height)
    lines: NDArray[np.bool_] = there & (step > JUMP_PIXELS * pixel)
    facing = (normals[..., :3].astype(np.float32) - 127.5) / 127.5
    for axis in (0, 1):
        ahead = [slice(None), slice(None)]
        behind = [slice(None), slice(None)]
        ahead[axis], behind[axis] = slice(1, None), slice(None, -1)
        a, b = tuple(ahead), tuple(behind)
        creased = (facing[a] * facing[b]).sum(axis=-1) < CREASE_COS
        lines[b] |= creased & there[a] & there[b]
        lines[b] |= there[b] & ~there[a]
        lines[a] |= there[a] & ~there[b]
    wide = round(thick)
    if wide > 1:
        kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (wide, wide))
        lines = cv2.dilate(lines.astype(np.uint8), kernel).astype(bool)
    return lines


def inked(pixels: NDArray[np.uint8], lines: NDArray[np.bool_], ink: Colour) -> NDArray[np.uint8]:
    """A copy of a picture, premultiplied by alpha, with lines drawn on it."""
    drawn = pixels.copy()
    drawn[lines] = [*(round(255 * c) for c in ink), 255]
    return drawn
