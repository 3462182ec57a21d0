"""What gives every frame its instant: rate, number of frames and span."""

from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import Mistake
from vexel.core.rate import Rate

MAX_FRAMES = 1_000_000
Span = Literal["loop", "ends"]


@dataclass(frozen=True)
class Instant:
    """Where one frame stands in its shot.

    Attributes
    ----------
    frame, count : int
        The frame's number from 0, and how many the shot has.
    seconds : Fraction
        ``frame / rate``, exactly.
    phase : Fraction
        0 to 1 over the shot; see `Clock`.
    rate : Fraction
        Frames a second.
    """

    frame: int
    count: int
    seconds: Fraction
    phase: Fraction
    rate: Fraction


@dataclass(frozen=True)
class Clock:
    """Rate, frame count and span of a shot.

    Span ``loop``: the end equals the start and is left out, phase = i/N.
    Span ``ends``: first and last are both shown, phase = i/(N-1).

    Raises
    ------
    Mistake
        When the count is not 1 to 1,000,000.
    """

    rate: Rate
    frames: int
    span: Span = "loop"

    def __post_init__(self) -> None:
        if self.frames < 1:
            raise Mistake(f"{self.frames} frames make no video: a shot has at least 1 frame")
        if self.frames > MAX_FRAMES:
            raise Mistake(
                f"{self.frames:,} frames are more than the {MAX_FRAMES:,} a shot may have: "
                "shorten it, lower the rate or split it into shots"
            )

    @classmethod
    def lasting(cls, rate: Rate, seconds: Fraction, span: Span = "loop") -> "Clock":
        """The clock whose frame count is nearest to ``rate × seconds``."""
        if seconds <= 0:
            raise Mistake(f"a length of {decimal(seconds)} s gives no frames: it must be above 0")
        frames = nearest_whole(rate.fps * seconds)
        if frames < 1:
            raise Mistake(
                f"{decimal(seconds)} s at {rate.label} is less than half a frame: "
                f"lengthen it to {decimal(1 / rate.fps)} s or more"
            )
        return cls(rate, frames, span)

    @property
    def seconds(self) -> Fraction:
        """True duration, ``frames / rate``."""
        return self.frames / self.rate.fps

    @property
    def steps(self) -> int:
        """How many equal steps of phase lie between 0 and 1."""
        return self.frames if self.span == "loop" else max(self.frames - 1, 1)

    def instant(self, frame: int) -> Instant:
        """The instant of frame `frame`, computed from its number alone."""
        if not 0 <= frame < self.frames:
            raise Mistake(f"frame {frame} is outside the shot, which has frames 0 to {self.frames - 1}")
        return Instant(frame, self.frames, frame / self.rate.fps, Fraction(frame, self.steps), self.rate.fps)

    def phases(self) -> NDArray[np.float64]:
        """Phases of all frames, shape (N,), dimensionless, each within half a unit in the last place."""
        return np.arange(self.frames, dtype=np.float64) / self.steps


def nearest_whole(value: Fraction) -> int:
    """The nearest whole number, halves upward."""
    return (value + Fraction(1, 2)).__floor__()


def decimal(value: Fraction, places: int = 4) -> str:
    """A fraction as a short decimal for people, such as ``15`` or ``12.5125``."""
    return f"{float(value):.{places}f}".rstrip("0").rstrip(".")
