"""What gives every frame its instant: rate, number of frames, span, and which of them are shown."""

from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import Mistake
from vexel.core.picks import Picks
from vexel.core.rate import Rate

ALL = Picks()
MAX_FRAMES = 1_000_000
Span = Literal["loop", "ends"]


@dataclass(frozen=True)
class Instant:
    """Where one frame stands in its shot.

    Attributes
    ----------
    frame, count : int
        The frame's number in the motion from 0, and how many the motion has.
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
    """Rate, frame count and span of a shot, and which of its frames are shown.

    Span ``loop``: the end equals the start and is left out, phase = i/N.
    Span ``ends``: first and last are both shown, phase = i/(N-1).

    Attributes
    ----------
    rate : Rate
        At which the motion is sampled.
    motion : int
        Frames of the whole motion.
    span : {"loop", "ends"}
    picks : Picks
    played : Rate or None
        At which the frames that are shown are played; None for `rate`.

    Raises
    ------
    Mistake
        When a count is not 1 to 1,000,000.
    """

    rate: Rate
    motion: int
    span: Span = "loop"
    picks: Picks = ALL
    played: Rate | None = None

    def __post_init__(self) -> None:
        if self.motion < 1:
            raise Mistake(f"{self.motion} frames make no video: a shot has at least 1 frame")
        self.picks.check(self.motion)
        for count in (self.motion, self.frames):
            if count > MAX_FRAMES:
                raise Mistake(
                    f"{count:,} frames are more than the {MAX_FRAMES:,} a shot may have: "
                    "shorten it, lower the rate or split it into shots"
                )

    @classmethod
    def lasting(
        cls, rate: Rate, seconds: Fraction, span: Span = "loop", picks: Picks = ALL, played: Rate | None = None
    ) -> "Clock":
        """The clock whose motion has the whole number of frames that is nearest to ``rate × seconds``."""
        if seconds <= 0:
            raise Mistake(f"a length of {decimal(seconds)} s gives no frames: it must be above 0")
        frames = nearest_whole(rate.fps * seconds)
        if frames < 1:
            raise Mistake(
                f"{decimal(seconds)} s at {rate.label} is less than half a frame: "
                f"lengthen it to {decimal(1 / rate.fps)} s or more"
            )
        return cls(rate, frames, span, picks, played)

    @property
    def frames(self) -> int:
        """How many frames are shown."""
        return self.picks.count(self.motion)

    @property
    def playback(self) -> Rate:
        """The rate at which the frames are played."""
        return self.played or self.rate

    @property
    def seconds(self) -> Fraction:
        """True duration of what is shown, ``frames / playback``."""
        return self.frames / self.playback.fps

    @property
    def steps(self) -> int:
        """How many equal steps of phase lie between 0 and 1."""
        return self.motion if self.span == "loop" else max(self.motion - 1, 1)

    def instant(self, frame: int) -> Instant:
        """The instant of a frame that is shown, computed from its number alone."""
        if not 0 <= frame < self.frames:
            raise Mistake(f"frame {frame} is outside the shot, which has frames 0 to {self.frames - 1}")
        moved = self.picks.frame_of(frame, self.motion)
        return Instant(moved, self.motion, moved / self.rate.fps, Fraction(moved, self.steps), self.rate.fps)

    def phases(self) -> NDArray[np.float64]:
        """Phases of all frames that are shown, shape (N,), each within half a unit in the last place."""
        return self.picks.frames_of(self.motion) / self.steps


def nearest_whole(value: Fraction) -> int:
    """The nearest whole number, halves upward."""
    return (value + Fraction(1, 2)).__floor__()


def decimal(value: Fraction, places: int = 4) -> str:
    """A fraction as a short decimal for people, such as ``15`` or ``12.5125``."""
    return f"{float(value):.{places}f}".rstrip("0").rstrip(".")
