"""Slots: the pictures that a source of fixed pictures has, and which one an instant shows."""

from bisect import bisect_right
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property


@dataclass(frozen=True)
class Slots:
    """Pictures that exist already, in the order in which they are shown.

    Attributes
    ----------
    rate : str
        Slots a second, as exact text.
    count : int
    stamps : tuple of str
        What identifies each slot's picture, so that a frame's key changes with
        it alone; a single stamp stands for all.
    times : tuple of str
        When each slot begins, seconds as exact text, where slots last
        differently; else empty.
    """

    rate: str
    count: int
    stamps: tuple[str, ...] = ("",)
    times: tuple[str, ...] = ()

    def at(self, seconds: Fraction) -> int:
        """The slot that is shown at an instant; the last one stays."""
        if self.times:
            return max(bisect_right(self._begins, seconds) - 1, 0)
        return min((seconds * Fraction(self.rate)).__floor__(), self.count - 1)

    def stamp(self, slot: int) -> str:
        """What identifies a slot's picture."""
        return self.stamps[slot if len(self.stamps) > 1 else 0]

    @property
    def seconds(self) -> Fraction:
        """How long all slots last."""
        return self.count / Fraction(self.rate)

    @cached_property
    def _begins(self) -> list[Fraction]:
        return [Fraction(time) for time in self.times]
