"""Slots: the pictures that a source of fixed pictures has, and which one an instant shows."""

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property

import numpy as np

from vexel.core.time.clock import Clock

FINEST = Fraction(120)
"""Slots a second, at most, on which slots that last differently are laid evenly."""
TINY = 1e-9
"""What floating point may lose of an exact place."""


@dataclass(frozen=True)
class SourceFrames:
    """Pictures that exist already, in the order in which they are shown.

    Attributes
    ----------
    rate : str
        Slots a second, as exact text; empty for one slot a frame.
    count : int
    stamps : tuple of str
        What identifies each slot's picture, so that a frame's key changes with
        it alone; a single stamp is shared by all.
    times : tuple of str
        When each slot begins, seconds as exact text, where slots last
        differently; else empty.
    mixed : bool
        Whether an instant between two slots shows both, mixed.
    tick : str
        What the times are counted in, seconds as exact text: they may be off by
        half of it, since a file rounds them. Empty where they are exact.
    last : str
        How long the last slot lasts, seconds as exact text, where slots have times.
    """

    rate: str
    count: int
    stamps: tuple[str, ...] = ("",)
    times: tuple[str, ...] = ()
    mixed: bool = False
    tick: str = ""
    last: str = ""

    def at(self, frame: Fraction, seconds: Fraction) -> tuple[int, Fraction]:
        """The slot that an instant shows, and how far towards the next it stands; the last one stays."""
        if self.times:
            slot = max(bisect_right(self._begins, seconds) - 1, 0)
            if slot + 1 >= self.count:
                return slot, Fraction(0)
            begin, end = self._begins[slot : slot + 2]
            return slot, max((seconds - begin) / (end - begin), Fraction(0))
        place = seconds * Fraction(self.rate) if self.rate else frame
        slot = place.__floor__()
        return (slot, place - slot) if slot < self.count - 1 else (self.count - 1, Fraction(0))

    def stamp(self, slot: int) -> str:
        """What identifies a slot's picture."""
        return self.stamps[slot if len(self.stamps) > 1 else 0]

    @cached_property
    def _begins(self) -> list[Fraction]:
        """From when each slot is shown: half a tick before its rounded time."""
        early = Fraction(self.tick or 0) / 2
        return [Fraction(time) - early for time in self.times]

    @cached_property
    def seconds(self) -> Fraction | None:
        """How long all slots last together; None for one slot a frame."""
        if self.times:
            return Fraction(self.times[-1]) + Fraction(self.last or 0)
        return self.count / Fraction(self.rate) if self.rate else None

    def evenly(self) -> tuple[Fraction, Sequence[int]]:
        """A steady rate, and the slot that is shown at each of its steps.

        Of slots of unequal length it is the rate of the shortest, so that none is lost; each is repeated
        to fill its length.
        """
        if not self.times:
            return Fraction(self.rate), range(self.count)
        begins = np.array([float(Fraction(time)) for time in self.times])
        steps = np.diff(begins)
        # Times that a file rounds differ a little: the count of short steps that fills the whole is the more exact.
        short, whole = float(steps[steps < steps.min() * 1.5].mean()), float(begins[-1])
        rate = min(_usual(Fraction(round(whole / short) / whole).limit_denominator(1001)), FINEST)
        assert self.seconds is not None
        count = max(round(self.seconds * rate), 1)
        # What is current in the middle of a step is shown, since begins may be off by a little.
        shown = np.searchsorted(begins, (np.arange(count) + 0.5) / float(rate), side="right") - 1
        return rate, [int(slot) for slot in np.maximum(shown, 0)]

    def fit(self, clock: Clock) -> "RateFit":
        """How many slots a clock passes over, and how many of its frames repeat one; until the last is reached."""
        frames = np.arange(clock.motion)
        ratio = Fraction(clock.own_steps, clock.steps)
        if self.times:
            begins = np.array([float(begin) for begin in self._begins])
            shown = np.searchsorted(begins, frames * float(ratio / clock.rate.fps) + TINY, side="right") - 1
        else:
            if self.rate:
                ratio *= Fraction(self.rate) / clock.rate.fps
            shown = np.floor(frames * float(ratio) + TINY).astype(np.int64)
        # Counted up to the last frame: that the shot is longer is another finding.
        steps = np.diff(shown[shown < self.count])
        return RateFit(int(np.maximum(steps - 1, 0).sum()), int((steps == 0).sum()))


def _usual(rate: Fraction) -> Fraction:
    """The whole rate, or that of NTSC, that a measured one is near to; else the measured one."""
    whole = Fraction(max(round(rate), 1))
    near = min((whole, whole * 1000 / 1001), key=lambda usual: abs(usual - rate))
    return near if abs(near / rate - 1) < Fraction(1, 500) else rate


@dataclass(frozen=True)
class RateFit:
    """Slots that are never shown between two that are, and frames that show the one before once more."""

    dropped: int
    doubled: int
