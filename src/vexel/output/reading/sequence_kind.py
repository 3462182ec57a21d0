"""What kind of pictures a sequence holds, by the headers of all its files."""

import os
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from numpy.typing import NDArray

from vexel.core.errors import Failure, SourceError
from vexel.disk.finished import Finished, is_whole
from vexel.imaging.images import IMAGES, Header, header_of
from vexel.output.reading.picture_file import PictureKind, kind_of

Read = Callable[[int], NDArray[Any]]


def kind_of_sequence(
    files: Sequence[Path], names: Sequence[str], known: Mapping[Path, Finished], read: Read, clear: bool
) -> PictureKind:
    """Size, depth and transparency of a sequence: that of each file, not of some of them.

    Parameters
    ----------
    files : sequence of Path
    names : sequence of str
        What messages call them.
    known : mapping of Path to Finished
        What is known of files since they were made.
    read : callable
        Pixels of a frame by its position; it raises what is wrong with the file.
    clear : bool
        Whether the pictures are meant to have transparency. Else those that have room for it are read, until one
        uses it.

    Raises
    ------
    Failure
        When a file is missing, cannot be read, or has another size than the first.
    """
    kinds: dict[Path, PictureKind] = {}
    unsure: list[int] = []
    for position, file in enumerate(files):
        # Frames that are held appear more than once.
        if file in kinds:
            continue
        header = _header(file, known.get(file))
        if header is None:
            kinds[file] = kind_of(read(position), clear)
            continue
        kinds[file] = PictureKind(header.height, header.width, header.alpha and clear, header.deep)
        if header.alpha and not clear:
            unsure.append(position)
    first = kinds[files[0]]
    for file, name in zip(files, names, strict=True):
        if (kinds[file].height, kinds[file].width) != (first.height, first.width):
            raise Failure(other_size(name, kinds[file].width, kinds[file].height, first.width, first.height))
    holes = any(kind.clear for kind in kinds.values()) or _any_clear(unsure, read)
    return PictureKind(first.height, first.width, holes, any(kind.deep for kind in kinds.values()))


def other_size(name: str, width: int, height: int, first_width: int, first_height: int) -> str:
    """The sentence for a frame whose size is not that of the first."""
    return (
        f"{name} is {width} × {height}, but the first frame is {first_width} × {first_height}: "
        "all frames of a file must be of one size"
    )


def _header(file: Path, known: Finished | None) -> Header | None:
    """The header of a file; None where its pixels must be read instead."""
    if file.suffix.lower() not in IMAGES or (known is not None and not is_whole(file, known)):
        return None
    try:
        return header_of(file)
    except SourceError:
        return None


def _any_clear(positions: Sequence[int], read: Read) -> bool:
    """Whether one of these pictures has pixels that are not opaque."""
    # The ends and the middle first: what moves into the frame or out of it shows there.
    telling = sorted({0, len(positions) // 2, len(positions) - 1} & set(range(len(positions))))
    order = [positions[n] for n in telling] + [at for n, at in enumerate(positions) if n not in telling]
    size = 4 * (os.cpu_count() or 1)
    with ThreadPoolExecutor(os.cpu_count() or 1) as readers:
        for start in range(0, len(order), size):
            if any(readers.map(lambda at: kind_of(read(at), clear=False).clear, order[start : start + size])):
                return True
    return False
