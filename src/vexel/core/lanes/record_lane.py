"""A lane that was played in: the course of a gesture, thinned to keys."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import Mistake
from vexel.core.short_number import short
from vexel.core.time.clock import Clock

TOLERANCE = 0.01
"""Keys may miss the gesture by this share of its whole range."""


def keys_of_recording(
    clock: Clock, samples: Sequence[tuple[float, float]], tolerance: float = TOLERANCE
) -> list[list[float]]:
    """Keys of a lane that runs as a gesture did.

    Parameters
    ----------
    clock : Clock
    samples : sequence of (float, float)
        Shown frame, which may lie between two, and value; in any order. Of
        several at one time the last counts.
    tolerance : float
        Share of the gesture's range by which the keys may miss a sample, 0 to 1.

    Returns
    -------
    list of [phase, value]
        Rising; the lane goes straight from each to the next.

    Raises
    ------
    Mistake
        When nothing was played in, or a sample is not a number.
    """
    latest = {float(frame): float(value) for frame, value in samples}
    course = np.array(sorted(latest.items()), dtype=np.float64).reshape(-1, 2)
    if not np.isfinite(course).all():
        raise Mistake("a recorded value is not a finite number: record it again")
    if len(course) < 2 or course[0, 0] < -1 or course[-1, 0] > clock.frames:
        raise Mistake("nothing was recorded: move the dial or the camera while the shot plays")
    shown = np.arange(clock.frames)
    phases = np.interp(course[:, 0], shown, clock.phases())
    # Frames that are held, or come by again on the way back, have one phase; its last value is the one that stays.
    by_phase = dict(zip(phases.tolist(), course[:, 1].tolist(), strict=True))
    phases, values = np.array(sorted(by_phase.items())).T
    if len(phases) == 1:
        return [[float(phases[0]), short(values[0])]]
    reach = tolerance * (float(np.ptp(values)) or 1.0)
    return [[float(f"{phases[n]:.9g}"), short(values[n])] for n in simplified(phases, values, reach)]


def simplified(at: NDArray[np.float64], values: NDArray[np.float64], reach: float) -> list[int]:
    """Which points of a course are enough for straight lines between them to miss none by more than `reach`.

    Ramer, 1972, and Douglas and Peucker, 1973, with the distance taken along
    the value, since a lane is a value at each time.

    Parameters
    ----------
    at, values : ndarray, shape (N,)
        `at` rises.
    reach : float
        In the unit of the values.

    Returns
    -------
    list of int
        Rising, with the first and the last point.
    """
    kept, open_stretches = {0, len(at) - 1}, [(0, len(at) - 1)]
    while open_stretches:
        first, last = open_stretches.pop()
        if last - first < 2:
            continue
        inner = slice(first + 1, last)
        line = np.interp(at[inner], at[[first, last]], values[[first, last]])
        miss = np.abs(values[inner] - line)
        worst = int(miss.argmax())
        if miss[worst] > reach:
            middle = first + 1 + worst
            kept.add(middle)
            open_stretches += [(first, middle), (middle, last)]
    return sorted(kept)
