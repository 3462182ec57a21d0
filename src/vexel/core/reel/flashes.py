"""Flashes that may cause seizures: more than three a second over a large part of the picture."""

from collections import deque
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np
from numpy.typing import NDArray

COLUMNS, ROWS = 48, 27
"""Parts of the picture that are watched."""
STEP, DARK = 0.1, 0.8
"""A change of relative luminance that counts, and below which the darker side lies."""
RED_STEP, SATURATED = 20.0, 0.8
"""The same of (R − G − B) × 320 in linear light, with one side a red of R / (R + G + B) at least so much."""
MOST, SHARE = 3, 0.25
"""Flashes a second, and the share of a field of 10 degrees, that are still general."""
TURNED = 0.8
"""Of a field, what changes where a pattern is turned into its opposite."""
FIELD = 3
"""Such a field is as wide and high as a third of the screen: 341 of 1024 pixels."""


@dataclass(frozen=True)
class Flashing:
    """A stretch of frames that flash too often.

    Attributes
    ----------
    first, last : int
        Frames.
    red : bool
        Whether it is by saturated red.
    """

    first: int
    last: int
    red: bool


class FlashWatch:
    """Watches pictures in their order; `found` are the stretches that flash too often.

    Parameters
    ----------
    fps : Fraction

    Notes
    -----
    A flash is a pair of opposing changes; more than three within any second, over more than a quarter of any field of
    10 degrees at once, are too many. Changes are found for each of 48 × 27 parts, and counted for each place of
    the field where more than a quarter of its parts rise, or fall, more than do the other way, in one frame: a
    pattern that moves brightens as much as it darkens.

    References
    ----------
    WCAG 2.2, success criterion 2.3.1 and the definition of general flash and red flash thresholds.
    """

    def __init__(self, fps: Fraction) -> None:
        self._light = _Changes(fps)
        self._red = _Changes(fps)
        self._number = -1
        self.found: list[Flashing] = []

    def see(self, number: int, light: NDArray[np.float32]) -> None:
        """The next picture: linear RGB of its parts, shape (ROWS, COLUMNS, 3); a gap in the numbers starts again."""
        fresh = number != self._number + 1
        self._number = number
        luminance = light @ np.array([0.2126, 0.7152, 0.0722], np.float32)
        red = np.maximum(light[..., 0] - light[..., 1] - light[..., 2], 0) * 320
        saturated = light[..., 0] >= SATURATED * np.maximum(light.sum(axis=-1), 1e-6)
        # A dark red is hardly one: what does not reach the step counts for nothing.
        red = np.where(saturated, red, 0)
        for changes, values, step, dark, is_red in (
            (self._light, luminance, STEP, DARK, False),
            (self._red, red, RED_STEP, np.inf, True),
        ):
            if changes.too_many(values, step, dark, fresh):
                self._note(number, is_red)

    def _note(self, number: int, red: bool) -> None:
        for at in range(len(self.found) - 1, max(len(self.found) - 3, -1), -1):
            if self.found[at].red == red and self.found[at].last >= number - 1:
                self.found[at] = Flashing(self.found[at].first, number, red)
                return
        self.found.append(Flashing(number, number, red))


class _Changes:
    """Opposing changes of one measure, at each place of a field, within the last second."""

    def __init__(self, fps: Fraction) -> None:
        self._second = max(int(fps), 1)
        self._recent: deque[NDArray[np.bool_] | None] = deque()

    def too_many(self, values: NDArray[np.float32], step: float, dark: float, fresh: bool) -> bool:
        """Whether too much of the picture has changed to and fro too often."""
        if fresh or not self._recent:
            self._recent.clear()
            self._high, self._low = values.copy(), values.copy()
            self._trend = np.zeros(values.shape, np.int8)
            self._last = np.zeros(_shares(values).shape, np.int8)
            self._count = np.zeros(self._last.shape, np.int32)
        self._high = np.where(self._trend >= 0, np.maximum(self._high, values), self._high)
        self._low = np.where(self._trend <= 0, np.minimum(self._low, values), self._low)
        rises = (self._trend <= 0) & (values - self._low >= step) & (self._low < dark)
        falls = (self._trend >= 0) & (self._high - values >= step) & (values < dark) & ~rises
        if not rises.any() and not falls.any():
            return self._counted(None)
        self._trend = np.where(rises, 1, np.where(falls, -1, self._trend)).astype(np.int8)
        self._high = np.where(rises, values, self._high)
        self._low = np.where(falls, values, self._low)
        risen, fallen = _shares(rises), _shares(falls)
        up, down = risen - fallen > SHARE, fallen - risen > SHARE
        # Nearly all of a field, half of it one way and half the other: a pattern that is turned into its opposite.
        turned = ~up & ~down & (risen + fallen > TURNED)
        changed = (up & (self._last <= 0)) | (down & (self._last >= 0)) | turned
        self._last = np.where(changed, np.where(self._last > 0, -1, 1), self._last).astype(np.int8)
        return self._counted(changed if changed.any() else None)

    def _counted(self, changed: NDArray[np.bool_] | None) -> bool:
        """Count the changes of one more frame, None where there are none, within the last second."""
        self._recent.append(changed)
        past = self._recent.popleft() if len(self._recent) > self._second else None
        if changed is not None:
            self._count += changed
        if past is not None:
            self._count -= past
        # Two opposing changes are a flash.
        return bool(self._count.max() // 2 > MOST)


def _shares(parts: NDArray[Any]) -> NDArray[np.float64]:
    """Which share of a field is true, at each of its places."""
    high, wide = parts.shape[0] // FIELD, parts.shape[1] // FIELD
    sums = np.zeros((parts.shape[0] + 1, parts.shape[1] + 1))
    sums[1:, 1:] = parts.cumsum(axis=0).cumsum(axis=1)
    fields = sums[high:, wide:] - sums[:-high, wide:] - sums[high:, :-wide] + sums[:-high, :-wide]
    return np.asarray(fields / (high * wide))
