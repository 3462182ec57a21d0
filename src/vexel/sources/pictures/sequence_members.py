"""Files that are read where they lie, and the members of a numbered set."""

import os
import re
from dataclasses import dataclass
from pathlib import Path

from vexel.core.errors import Mistake
from vexel.core.time.clock import MAX_FRAMES
from vexel.imaging.images import IMAGES
from vexel.sources.pictures.image_sequence import ImageSequence, sequence_of


@dataclass(frozen=True)
class Member:
    """One image file: its number, name, bytes and time of writing in seconds."""

    number: int
    name: str
    size: int
    written: float

    @property
    def stamp(self) -> str:
        """What identifies its content without reading it."""
        return f"{self.name}:{self.size}:{self.written!r}"


COLLECTIONS = (".vtm", ".vtmb", ".pvtu", ".pvtp", ".pvti", ".pvts", ".pvtr")
"""VTK files whose parts are in other files that they name."""
MESHES = (".vtu", ".vtp", ".vti", ".vts", ".vtr", ".vtk", *COLLECTIONS)
"""VTK files, of which a numbered set is a series."""


def stamp_of(file: Path) -> str:
    """What identifies a file's content without reading it."""
    stat = file.stat()
    return f"{file.name}:{stat.st_size}:{stat.st_mtime_ns}"


def numbered_meshes(file: Path) -> bool:
    """Whether a file is one of a numbered set of VTK files."""
    if file.suffix.lower() not in MESHES or not re.search(r"\d", file.stem):
        return False
    return len(members_of(file)[1]) > 1


def single_picture(file: Path) -> bool:
    """Whether an image file is not one of a numbered set."""
    if file.suffix.lower() not in IMAGES:
        return False
    try:
        return len(members_of(file)[1]) == 1
    except Mistake:
        return True


def members_of(file: Path) -> tuple[ImageSequence, tuple[Member, ...]]:
    """The sequence that an image file belongs to.

    Raises
    ------
    Mistake
        When its name holds no number.
    """
    with os.scandir(file.parent) as entries:
        held = {entry.name: entry for entry in entries if not entry.name.startswith(".") and entry.is_file()}
        sequence = sequence_of(file.name, held)
        if sequence is None:
            raise Mistake(f"{file.name} has no number in its name: name one picture of a numbered sequence")
        first, last = sequence.names[0][0], sequence.names[-1][0]
        if last - first >= MAX_FRAMES:
            raise Mistake(
                f"{sequence.pattern} runs from {first:,} to {last:,}, more numbers than the {MAX_FRAMES:,} frames of a "
                "shot: take the stray file out of the folder"
            )
        stats = [(number, name, held[name].stat()) for number, name in sequence.names]
    return sequence, tuple(Member(number, name, stat.st_size, stat.st_mtime) for number, name, stat in stats)
