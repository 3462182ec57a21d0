"""How far the camera stands so that the subject fills a share of the frame."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class Sphere:
    """A bounding sphere in the source's own units of length."""

    centre: tuple[float, float, float]
    radius: float


def sphere_about(clouds: Sequence[NDArray[np.floating[Any]]]) -> Sphere:
    """The sphere about the middle of the box that holds all points, just large enough for them.

    Parameters
    ----------
    clouds : sequence of ndarray, shape (n, 3)
        Points of the subject, in its own units; empty ones are passed over.
    """
    filled = [np.asarray(cloud, dtype=np.float64) for cloud in clouds if len(cloud)]
    low = np.min([cloud.min(axis=0) for cloud in filled], axis=0)
    high = np.max([cloud.max(axis=0) for cloud in filled], axis=0)
    centre = (low + high) / 2
    radius = max(float(np.linalg.norm(cloud - centre, axis=1).max()) for cloud in filled)
    x, y, z = (float(v) for v in centre)
    return Sphere((x, y, z), radius)


def distance_to_fill(
    radius: float, fill: float | NDArray[np.float64], shorter_view_deg: float | NDArray[np.float64]
) -> NDArray[np.float64]:
    """Distance from which a sphere takes `fill` of the frame's shorter side.

    The outline of a sphere at distance d is a cone of half angle asin(r/d); on
    the picture plane it spans tan of that. Solved for d:
    ``d = r / sin(atan(fill · tan(view/2)))``.

    Parameters
    ----------
    radius : float
        Of the bounding sphere, in the source's units.
    fill : float or ndarray, shape (N,)
        Share of the shorter side, above 0; 1 touches both edges.
    shorter_view_deg : float or ndarray, shape (N,)
        Field of view along the shorter side, in degrees.

    Returns
    -------
    float or ndarray, shape (N,)
        Distance from the sphere's centre, in the source's units.
    """
    distance: NDArray[np.float64] = radius / np.sin(np.arctan(fill * np.tan(np.radians(shorter_view_deg) / 2)))
    return distance


def clipping(distance: float, radius: float) -> tuple[float, float]:
    """Near and far plane that hold a sphere at this distance, with a margin."""
    return max(distance - 1.1 * radius, 1e-3 * max(distance, radius)), distance + 1.1 * radius
