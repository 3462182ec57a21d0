"""How the camera moves: positions for all frames at once. The world's up is +z."""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from vexel.core.vectors import crosses, units

Direction = Literal["ccw", "cw"]
DIRECTION_DECIMALS = 10
"""Decimals of the camera's direction: finer than a pixel of any picture, coarser than rounding errors."""


@dataclass(frozen=True)
class CameraPath:
    """Where the camera is and looks in every frame.

    Attributes
    ----------
    positions, targets, ups : ndarray, shape (N, 3)
        In the source's units; `ups` are unit vectors.
    azimuths_deg, elevations_deg : ndarray, shape (N,)
    """

    positions: NDArray[np.float64]
    targets: NDArray[np.float64]
    ups: NDArray[np.float64]
    azimuths_deg: NDArray[np.float64]
    elevations_deg: NDArray[np.float64]


def orbit(
    azimuths_deg: NDArray[np.float64],
    *,
    elevation_deg: float | NDArray[np.float64],
    centre: tuple[float, float, float],
    distance: float | NDArray[np.float64],
    axis: tuple[float, float, float] = (0.0, 0.0, 1.0),
) -> CameraPath:
    """A turntable: the camera goes round the centre, at one height or at changing ones.

    Parameters
    ----------
    azimuths_deg : ndarray, shape (N,)
        At 0 the camera is at −y and looks along +y; azimuth increases
        counter-clockwise seen from above.
    elevation_deg : float or ndarray, shape (N,)
        Height of the camera over the centre's horizon, −90 to 90.
    centre : tuple of 3 floats
    distance : float or ndarray, shape (N,)
        Both in the source's units.
    axis : tuple of 3 floats
        That it goes round, through the centre. All is turned with it, on the
        shortest way from +z.

    Returns
    -------
    CameraPath
        Its angles are those about the axis.
    """
    elevations = np.broadcast_to(np.asarray(elevation_deg, dtype=np.float64), azimuths_deg.shape)
    a, e = np.radians(azimuths_deg), np.radians(elevations)
    away = np.stack([np.cos(e) * np.sin(a), -np.cos(e) * np.cos(a), np.sin(e)], axis=1)
    ups = np.stack([-np.sin(e) * np.sin(a), np.sin(e) * np.cos(a), np.cos(e)], axis=1)
    lean = axis_rotation(axis)
    # So that equal angles, however many turns apart, are equal views to the bit.
    away, ups = (np.round(vectors @ lean.T, DIRECTION_DECIMALS) for vectors in (away, ups))
    middle = np.asarray(centre, dtype=np.float64)
    return CameraPath(
        positions=middle + np.reshape(distance, (-1, 1)) * away,
        targets=np.broadcast_to(middle, away.shape),
        ups=ups,
        azimuths_deg=azimuths_deg,
        elevations_deg=elevations,
    )


def axis_rotation(axis: tuple[float, float, float]) -> NDArray[np.float64]:
    """The rotation that takes +z to an axis on the shortest way, shape (3, 3); about x where it points straight down.

    By Rodrigues's formula, ``R = I + K + K²/(1 + c)`` for ``K`` the cross
    product with ``z × axis`` and ``c`` their cosine.
    """
    x, y, z = np.asarray(axis, dtype=np.float64) / np.linalg.norm(axis)
    # The formula divides by 1 + z: straight down, every half turn about a level axis is as short.
    if z < -1 + 1e-12:
        return np.diag([1.0, -1.0, -1.0])
    cross = np.array([[0.0, 0.0, x], [0.0, 0.0, y], [-x, -y, 0.0]])
    rotation: NDArray[np.float64] = np.eye(3) + cross + cross @ cross / (1 + z)
    return rotation


def rotated(
    vectors: NDArray[np.float64], degrees: NDArray[np.float64], axis: tuple[float, float, float]
) -> NDArray[np.float64]:
    """Vectors, shape (N, 3), each rotated about an axis by its angle, shape (N,); counter-clockwise seen from it."""
    a = np.radians(degrees)
    cos, sin = (np.round(f(a), DIRECTION_DECIMALS)[:, None] for f in (np.cos, np.sin))
    k = np.asarray(axis, dtype=np.float64) / np.linalg.norm(axis)
    along = (vectors @ k)[:, None] * k
    result: NDArray[np.float64] = (
        along + (vectors - along) * cos + np.cross(np.broadcast_to(k, vectors.shape), vectors) * sin
    )
    return result


def view_of(positions: NDArray[np.float64], targets: NDArray[np.float64], ups: NDArray[np.float64]) -> CameraPath:
    """A camera path with the angles that follow from where it stands and looks; arrays of shape (N, 3)."""
    away = positions - targets
    flat = np.hypot(away[:, 0], away[:, 1])
    return CameraPath(
        positions=positions,
        targets=targets,
        ups=ups,
        # Unwrapped, so that a camera that passes behind the subject continues from 180° and does not jump to −180°.
        azimuths_deg=np.degrees(np.unwrap(np.arctan2(away[:, 0], -away[:, 1]))),
        elevations_deg=np.degrees(np.arctan2(away[:, 2], flat)),
    )


def rolled(ways: NDArray[np.float64], roll_deg: float | NDArray[np.float64]) -> NDArray[np.float64]:
    """Up vectors of cameras that look along `ways`, rolled clockwise as their user sees it.

    Parameters
    ----------
    ways : ndarray, shape (N, 3)
        Not 0.
    roll_deg : float or ndarray, shape (N,)

    Returns
    -------
    ndarray, shape (N, 3)
        Unit vectors at right angles to `ways`. Straight up or down, where the
        world's up says nothing, +y is up.
    """
    forward = units(ways)
    # Straight up or down the world's up lies along the view and says nothing.
    steep = np.abs(forward[:, 2:]) > 1 - 1e-9
    world = np.where(steep, np.array([[0.0, 1.0, 0.0]]), np.array([[0.0, 0.0, 1.0]]))
    right = units(crosses(forward, world))
    upright = crosses(right, forward)
    angle = np.radians(np.broadcast_to(np.asarray(roll_deg, dtype=np.float64), len(forward)))[:, None]
    ups: NDArray[np.float64] = upright * np.cos(angle) + right * np.sin(angle)
    return ups


def rolled_by(path: CameraPath, degrees: float | NDArray[np.float64]) -> CameraPath:
    """A camera path rolled clockwise on top of how it is, by one angle or one for each row."""
    angle = np.reshape(np.radians(degrees), (-1, 1))
    right = np.cross(path.targets - path.positions, path.ups)
    right /= np.linalg.norm(right, axis=1, keepdims=True)
    return replace(path, ups=path.ups * np.cos(angle) + right * np.sin(angle))
