"""Which frames of a motion are shown: a range, every n-th of it, in which order, and still frames before and after."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import Mistake

Order = Literal["forward", "backward", "there-and-back"]


@dataclass(frozen=True)
class FrameSelection:
    """Frames of a motion that are shown, by their numbers in it.

    Attributes
    ----------
    first : int
    last : int or None
        The last one that may be shown; None for the motion's own last.
    every : int
        Every n-th is shown, from the first on.
    hold_start, hold_end : int
        How many times more the first and the last one that is shown is shown, standing still.
    order : {"forward", "backward", "there-and-back"}
        Back and forth turns at the last frame of the range, which is shown once.
    closes : bool
        Whether playback back and forth stops before the first frame would be shown again, as a loop does.
    """

    first: int = 0
    last: int | None = None
    every: int = 1
    hold_start: int = 0
    hold_end: int = 0
    order: Order = "forward"
    closes: bool = False

    def check(self, motion: int) -> None:
        """Refuse what picks no frame.

        Raises
        ------
        Mistake
            Naming the number and the frames that there are.
        """
        last = motion - 1 if self.last is None else self.last
        for name, number in (("first", self.first), ("last", last)):
            if not 0 <= number < motion:
                raise Mistake(f"{name} frame {number:,} is outside the motion, which has frames 0 to {motion - 1:,}")
        if self.first > last:
            raise Mistake(f"the range runs backwards, from frame {self.first:,} to {last:,}: put the lower one first")

    def moving(self, motion: int) -> range:
        """Frames of the range in the motion's own order, independent of the playback order."""
        last = motion - 1 if self.last is None else self.last
        return range(self.first, last + 1, self.every)

    def count(self, motion: int) -> int:
        """Number of frames shown, with held ones."""
        return self.hold_start + self.running(motion) + self.hold_end

    def running(self, motion: int) -> int:
        """How many frames are shown while the motion runs, each way counted."""
        there = len(self.moving(motion))
        if self.order != "there-and-back":
            return there
        return max(2 * there - 2, 1) if self.closes else 2 * there - 1

    def frame_of(self, shown: int, motion: int) -> int:
        """The motion's frame that is shown as number `shown`."""
        moving = self.moving(motion)
        place = min(max(shown - self.hold_start, 0), self.running(motion) - 1)
        if self.order == "backward":
            return moving[len(moving) - 1 - place]
        return moving[place if place < len(moving) else 2 * len(moving) - 2 - place]

    def runs_back(self, shown: NDArray[np.int64] | int, motion: int) -> NDArray[np.bool_]:
        """Whether the motion runs backwards in shown frames, by their numbers."""
        if self.order != "there-and-back":
            return np.full(np.shape(shown), self.order == "backward")
        # A held frame has the direction of the one that it repeats.
        place = np.clip(np.asarray(shown) - self.hold_start, 0, self.running(motion) - 1)
        back: NDArray[np.bool_] = place >= len(self.moving(motion))
        return back

    def frames_of(self, motion: int) -> NDArray[np.int64]:
        """The motion's frame of every frame that is shown, shape (N,)."""
        picked = self.moving(motion)
        moving = np.arange(picked.start, picked.stop, picked.step, dtype=np.int64)
        if self.order == "backward":
            moving = moving[::-1]
        elif self.order == "there-and-back":
            moving = np.concatenate([moving, moving[::-1][1:]])[: self.running(motion)]
        return np.concatenate([np.full(self.hold_start, moving[0]), moving, np.full(self.hold_end, moving[-1])])
