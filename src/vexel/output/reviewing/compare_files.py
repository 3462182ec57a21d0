"""Two files of moving pictures against each other, by their decoded frames."""

from collections.abc import Callable
from pathlib import Path

from vexel.core.errors import Mistake
from vexel.imaging.signal import step_of
from vexel.output.reviewing.compare import Compared
from vexel.output.reviewing.file_frames import FileFrames


def compared_files(
    one: Path, other: Path, on_progress: Callable[[int, int], None] = lambda done, count: None
) -> Compared:
    """Compare decoded frames of the same places, in 8 bits.

    Raises
    ------
    Mistake
        When frames have other sizes, or one file has transparency and the other has none.
    VexelError
        When a file cannot be read.
    """
    mine, theirs = FileFrames.of(one), FileFrames.of(other)
    frames, apart = min(mine.count, theirs.count), {}
    for at in range(frames):
        before, after = mine.picture(at), theirs.picture(at)
        if before.shape != after.shape:
            kinds = " and ".join(f"{p.shape[1]} × {p.shape[0]} with {p.shape[2]} channels" for p in (before, after))
            raise Mistake(f"frame {at} is {kinds}: only frames of one size and kind are compared by their pixels")
        if (step := step_of(before, after)).changed:
            apart[at] = step
        on_progress(at + 1, frames)
    return Compared(frames, mine.count, theirs.count, apart)
