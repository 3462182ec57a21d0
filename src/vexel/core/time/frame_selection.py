"""Which frames of a motion are shown: a range, every n-th of it, and still frames before and after."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import Mistake


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
        How many times more the first and the last one are shown, standing still.
    """

    first: int = 0
    last: int | None = None
    every: int = 1
    hold_start: int = 0
    hold_end: int = 0

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
        """Frames of a motion of so many frames that are shown while it runs."""
        last = motion - 1 if self.last is None else self.last
        return range(self.first, last + 1, self.every)

    def count(self, motion: int) -> int:
        """How many frames are shown, with those that stand still."""
        return self.hold_start + len(self.moving(motion)) + self.hold_end

    def frame_of(self, shown: int, motion: int) -> int:
        """The motion's frame that is shown as number `shown`."""
        moving = self.moving(motion)
        return moving[min(max(shown - self.hold_start, 0), len(moving) - 1)]

    def frames_of(self, motion: int) -> NDArray[np.int64]:
        """The motion's frame of every frame that is shown, shape (N,)."""
        picked = self.moving(motion)
        moving = np.arange(picked.start, picked.stop, picked.step, dtype=np.int64)
        return np.concatenate([np.full(self.hold_start, moving[0]), moving, np.full(self.hold_end, moving[-1])])
