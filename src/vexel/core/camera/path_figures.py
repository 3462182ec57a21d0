"""Figures of a camera's movement, and of the subject in its frame, for all frames at once."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.camera_path import CameraPath
from vexel.core.camera.framing import Sphere
from vexel.core.vectors import BLOCK, crosses, dots, in_blocks, lengths, units

Array = NDArray[np.float64]
MOST_JUDGED = 10_000
"""Number of frames in which a subject is judged point by point even where it is sure to be in sight."""


@dataclass(frozen=True)
class PathFigures:
    """How a camera moves from frame to frame, and how its subject is framed.

    Attributes
    ----------
    speeds : ndarray, shape (N - 1,)
        Units of the source a frame.
    jolts : ndarray, shape (N - 2,)
        Change of the velocity from one frame to the next, in the same unit; of frames 1 to N - 2.
    turns_deg : ndarray, shape (N - 1,)
        Degrees that the line of sight turns a frame.
    subject_px : ndarray, shape (N - 1,)
        Pixels a frame that the subject moves at most.
    margins : ndarray, shape (N,)
        Room between the subject and the nearest edge, as a share of half the
        frame; negative where it is cut off, −inf where some of it is behind the camera.
    shares : ndarray, shape (N,)
        Share of the frame's shorter side that it takes.
    """

    speeds: Array
    jolts: Array
    turns_deg: Array
    subject_px: Array
    margins: Array
    shares: Array


def path_figures(
    path: CameraPath,
    views_high_deg: Array,
    size: tuple[int, int],
    subject: Sphere,
    parallel_highs: Array | None = None,
    shifts: Array | None = None,
    hull: Array | None = None,
) -> PathFigures:
    """Work out the figures.

    Parameters
    ----------
    path : CameraPath
    views_high_deg : ndarray, shape (N,)
        Vertical field of view.
    size : (int, int)
        Width and height of the frame in pixels.
    subject : Sphere
    parallel_highs : ndarray, shape (N,), optional
        Height that the frame covers, in parallel projection.
    shifts : ndarray, shape (N, 2), optional
        Where the frame's middle lies, right and up of the optical axis, in
        halves of its width and height.
    hull : ndarray, shape (P, 3), optional
        The subject's outermost points, by which it is judged; else by its sphere.
    """
    forward, right, up = axes_of(path)
    half_high = np.tan(np.radians(views_high_deg) / 2)
    half_wide = half_high * size[0] / size[1]
    velocity = np.diff(path.positions, axis=0)
    turns = _angles_deg(forward[:-1], forward[1:])
    focal_px = size[1] / 2 / half_high
    axes = (forward, right, up)
    middles = np.zeros((len(forward), 2)) if shifts is None else shifts
    halves, scales = (half_wide, half_high), focal_px
    if parallel_highs is not None:
        halves, scales = (parallel_highs / 2 * size[0] / size[1], parallel_highs / 2), size[1] / parallel_highs
    framed = _framed if parallel_highs is None else _framed_in_parallel
    margins, shares = framed(path, axes, halves, middles, subject)
    if hull is not None and len(hull):
        # The sphere holds all points: where it is wholly in sight, so are they.
        rows = _rows_to_judge(margins)
        seen = (forward[rows], right[rows], up[rows]), (halves[0][rows], halves[1][rows]), middles[rows]
        judged = _framed_points(path.positions[rows], *seen, hull, parallel_highs is not None)
        margins, shares = (_between(values, rows, len(margins)) for values in judged)
    return PathFigures(
        speeds=lengths(velocity),
        jolts=lengths(np.diff(velocity, axis=0)),
        turns_deg=turns,
        subject_px=_moved_px(path, axes, scales, subject, parallel_highs is not None),
        margins=margins,
        shares=shares,
    )


def tilts_deg(path: CameraPath) -> Array:
    """Degrees by which the horizon leans, clockwise, shape (N,); 0 straight up or down, where there is none."""
    forward, right, up = axes_of(path)
    leans = np.degrees(np.arctan2(right[:, 2], up[:, 2]))
    return np.where(np.abs(forward[:, 2]) > 1 - 1e-9, 0.0, leans)


def axes_of(path: CameraPath) -> tuple[Array, Array, Array]:
    """Unit vectors forward, right and up of each frame, shape (N, 3)."""
    forward = units(path.targets - path.positions)
    right = units(crosses(forward, path.ups))
    return forward, right, crosses(right, forward)


def _angles_deg(a: Array, b: Array) -> Array:
    """Angles between unit vectors, exact for small ones too."""
    # By the tangent: an arccosine loses half its digits for the small turns between frames.
    angles: Array = np.degrees(np.arctan2(lengths(crosses(a, b)), dots(a, b)))
    return angles


def _rows_to_judge(margins: Array) -> NDArray[np.intp]:
    """All frames of a shot; of a very long one those in which something may be cut off, and every n-th other one."""
    count = len(margins)
    if count <= MOST_JUDGED:
        return np.arange(count)
    chosen = margins < 0
    chosen[:: -(-count // MOST_JUDGED)] = chosen[-1] = True
    return np.flatnonzero(chosen)


def _between(values: Array, rows: NDArray[np.intp], count: int) -> Array:
    """Values of some frames for all of them; in between, straight from one to the next."""
    if len(rows) == count:
        return values
    sound = np.isfinite(values)
    result = np.interp(np.arange(count), rows[sound], values[sound]) if sound.any() else np.full(count, values[0])
    result[rows] = values
    return result


def _framed_points(
    positions: Array,
    axes: tuple[Array, Array, Array],
    halves: tuple[Array, Array],
    middles: Array,
    hull: Array,
    parallel: bool,
) -> tuple[Array, Array]:
    """Margin and share of points: of a solid, its outermost ones are as good as all."""

    def block(rows: slice) -> tuple[Array, Array]:
        start = positions[rows]
        # How deep, and how far aside, each point lies: shape (rows, points) each.
        deep, *aside = (axis[rows] @ hull.T - dots(start, axis[rows])[:, None] for axis in axes)
        behind = np.zeros(len(start), bool) if parallel else (deep <= 0).any(axis=1)
        by = 1.0 if parallel else np.where(deep > 0, deep, 1.0)
        margin, extents = np.full(len(start), np.inf), []
        for across, half, moved in zip(aside, halves, middles.T, strict=True):
            seen = across / by / half[rows, None]
            low, high = seen.min(axis=1), seen.max(axis=1)
            margin = np.minimum(margin, 1 - np.maximum(moved[rows] - low, high - moved[rows]))
            extents.append((high - low) / 2)
        share = np.where(halves[0][rows] < halves[1][rows], extents[0], extents[1])
        return np.where(behind, -np.inf, margin), np.where(behind, np.inf, share)

    # Each row is as wide as there are points.
    margins, shares = in_blocks(len(positions), block, max(BLOCK // max(len(hull), 1) * 4, 64))
    return margins, shares


def _framed(
    path: CameraPath, axes: tuple[Array, Array, Array], halves: tuple[Array, Array], middles: Array, subject: Sphere
) -> tuple[Array, Array]:
    """Margin and share of a sphere: along each axis it lies between the two planes through the camera that touch it."""
    away = np.asarray(subject.centre) - path.positions
    deep = dots(away, axes[0])
    margins, extents = [], []
    for axis, half, moved in zip(axes[1:], halves, middles.T, strict=True):
        aside = dots(away, axis)
        distance = np.hypot(aside, deep)
        outside = distance > subject.radius
        spread = np.arcsin(np.where(outside, subject.radius / np.maximum(distance, 1e-300), 0.0))
        middle = np.arctan2(aside, deep)
        seen = outside & (np.abs(middle) + spread < np.pi / 2)
        ends = [np.tan(np.where(seen, middle + way * spread, 0.0)) / half for way in (-1, 1)]
        margins.append(np.where(seen, 1 - np.maximum(moved - ends[0], ends[1] - moved), -np.inf))
        extents.append(np.where(seen, (ends[1] - ends[0]) / 2, np.inf))
    shorter = np.where(halves[0] < halves[1], extents[0], extents[1])
    return np.minimum(*margins), shorter


def _framed_in_parallel(
    path: CameraPath, axes: tuple[Array, Array, Array], halves: tuple[Array, Array], middles: Array, subject: Sphere
) -> tuple[Array, Array]:
    away = np.asarray(subject.centre) - path.positions
    margins = np.full(len(away), np.inf)
    for axis, half, moved in zip(axes[1:], halves, middles.T, strict=True):
        aside = np.abs(dots(away, axis) - moved * half)
        margins = np.minimum(margins, 1 - (aside + subject.radius) / half)
    return margins, subject.radius / np.minimum(*halves)


def _moved_px(
    path: CameraPath, axes: tuple[Array, Array, Array], scales: Array, subject: Sphere, parallel: bool
) -> Array:
    """How far the farthest moving one of the sphere's six outermost points moves on screen."""
    most = np.zeros(len(scales) - 1)
    away = np.asarray(subject.centre) - path.positions
    middle = [dots(away, axis) for axis in axes]
    for column in range(3):
        for side in (-subject.radius, subject.radius):
            deep, *aside = (at + side * axis[:, column] for at, axis in zip(middle, axes, strict=True))
            before = deep > 0
            scale = scales if parallel else scales / np.where(before, deep, 1.0)
            moved = np.hypot(*(np.diff(at * scale) for at in aside))
            most = np.maximum(most, np.where(before[:-1] & before[1:], moved, 0.0))
    return most
