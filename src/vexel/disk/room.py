"""Room on a disk: how much work must leave free, and whether it does."""

import os
import shutil
from dataclasses import dataclass
from pathlib import Path

KEPT_FREE_MB, SETTING = 1000, "VEXEL_KEEP_FREE_MB"
"""Left free by default, and the setting that changes it; 0 lets work fill the disk."""


@dataclass(frozen=True)
class Room:
    """The disk that a folder is on.

    Attributes
    ----------
    place : Path
        The folder, which may not exist yet.
    keep : int
        Bytes that must stay free.
    """

    place: Path
    keep: int

    @property
    def free(self) -> int:
        """Bytes that are free."""
        there = next(one for one in (self.place, *self.place.absolute().parents) if one.exists())
        return shutil.disk_usage(there).free

    @property
    def lacking(self) -> int:
        """Bytes that are missing from those that must stay free; 0 while there are enough, or the disk cannot tell."""
        if not self.keep:
            return 0
        try:
            return max(self.keep - self.free, 0)
        except OSError:
            # The write that follows reports the error.
            return 0


def room_of(place: Path, keep_mb: float | None = None) -> Room:
    """The disk of a folder, of which this many megabytes stay free; VEXEL_KEEP_FREE_MB by default."""
    try:
        megabytes = float(os.environ.get(SETTING, KEPT_FREE_MB)) if keep_mb is None else keep_mb
    except ValueError:
        megabytes = KEPT_FREE_MB
    # Not a number is not less than 0 either.
    return Room(place, round(min(megabytes, 1e12) * 1_000_000) if megabytes >= 0 else KEPT_FREE_MB * 1_000_000)
