"""Marks of a ruler along the shown frames, in the unit that the user counts by."""

from dataclasses import dataclass
from fractions import Fraction
from itertools import count
from typing import Final, Literal

from vexel.core.time.clock import Clock, decimal
from vexel.core.time.timecode import has_timecode, timecode

Unit = Literal["frames", "seconds", "timecode", "phase"]
UNITS: Final[tuple[Unit, ...]] = ("frames", "seconds", "timecode", "phase")
_NICE: Final = (1, 2, 5)
_CLOCK_SECONDS: Final = (1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1800, 3600)


@dataclass(frozen=True)
class Tick:
    """A mark: at which shown frame it stands, which may lie between two, and what it says."""

    at: float
    label: str


def ticks(clock: Clock, unit: Unit, first: int, last: int, most: int) -> list[Tick]:
    """Marks at round numbers, from one shown frame to another.

    Parameters
    ----------
    clock : Clock
    unit : {"frames", "seconds", "timecode", "phase"}
        A rate without timecode is counted in seconds instead.
    first, last : int
        Shown frames.
    most : int
        Greatest number of marks, at least 1.
    """
    room = Fraction(max(last - first, 1), max(most, 1))
    fps = clock.playback.fps
    if unit == "timecode" and not has_timecode(clock.playback):
        unit = "seconds"
    if unit == "seconds":
        step = _nice(room / fps, finest=1 / fps)
        return [Tick(float(n * step * fps), f"{decimal(n * step)} s") for n in _between(step * fps, first, last)]
    if unit == "timecode":
        nominal = round(fps)
        hour = _CLOCK_SECONDS[-1] * nominal
        whole = next((s * nominal for s in _CLOCK_SECONDS if s * nominal >= room), (room / hour).__ceil__() * hour)
        within = [n for n in (1, 2, 5, 10) if n >= room and n < nominal]
        frames = Fraction(within[0] if within else whole)
        return [Tick(int(n * frames), timecode(int(n * frames), clock.playback)) for n in _between(frames, first, last)]
    if unit == "phase":
        return _phases(clock, room, first, last)
    step = _nice(room, finest=Fraction(1))
    return [Tick(int(n * step), f"{int(n * step):,}") for n in _between(step, first, last)]


def _phases(clock: Clock, room: Fraction, first: int, last: int) -> list[Tick]:
    """Marks of the motion's phase, where the shown frames move through it."""
    picks = clock.selection
    a_step = Fraction(1, picks.every)
    step = _nice(room / a_step / clock.steps, finest=Fraction(1, 1_000_000))
    begin, end = max(first, picks.hold_start), min(last, clock.frames - 1 - picks.hold_end)
    marks = step * clock.steps

    def place(n: int) -> Fraction:
        return (n * marks - picks.first) * a_step + picks.hold_start

    def nearest(shown: int) -> Fraction:
        return ((shown - picks.hold_start) / a_step + picks.first) / marks

    numbers = range(max(nearest(begin).__ceil__(), 0), min(nearest(end), 1 / step).__floor__() + 1)
    return [Tick(float(place(n)), decimal(n * step, 6)) for n in numbers]


def _nice(least: Fraction, finest: Fraction) -> Fraction:
    """The smallest of 1, 2 and 5 times a power of ten that is no less than asked for; or the finest of all."""
    if least <= finest:
        return finest
    exponent = next(n for n in count(-7) if Fraction(10) ** n * 5 >= least)
    return next(Fraction(10) ** exponent * n for n in _NICE if Fraction(10) ** exponent * n >= least)


def _between(step: Fraction, first: int, last: int) -> range:
    return range((first / step).__ceil__(), (last / step).__floor__() + 1)
