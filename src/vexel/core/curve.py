"""Curves through points in space, and how far along them a camera is."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
PIECES = 64
"""Each stretch is measured in so many pieces."""
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(8)


@dataclass(frozen=True)
class Curve:
    """Cubic stretches from point to point.

    Attributes
    ----------
    points : ndarray, shape (S + 1, 3)
        Where the stretches begin, and where the last one ends.
    leaving, arriving : ndarray, shape (S, 3)
        Slopes at both ends of each stretch, over a stretch of length 1.
    """

    points: Array
    leaving: Array
    arriving: Array

    @property
    def stretches(self) -> int:
        """How many there are."""
        return len(self.leaving)

    def at(self, place: Array) -> Array:
        """Points, shape (N, 3); `place` counts stretches, 0 to S, shape (N,)."""
        n, u = self._within(place)
        p0, p1, m0, m1 = self.points[n], self.points[n + 1], self.leaving[n], self.arriving[n]
        u2, u3 = u * u, u * u * u
        curve: Array = (2 * u3 - 3 * u2 + 1) * p0 + (u3 - 2 * u2 + u) * m0 + (3 * u2 - 2 * u3) * p1 + (u3 - u2) * m1
        return curve

    def slope(self, place: Array) -> Array:
        """Derivative by the place, shape (N, 3)."""
        n, u = self._within(place)
        p0, p1, m0, m1 = self.points[n], self.points[n + 1], self.leaving[n], self.arriving[n]
        slope: Array = 6 * (u * u - u) * (p0 - p1) + (3 * u * u - 4 * u + 1) * m0 + (3 * u * u - 2 * u) * m1
        return slope

    @property
    def length(self) -> float:
        """Of all stretches."""
        return float(self._measured[1][-1])

    def lengths_at(self, place: Array) -> Array:
        """Length from the beginning to places, by Gauss's quadrature in each piece; shape (N,)."""
        marks, lengths = self._measured
        piece = np.clip(np.searchsorted(marks, place, side="right") - 1, 0, len(marks) - 2)
        result: Array = lengths[piece] + self._between(marks[piece], place)
        return result

    def place_at(self, length: Array) -> Array:
        """Places at lengths from the beginning, shape (N,)."""
        marks, lengths = self._measured
        place = np.interp(length, lengths, marks)
        for _ in range(3):
            speed = np.maximum(np.linalg.norm(self.slope(place), axis=1), 1e-12 * max(self.length, 1e-300))
            place = np.clip(place + (length - self.lengths_at(place)) / speed, 0.0, float(self.stretches))
        return place

    @cached_property
    def _measured(self) -> tuple[Array, Array]:
        marks = np.linspace(0, self.stretches, self.stretches * PIECES + 1)
        pieces = self._between(marks[:-1], marks[1:])
        return marks, np.concatenate([[0.0], np.cumsum(pieces)])

    def _between(self, begin: Array, end: Array) -> Array:
        half, middle = (end - begin) / 2, (end + begin) / 2
        places = middle[:, None] + half[:, None] * _NODES
        speeds = np.linalg.norm(self.slope(places.ravel()), axis=1).reshape(places.shape)
        result: Array = half * (speeds @ _WEIGHTS)
        return result

    def _within(self, place: Array) -> tuple[NDArray[np.intp], Array]:
        n = np.clip(np.floor(place), 0, self.stretches - 1).astype(np.intp)
        return n, (place - n)[:, None]


def straight(points: Array, closed: bool = False) -> Curve:
    """Straight lines from point to point, shape (K, 3); a closed one goes back to the first."""
    ends = np.concatenate([points, points[:1]]) if closed else points
    steps = np.diff(ends, axis=0)
    return Curve(ends, steps, steps)


def catmull_rom(points: Array, closed: bool = False) -> Curve:
    """The centripetal Catmull–Rom curve through points, which has no cusp and no loop within a stretch.

    After Yuksel, Schaefer and Keyser, 2011: knots lie the square root of the
    distance apart. At the ends of an open one the curve goes on as it comes,
    by the point mirrored.

    Parameters
    ----------
    points : ndarray, shape (K, 3)
        At least two, no two neighbours at one place.
    closed : bool
        Whether it goes back to the first point, smoothly.
    """
    if len(points) == 2 and not closed:
        return straight(points)
    if closed:
        around = np.concatenate([points[-1:], points, points[:2]])
    else:
        around = np.concatenate([[2 * points[0] - points[1]], points, [2 * points[-1] - points[-2]]])
    apart = np.sqrt(np.linalg.norm(np.diff(around, axis=0), axis=1))[:, None]
    secant = np.diff(around, axis=0) / apart
    both = np.diff(around, axis=0)[:-1] + np.diff(around, axis=0)[1:]
    slopes = secant[:-1] - both / (apart[:-1] + apart[1:]) + secant[1:]
    return Curve(around[1:-1], slopes[:-1] * apart[1:-1], slopes[1:] * apart[1:-1])
