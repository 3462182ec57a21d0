"""Curves through points in space, and how far along them a camera is."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from vexel.core.hermite import hermite
from vexel.core.vectors import in_blocks, lengths

Array = NDArray[np.float64]
PIECES = 64
"""Pieces in which each stretch is measured."""
MOST_STEPS, NEAR_ENOUGH = 8, 1e-3
"""Newton's method ends with a step below this share of a piece, or gives up: the curve does not move there."""
_MANY, _FEW = (np.polynomial.legendre.leggauss(count) for count in (4, 2))


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
        a, b, c, d = (part[n] for part in self._powers)
        curve: Array = a + u * (b + u * (c + u * d))
        return curve

    def slope(self, place: Array) -> Array:
        """Derivative by the place, shape (N, 3)."""
        n, u = self._within(place)
        _, b, c, d = self._powers
        slope: Array = b[n] + u * (2 * c[n] + u * (3 * d[n]))
        return slope

    @property
    def length(self) -> float:
        """Of all stretches."""
        return float(self._measured[1][-1])

    def place_at(self, length: Array) -> Array:
        """Places at lengths from the beginning, shape (N,).

        Between the measured marks, the place is a cubic of the length that has
        the right slope at both; a step of Newton's method makes that exact.
        """
        (places,) = in_blocks(len(length), lambda rows: (self._places_at(length[rows]),))
        return places

    def _places_at(self, length: Array) -> Array:
        marks, along, speeds = self._measured
        piece = np.clip(np.searchsorted(along, length, side="right") - 1, 0, len(marks) - 2)
        whole = along[piece + 1] - along[piece]
        t = (length - along[piece]) / np.maximum(whole, 1e-300)
        wide = marks[1] - marks[0]
        leaving, arriving = whole / speeds[piece] / wide, whole / speeds[piece + 1] / wide
        share = hermite(t, np.zeros_like(t), np.ones_like(t), leaving, arriving)
        place: Array = marks[piece] + np.clip(share, 0.0, 1.0) * wide
        rest = np.arange(len(place))
        for _ in range(MOST_STEPS):
            at = place[rest]
            speed = np.maximum(lengths(self.slope(at)), 1e-12 * max(self.length, 1e-300))
            miss = length[rest] - along[piece[rest]] - self._between(marks[piece[rest]], at, _FEW)
            step = miss / speed
            # Kept within its piece: where the curve nearly stops, a step may overshoot into the next one.
            place[rest] = np.clip(at + step, marks[piece[rest]], marks[piece[rest] + 1])
            # The error after a step is about the square of it; few places, at sharp bends, need another.
            rest = rest[np.abs(step) > NEAR_ENOUGH * wide]
            if not len(rest):
                break
        return place

    @cached_property
    def _powers(self) -> tuple[Array, Array, Array, Array]:
        """Coefficients of 1, u, u² and u³ of each stretch, shape (S, 3) each."""
        begin, step = self.points[:-1], np.diff(self.points, axis=0)
        second = 3 * step - 2 * self.leaving - self.arriving
        return begin, self.leaving, second, self.leaving + self.arriving - 2 * step

    @cached_property
    def _measured(self) -> tuple[Array, Array, Array]:
        """Marks in equal distances of the place, lengths up to them, and speeds there."""
        marks = np.linspace(0, self.stretches, self.stretches * PIECES + 1)
        along = np.concatenate([[0.0], np.cumsum(self._between(marks[:-1], marks[1:]))])
        # Where a curve does not move its speed is 0, and lengths are divided by it.
        speeds = np.maximum(lengths(self.slope(marks)), 1e-9 * max(float(along[-1]), 1e-300))
        return marks, along, speeds

    def _between(self, begin: Array, end: Array, gauss: tuple[Array, Array] = _MANY) -> Array:
        half, middle = (end - begin) / 2, (end + begin) / 2
        # Speed is the root of a polynomial, which no closed form integrates: by Gauss's rule with four nodes or two.
        total = np.zeros_like(half)
        for node, weight in zip(*gauss, strict=True):
            total += weight * lengths(self.slope(middle + half * node))
        result: Array = half * total
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
    distance apart. At the ends of an open one the curve continues through
    the mirrored point.

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
