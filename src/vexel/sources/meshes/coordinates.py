"""Coordinates of points: as 32-bit numbers where these are fine enough, else as 64-bit ones."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

FINE = 2.0**-16
"""Steps of 32-bit numbers may be this share of a mesh's extent: less than a hundredth of a pixel."""


def compact(points: NDArray[np.floating[Any]]) -> NDArray[np.floating[Any]]:
    """Points as 32-bit numbers, unless their steps are coarse for the extent of the points.

    Parameters
    ----------
    points : ndarray, shape (N, 3)
    """
    if not len(points) or points.dtype == np.float32:
        return points
    extent = float(np.ptp(points, axis=0).max())
    return points.astype(np.float32) if _spacing(points) <= FINE * extent else points


def stored_step(points: NDArray[np.floating[Any]]) -> float:
    """The coarsest step between coordinates that the numbers of points can hold.

    64-bit numbers that came from 32-bit ones have the steps of those, separately along each axis.
    """
    if not len(points):
        return 0.0
    steps = [0.0]
    for column in points.T:
        step = float(np.spacing(np.float32(np.abs(column).max())))
        if points.dtype.itemsize <= 4 or (
            _lie_on(column, column.astype(np.float32), step) and not _lie_on(column, np.rint(column), step)
        ):
            steps.append(step)
    return max(steps)


def _lie_on(column: NDArray[Any], grid: NDArray[Any], step: float) -> bool:
    """Whether numbers are those of a grid, but for what a rotation by 90° leaves of rounding."""
    return bool((np.abs(column - grid) <= 1e-6 * step).all())


def _spacing(points: NDArray[np.floating[Any]]) -> float:
    return float(np.spacing(np.float32(np.abs(points).max())))
