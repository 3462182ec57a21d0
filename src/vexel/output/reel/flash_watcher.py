"""Watches the pictures of a reel for flashes while they are made."""

import threading
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.finding import Finding
from vexel.core.reel.flashes import COLUMNS, ROWS, FlashWatch
from vexel.core.time.clock import decimal
from vexel.core.time.rate import Rate
from vexel.imaging.light import light_of
from vexel.output.job.pictures import with_alpha

LOOKED_AT = 10
"""Rows of pixels a part that tell as much as all."""
WAITING = 64
"""Pictures that came before their turn and are kept."""


def parts_of(pixels: NDArray[Any]) -> NDArray[np.float32]:
    """Linear RGB of a picture's parts, shape (ROWS, COLUMNS, 3); 8 or 16 bits, what is clear is black."""
    # Every so-manyth row, an odd number: lines of a pixel that take turns are met alike.
    step = pixels.shape[0] // (LOOKED_AT * ROWS) | 1
    small = cv2.resize(pixels[::step], (COLUMNS, ROWS), interpolation=cv2.INTER_AREA)
    if small.dtype == np.uint16:
        small = (small // 257).astype(np.uint8)
    return np.asarray(light_of(small if small.shape[2] == 4 else with_alpha(small))[..., :3], np.float32)


@dataclass
class Watcher:
    """Watches pictures for flashes that come from several threads, in about their order."""

    rate: Rate
    _turn: threading.Lock = field(default_factory=threading.Lock)
    _waiting: dict[int, NDArray[np.float32]] = field(default_factory=dict)
    _next: int = 0

    def __post_init__(self) -> None:
        self._watch = FlashWatch(self.rate.fps)

    def see(self, number: int, pixels: NDArray[Any]) -> None:
        """A picture; of a second round none is looked at again."""
        with self._turn:
            if number < self._next or number in self._waiting:
                return
        parts = parts_of(pixels)
        with self._turn:
            self._waiting[number] = parts
            while self._next in self._waiting or len(self._waiting) > WAITING:
                self._next = min(self._waiting)
                self._watch.see(self._next, self._waiting.pop(self._next))
                self._next += 1

    def findings(self) -> list[Finding]:
        """What has been found so far."""
        with self._turn:
            for number in sorted(self._waiting):
                self._watch.see(number, self._waiting.pop(number))
                self._next = number + 1
            return [
                Finding(
                    "flashes",
                    f"{'Red flashes' if one.red else 'Flashes'} more than three times a second over a large part of "
                    f"the picture, from {_seconds(one.first - int(self.rate.fps), self.rate)} s to "
                    f"{_seconds(one.last, self.rate)} s",
                    "It may cause seizures (WCAG 2.3.1); slow it down, or make it smaller or fainter.",
                )
                for one in self._watch.found
            ]


def _seconds(frame: int, rate: Rate) -> str:
    return decimal(Fraction(max(frame, 0)) / rate.fps, 2)
