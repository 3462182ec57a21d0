"""Easing curves, after the W3C CSS Easing Functions specification."""

from typing import Final, Literal

import numpy as np
from numpy.typing import NDArray

Ease = Literal["linear", "ease", "ease-in", "ease-out", "ease-in-out"]

CURVES: Final[dict[str, tuple[float, float, float, float]]] = {
    "ease": (0.25, 0.1, 0.25, 1.0),
    "ease-in": (0.42, 0.0, 1.0, 1.0),
    "ease-out": (0.0, 0.0, 0.58, 1.0),
    "ease-in-out": (0.42, 0.0, 0.58, 1.0),
}


def eased(ease: Ease, progress: NDArray[np.float64]) -> NDArray[np.float64]:
    """Apply an easing to progress values.

    Parameters
    ----------
    ease : str
        A name of the specification, or ``linear``.
    progress : ndarray, shape (N,)
        Input progress, 0 to 1.

    Returns
    -------
    ndarray, shape (N,)
        Output progress; 0 and 1 map to themselves exactly.
    """
    if ease == "linear":
        return progress
    return cubic_bezier(*CURVES[ease], progress)


def cubic_bezier(x1: float, y1: float, x2: float, y2: float, progress: NDArray[np.float64]) -> NDArray[np.float64]:
    """Output of ``cubic-bezier(x1, y1, x2, y2)`` for an array of inputs.

    The curve's parameter is found by bisection, which always converges since
    x is monotonic for x1 and x2 within 0 to 1; 52 halvings exhaust a double.
    """
    low, high = np.zeros_like(progress), np.ones_like(progress)
    for _ in range(52):
        middle = (low + high) / 2
        below = _bernstein(x1, x2, middle) < progress
        low, high = np.where(below, middle, low), np.where(below, high, middle)
    out = _bernstein(y1, y2, (low + high) / 2)
    return np.where(progress <= 0, 0.0, np.where(progress >= 1, 1.0, out))


def _bernstein(a: float, b: float, s: NDArray[np.float64]) -> NDArray[np.float64]:
    """One coordinate of the cubic Bézier curve from 0 to 1 with controls a and b."""
    r = 1 - s
    result: NDArray[np.float64] = 3 * r * r * s * a + 3 * r * s * s * b + s * s * s
    return result
