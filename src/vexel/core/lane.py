"""Values that change over the shot: keys, with easing between them."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from vexel.core.ease import Ease, eased


def lane_values(keys: Sequence[tuple[float, float]], ease: Ease, phases: NDArray[np.float64]) -> NDArray[np.float64]:
    """Values of a lane at given phases.

    Parameters
    ----------
    keys : sequence of (phase, value)
        In rising order of phase. Before the first and after the last key the
        value stays.
    ease : str
        Easing of each stretch from one key to the next.
    phases : ndarray, shape (N,)

    Returns
    -------
    ndarray, shape (N,)
        In the unit of the key values.
    """
    at = np.array([phase for phase, _ in keys])
    value = np.array([v for _, v in keys])
    if len(keys) == 1:
        return np.full_like(phases, value[0])
    stretch = np.clip(np.searchsorted(at, phases, side="right") - 1, 0, len(keys) - 2)
    begin, width = at[stretch], at[stretch + 1] - at[stretch]
    progress = eased(ease, np.clip((phases - begin) / width, 0.0, 1.0))
    result: NDArray[np.float64] = value[stretch] * (1 - progress) + value[stretch + 1] * progress
    return result
