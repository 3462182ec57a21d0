"""Up vectors that turn as little as possible along a way: parallel transport, so that nothing flips over a pole.

The world's up says nothing where a camera looks straight up or down, and is on the other side right after. Carried from
place to place without any turn about the direction of view, an up vector goes through there as if nothing were.
See Bishop, "There is more than one way to frame a curve", American Mathematical Monthly 82 (1975).
"""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.camera_path import rolled
from vexel.core.vectors import crosses, dots, units

Array = NDArray[np.float64]
STEPS = 4096
"""Places along a whole way between which ups are carried; the shortest camera move is longer than such a step."""
FLIP = 30.0
"""Degrees by which a view may turn about its own direction from one frame to the next."""


def steady_ups(forward_at: Callable[[Array], Array], phases: Array, *, closes: bool) -> Array:
    """Up vectors at phases of a way, shape (N, 3).

    Parameters
    ----------
    forward_at : callable
        Directions of view, not 0, at phases; shape (N,) to (N, 3).
    phases : ndarray, shape (N,)
        0 to 1.
    closes : bool
        Whether the way ends as it began: what the ups have turned by then is taken back evenly.
    """
    forward = units(forward_at(np.linspace(0, 1, STEPS + 1)))
    ups = np.empty_like(forward)
    ups[0] = rolled(forward[:1], 0.0)[0]
    for n in range(STEPS):
        ups[n + 1] = _carried(ups[n], forward[n + 1])
    if closes:
        twist = _turns(ups[-1:], ups[:1], forward[:1])[0]
        ups = _turned(ups, forward, twist * np.linspace(0, 1, STEPS + 1))
    places = np.clip(phases, 0, 1) * STEPS
    before = np.minimum(places.astype(np.int64), STEPS - 1)
    share = (places - before)[:, None]
    own = units(forward_at(phases))
    between = ups[before] * (1 - share) + ups[before + 1] * share
    return units(between - dots(between, own)[:, None] * own)


def flips_deg(forward: Array, ups: Array) -> Array:
    """Degrees by which each view turns about its own direction to the next, without its sign; shape (N - 1,)."""
    carried = ups[:-1] - dots(ups[:-1], forward[1:])[:, None] * forward[1:]
    # Where the view turns by a right angle up to the old up, nothing of that is left to compare with.
    there = np.linalg.norm(carried, axis=1) > 1e-6
    turns = np.zeros(len(carried))
    turns[there] = np.abs(np.degrees(_turns(units(carried[there]), ups[1:][there], forward[1:][there])))
    return turns


def _carried(up: Array, forward: Array) -> Array:
    left = up - (up @ forward) * forward
    return left / np.sqrt(left @ left)


def _turns(a: Array, b: Array, axes: Array) -> Array:
    """Angles in radians about axes from `a` to `b`, which are at right angles to them."""
    return np.arctan2(dots(crosses(a, b), axes), dots(a, b))


def _turned(vectors: Array, axes: Array, angles: Array) -> Array:
    """Vectors at right angles to axes, turned about these."""
    return vectors * np.cos(angles)[:, None] + crosses(axes, vectors) * np.sin(angles)[:, None]
