"""What is found between two sequences of frames that should match: noise, and colours of a file that have drifted."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from vexel.core.finding import Finding
from vexel.core.review.figures import Measured
from vexel.core.review.findings import CODE, Seen

NOISE_RATIO, NOISE_APART = 1.6, 0.4 * CODE
"""Noise that differs by more than both is seen where two takes are cut together."""
DRIFT = 1.2 * CODE
"""Mean colours of good files stay within half of this."""
BLACK, WHITE = 16 / 255, 235 / 255
"""Of limited range, as shares of full scale (ITU-R BT.709)."""
_709, _601 = (0.2126, 0.0722), (0.299, 0.114)
"""Weights of red and blue in luma: ITU-R BT.709 and BT.601."""


def _to_luma(weights: tuple[float, float]) -> NDArray[np.float64]:
    """The matrix from RGB to luma and colour differences; shape (3, 3)."""
    red, blue = weights
    luma = np.array([red, 1 - red - blue, blue])
    return np.stack(
        [luma, (np.array([0, 0, 1]) - luma) / (2 * (1 - blue)), (np.array([1, 0, 0]) - luma) / (2 * (1 - red))]
    )


def _swapped(made: tuple[float, float], shown: tuple[float, float]) -> NDArray[np.float64]:
    return np.asarray(np.linalg.inv(_to_luma(shown)) @ _to_luma(made))


_DRIFTS = (
    ("as if limited range had been taken for full range", np.eye(3) * (WHITE - BLACK), BLACK),
    ("as if full range had been taken for limited range", np.eye(3) / (WHITE - BLACK), -BLACK / (WHITE - BLACK)),
    ("as if colours of the matrix BT.709 had been decoded by that of BT.601", _swapped(_709, _601), 0.0),
    ("as if colours of the matrix BT.601 had been decoded by that of BT.709", _swapped(_601, _709), 0.0),
)
"""What goes wrong with a file's colours: in words, as a matrix, and what is added."""


def seen_between(one: Measured, other: Measured, pairs: Sequence[tuple[int, int]]) -> list[Seen]:
    """Findings about two sequences that are compared.

    Parameters
    ----------
    one, other : Measured
    pairs : sequence of (int, int)
        Frames that are shown at the same time.

    Returns
    -------
    list of Seen
        With frames of the first sequence.
    """
    if not pairs:
        return []
    return [*_noise(one, other, pairs), *_drift(one, other, pairs)]


def _noise(one: Measured, other: Measured, pairs: Sequence[tuple[int, int]]) -> list[Seen]:
    mine = float(np.median([one.frames[at].noise for at, _ in pairs]))
    theirs = float(np.median([other.frames[at].noise for _, at in pairs]))
    low, high = sorted((mine, theirs))
    if high - low < NOISE_APART or high < NOISE_RATIO * low:
        return []
    finding = Finding(
        "noise-differs",
        f"Noise is {mine / CODE:.2f} of 255 in the first one and {theirs / CODE:.2f} in the second one",
        "Where they are cut together the change is seen: capture both with the same number of samples.",
    )
    return [Seen(finding, (pairs[0][0],))]


def _drift(one: Measured, other: Measured, pairs: Sequence[tuple[int, int]]) -> list[Seen]:
    mine = np.array([one.frames[at].channel_means for at, _ in pairs])
    theirs = np.array([other.frames[at].channel_means for _, at in pairs])
    same = float(np.abs(theirs - mine).mean())
    if same < DRIFT:
        return []
    fits = [float(np.abs(theirs - np.clip(mine @ matrix.T + add, 0, 1)).mean()) for _, matrix, add in _DRIFTS]
    best = int(np.argmin(fits))
    if fits[best] > same / 3:
        return []
    finding = Finding(
        "colours-drifted",
        f"Colours of the second one differ by {same / CODE:.1f} of 255 from the first one, {_DRIFTS[best][0]}",
        "Its range or matrix is not what it says: compile it again, or correct its colour tags.",
    )
    return [Seen(finding, (pairs[0][0],))]
