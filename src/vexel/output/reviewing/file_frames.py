"""Decoded frames of a file, for measuring and comparing."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from numpy.typing import NDArray

from vexel.core.reel.media import MediaRef
from vexel.output.reel.library import FolderLibrary
from vexel.output.reel.media import Media


@dataclass(frozen=True)
class FileFrames:
    """Decoded frames; see `vexel.output.reviewing.measure.Pictures`."""

    media: Media

    @classmethod
    def of(cls, file: Path) -> "FileFrames":
        """The frames of a file.

        Raises
        ------
        VexelError
            When it cannot be read.
        """
        return cls(FolderLibrary(file.parent).open(MediaRef("clip", str(file.absolute())), ""))

    @property
    def count(self) -> int:
        """How many there are."""
        return self.media.facts.frames

    @property
    def file_names(self) -> Sequence[str]:
        """What they are called for people."""
        return [f"frame {n}" for n in range(self.count)]

    def picture(self, position: int, deep: bool = False) -> NDArray[Any]:
        """Pixels of a frame, of 8 bits."""
        return self.media.picture(position)
