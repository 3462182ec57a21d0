"""Values that change over the shot: keys, with easing out of each."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from vexel.core.hermite import hermite
from vexel.core.lanes.easing import NEARLY, Easing

Array = NDArray[np.float64]
LINEAR = Easing("linear")


@dataclass(frozen=True)
class Key:
    """A value at a place of the lane, and how it continues from there.

    Attributes
    ----------
    at : float
        Phase.
    value : float
        In the unit of what is driven.
    easing : Easing
        Out of this key, to the next.
    """

    at: float
    value: float
    easing: Easing = LINEAR


@dataclass(frozen=True)
class LaneTiming:
    """How a lane runs through its keys over the shot.

    Attributes
    ----------
    repeat : float
        How many times over the shot; may be a fraction.
    back : bool
        Whether each repeat plays back and forth.
    offset : float
        How much of one time it is ahead; a lane that goes over the whole shot
        starts again at its end.
    begin, end : float
        Phases between which it runs; before and after, it rests.
    """

    repeat: float = 1
    back: bool = False
    offset: float = 0
    begin: float = 0
    end: float = 1

    def places(self, phases: Array) -> Array:
        """Position of the lane among its keys at given phases, shape (N,), 0 to 1."""
        if self == LaneTiming():
            return phases
        run = np.clip((phases - self.begin) / (self.end - self.begin), 0.0, 1.0) * self.repeat
        run = snapped(snapped(run, np.rint(run)), np.float64(self.repeat))
        # The end of the last time is its end, not the beginning of another.
        times = np.where(run >= self.repeat, max(np.ceil(self.repeat) - 1, 0), np.floor(run))
        place = run - times
        if self.offset:
            ahead = place + self.offset
            ahead = snapped(ahead, np.rint(ahead))
            place = ahead - np.floor(ahead)
        return 1 - np.abs(1 - 2 * place) if self.back else place


def snapped(values: Array, exact: Array | np.float64) -> Array:
    """Values that lie within rounding of exact ones, as these; shape (N,).

    Places of keys in seconds, and of repeats within a part of the shot, are no
    binary fractions: without this a jump came a frame late.
    """
    return np.where(np.abs(values - exact) < NEARLY, exact, values)


def lane_values(keys: Sequence[Key], places: Array, closes: bool = False) -> Array:
    """Values of a lane.

    Parameters
    ----------
    keys : sequence of Key
        Rising. Before the first and after the last one the value stays.
    places : ndarray, shape (N,)
        Phases, or where the lane's `LaneTiming` puts them.
    closes : bool
        Whether the last key meets the first in a loop, so that a smooth curve
        continues through the seam.

    Returns
    -------
    ndarray, shape (N,)
        In the unit of the key values.
    """
    at = np.array([key.at for key in keys])
    value = np.array([key.value for key in keys])
    if len(keys) == 1:
        return np.full_like(places, value[0])
    rising = bool(np.all(places[1:] >= places[:-1]))
    places = _at_keys(at, places, rising)
    smooth = any(key.easing.kind == "smooth" for key in keys[:-1])
    slopes = _slopes(at, value, closes) if smooth else value
    result = np.empty_like(places)
    for n, these in _stretches(at, places, rising):
        easing, width = keys[n].easing, at[n + 1] - at[n]
        progress = places[these] - at[n]
        progress /= width
        if (n == 0 and at[0] > 0) or (n == len(keys) - 2 and at[-1] < 1):
            np.clip(progress, 0.0, 1.0, out=progress)
        if easing.kind == "smooth":
            result[these] = hermite(progress, value[n], value[n + 1], slopes[n] * width, slopes[n + 1] * width)
        else:
            eased = easing(progress)
            eased *= value[n + 1] - value[n]
            eased += value[n]
            result[these] = eased
    return result


def _at_keys(at: Array, places: Array, rising: bool) -> Array:
    """Places with those that are next to a key at the key."""
    if not rising:
        near = np.clip(np.searchsorted(at, places), 1, len(at) - 1)
        return snapped(snapped(places, at[near]), at[near - 1])
    # Of 100,000 places in order a few are next to a key: looking at all took more than half of a lane's time.
    places = places.copy()
    for key in at[::-1]:
        these = slice(*np.searchsorted(places, (key - 2 * NEARLY, key + 2 * NEARLY)))
        places[these] = snapped(places[these], key)
    return places


def _stretches(at: Array, places: Array, rising: bool) -> Iterator[tuple[int, slice | NDArray[np.intp]]]:
    """Which places lie between each key and the next; the outer ones belong to the first and last stretch."""
    if rising:
        bounds = [0, *np.searchsorted(places, at[1:-1]), len(places)]
        for n, (first, last) in enumerate(pairwise(bounds)):
            if first < last:
                yield n, slice(first, last)
        return
    stretch = np.searchsorted(at[1:-1], places, side="right")
    for n in range(len(at) - 1):
        these = np.flatnonzero(stretch == n)
        if len(these):
            yield n, these


def _slopes(at: Array, value: Array, closes: bool) -> Array:
    """Slopes at the keys of a curve that never leaves the values between two of them.

    After Fritsch and Butland, 1984: at a turning point it is level, elsewhere
    the weighted harmonic mean of the two secants; at the ends of a lane that
    does not close, a one-sided formula, held within three times the secant.
    """
    inside = slice(None)
    if closes and value[0] == value[-1] and len(at) > 2:
        turn = at[-1] - at[0]
        at = np.concatenate([at[-2:-1] - turn, at, at[1:2] + turn])
        value = np.concatenate([value[-2:-1], value, value[1:2]])
        inside = slice(1, -1)
    width = np.diff(at)
    secant = np.diff(value) / width
    if len(secant) == 1:
        return np.repeat(secant, 2)
    slopes = np.zeros_like(value)
    before, after = secant[:-1], secant[1:]
    near, far = width[:-1] + 2 * width[1:], 2 * width[:-1] + width[1:]
    on = before * after > 0
    mean = near[on] / before[on] + far[on] / after[on]
    slopes[1:-1][on] = (far + near)[on] / mean
    slopes[0] = _end_slope(width[0], width[1], secant[0], secant[1])
    slopes[-1] = _end_slope(width[-1], width[-2], secant[-1], secant[-2])
    return slopes[inside]


def _end_slope(width: float, next_width: float, secant: float, next_secant: float) -> float:
    """Slope at an end, by the parabola through the three outermost keys."""
    slope = ((2 * width + next_width) * secant - width * next_secant) / (width + next_width)
    if slope * secant <= 0:
        return 0.0
    return 3 * secant if secant * next_secant < 0 and abs(slope) > 3 * abs(secant) else slope
