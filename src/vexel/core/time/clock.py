"""What gives every frame its instant: rate, number of frames, span, and which of them are shown."""

from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import Mistake
from vexel.core.time.frame_selection import FrameSelection
from vexel.core.time.rate import Rate
from vexel.core.time.shutter import Shutter

ALL = FrameSelection()
INSTANT = Shutter()
MAX_FRAMES = 1_000_000
UNTOLD = 10**15
"""A larger count is not written out."""
Span = Literal["loop", "ends"]


@dataclass(frozen=True)
class Instant:
    """Position of one frame in its shot.

    Attributes
    ----------
    frame, count : int
        The frame's number in the motion from 0, and how many the motion has.
    seconds : Fraction
        ``frame / rate``, exactly.
    phase : Fraction
        0 to 1 over the shot; see `Clock`.
    rate : Fraction
        Frames a second of the motion's own time.
    """

    frame: int
    count: int
    seconds: Fraction
    phase: Fraction
    rate: Fraction


def _refuse_too_many(count: int) -> None:
    if count > MAX_FRAMES:
        spoken = f"{count:,}" if count < UNTOLD else f"More than {UNTOLD:,}"
        raise Mistake(
            f"{spoken} frames are more than the {MAX_FRAMES:,} a shot may have: "
            "shorten it, lower the rate or split it into shots"
        )


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
    shutter : Shutter
    own : int or None
        Frames that the motion has in its own time, where it is retimed: its
        first and last instant stay, and the others are spread between them.
    repeats : int
        How many times over a video file plays what is shown.

    Raises
    ------
    Mistake
        When a count is not 1 to 1,000,000.
    """

    rate: Rate
    motion: int
    span: Span = "loop"
    selection: FrameSelection = ALL
    played: Rate | None = None
    shutter: Shutter = INSTANT
    own: int | None = None
    repeats: int = 1

    def __post_init__(self) -> None:
        if self.motion < 1:
            raise Mistake(f"{self.motion} frames make no video: a shot has at least 1 frame")
        _refuse_too_many(self.motion)
        self.selection.check(self.motion)
        _refuse_too_many(max(self.frames, self.frames * self.repeats))

    @staticmethod
    def frames_lasting(rate: Rate, seconds: Fraction) -> int:
        """The whole number of frames that is nearest to ``rate × seconds``.

        Raises
        ------
        Mistake
            When that is not even half a frame.
        """
        if seconds <= 0:
            raise Mistake(f"a length of {decimal(seconds)} s gives no frames: it must be above 0")
        frames = nearest_whole(rate.fps * seconds)
        if frames < 1:
            raise Mistake(
                f"{decimal(seconds)} s at {rate.label} is less than half a frame: "
                f"lengthen it to {decimal(1 / rate.fps)} s or more"
            )
        return frames

    @property
    def frames(self) -> int:
        """How many frames are shown."""
        return self.selection.count(self.motion)

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
        return _steps(self.motion, self.span)

    @property
    def own_steps(self) -> int:
        """How many frames of the motion's own time lie between phase 0 and 1."""
        return _steps(self.own or self.motion, self.span)

    def looks(self, samples: int) -> int:
        """Number of instants of a frame that is made of `samples` samples."""
        return samples if self.shutter.is_open else 1

    def places(self, frame: int, looks: int = 1) -> list[Fraction]:
        """Where in the motion a shown frame looks, in steps of it, exactly.

        A shutter reaches from one shown frame to the next, so with every n-th
        frame shown it is open n times as long. Places can be before the
        motion's beginning or after its end.
        """
        moved = self.selection.frame_of(self._shown(frame), self.motion)
        offsets = self._offsets(looks)
        # Rising either way, so that a frame that comes by on the way back is the same if its shutter is centred.
        back = bool(self.selection.runs_back(frame, self.motion))
        return [moved + offset for offset in ([-offset for offset in reversed(offsets)] if back else offsets)]

    def _offsets(self, looks: int) -> list[Fraction]:
        """When a shown frame looks, in steps of a motion that runs forwards, from its own place."""
        return [self.selection.every * offset for offset in self.shutter.offsets(looks)]

    def own_frame(self, place: Fraction) -> Fraction:
        """A place counted in frames of the motion's own time, which differ where it is retimed."""
        return place * self.own_steps / self.steps

    def instant(self, frame: int) -> Instant:
        """The instant of a frame that is shown, computed from its number alone."""
        moved = self.selection.frame_of(self._shown(frame), self.motion)
        return self.instant_at(Fraction(moved), moved)

    def instant_at(self, place: Fraction, frame: int) -> Instant:
        """The instant at a place of the motion, for a look of the motion's frame of this number.

        A loop continues at its other end; a motion with two ends rests there.
        """
        inside = place % self.steps if self.span == "loop" else min(max(place, Fraction(0)), Fraction(self.steps))
        rate = self.rate.fps * self.steps / self.own_steps
        return Instant(frame, self.motion, inside / rate, inside / self.steps, rate)

    def phases(self) -> NDArray[np.float64]:
        """Phases of all frames that are shown, shape (N,), each within half a unit in the last place."""
        # A division of whole numbers, never a sum of steps: the last phase is as exact as the first.
        return self.selection.frames_of(self.motion) / self.steps

    def phases_at(self, frames: range, looks: int) -> NDArray[np.float64]:
        """Phases at which some of the shown frames look, shape (n · looks,), frame by frame."""
        moved = self.selection.frames_of(self.motion)[frames.start : frames.stop]
        offsets = np.array([float(offset) for offset in self._offsets(looks)])
        back = self.selection.runs_back(np.arange(frames.start, frames.stop), self.motion)
        either = np.where(back[:, None], -offsets[::-1], offsets)
        phases: NDArray[np.float64] = ((moved[:, None] + either) / self.steps).ravel()
        return phases % 1.0 if self.span == "loop" else np.clip(phases, 0.0, 1.0)

    def _shown(self, frame: int) -> int:
        if not 0 <= frame < self.frames:
            raise Mistake(f"frame {frame} is outside the shot, which has frames 0 to {self.frames - 1}")
        return frame


def _steps(frames: int, span: Span) -> int:
    return frames if span == "loop" else max(frames - 1, 1)


def nearest_whole(value: Fraction) -> int:
    """The nearest whole number, halves upward."""
    return (value + Fraction(1, 2)).__floor__()


def decimal(value: Fraction, places: int = 4) -> str:
    """A fraction as a short decimal for people, such as ``15`` or ``12.5125``."""
    return f"{float(value):.{places}f}".rstrip("0").rstrip(".")
