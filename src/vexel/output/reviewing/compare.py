"""Two sequences of frames against each other."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from numpy.typing import NDArray

from vexel.core.errors import Failure, Mistake
from vexel.core.review.figures import Step
from vexel.disk.finished import is_whole
from vexel.imaging.signal import step_of
from vexel.output.footage.footage import Footage
from vexel.output.reading.picture_file import exr_numbers


@dataclass(frozen=True)
class Compared:
    """How two sequences differ, frame by frame.

    Attributes
    ----------
    frames : int
        That both have.
    one, other : int
        Frames of each.
    apart : dict of int to Step
        The differences of those whose pixels are not equal, by their places.
    in_codes : bool
        Whether differences are shares of full scale, and not the numbers in EXR files.
    """

    frames: int
    one: int
    other: int
    apart: dict[int, Step]
    in_codes: bool = True


def compared(
    one: Footage, other: Footage, on_progress: Callable[[int, int], None] = lambda done, count: None
) -> Compared:
    """Compare frames of the same places; those whose files are known to be equal are not read.

    Raises
    ------
    Mistake
        When frames have other sizes, depths or channels.
    Failure
        When one is no longer what was made, or cannot be read.
    """
    frames, apart = min(one.count, other.count), {}
    # Read as codes, light above 1 is cut off and depths are scaled, in each file by itself.
    by_numbers = all(footage.files[0].suffix.lower() == ".exr" for footage in (one, other))
    for at in range(frames):
        if not _known_equal(one, other, at):
            mine, theirs = (
                exr_numbers(footage.files[at]) if by_numbers else footage.picture(at, deep=True)
                for footage in (one, other)
            )
            if mine.shape != theirs.shape or mine.dtype != theirs.dtype:
                kinds = " and ".join(_kind(pixels) for pixels in (mine, theirs))
                raise Mistake(f"frame {at} is {kinds}: only frames of one size and kind are compared by their pixels")
            if (step := step_of(mine, theirs)).changed:
                apart[at] = step
        on_progress(at + 1, frames)
    return Compared(frames, one.count, other.count, apart, not by_numbers)


def _kind(pixels: NDArray[Any]) -> str:
    return f"{pixels.shape[1]} × {pixels.shape[0]} with {pixels.shape[2]} channels of {8 * pixels.itemsize} bits"


def _known_equal(one: Footage, other: Footage, at: int) -> bool:
    files = one.files[at], other.files[at]
    mine, theirs = one.known.get(files[0]), other.known.get(files[1])
    if mine is None or theirs is None or mine.digest != theirs.digest:
        return False
    for file, known in zip(files, (mine, theirs), strict=True):
        if not is_whole(file, known, deep=False):
            raise Failure(f"{file} is no longer the frame that was made: run vexel check on its folder")
    return True
