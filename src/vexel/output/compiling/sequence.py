"""Frames of a take as separate files: in a folder under the names of their shot, or in a ZIP archive."""

import io
import os
import shutil
import zipfile
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from pathlib import Path

from vexel.core.errors import Failure, Mistake
from vexel.disk.digests import digest_of_file
from vexel.disk.write import arriving
from vexel.output.job.receipt import Check, Receipt

Named = tuple[str, Path]
"""The name that a frame is to have, and where it is."""
CHUNK = 1024 * 1024


def lay_frames(
    frames: Sequence[Named],
    folder: Path,
    recipe: str,
    planned: int,
    step: Callable[[int], None] = lambda done: None,
    links: bool = False,
) -> Receipt:
    """Lay frames into a folder; a frame that is there already, byte for byte the same, is left.

    Parameters
    ----------
    frames : sequence of (str, Path)
    folder : Path
        Made if it is not there.
    planned : int
        Frames that the take has, if all are made.
    step : callable
        Called with how many are done; may raise to end it.
    links : bool
        Hard links in place of copies, which take no room; where the disk has none of them, copies.

    Raises
    ------
    Mistake
        When the folder holds other files, which are never mixed with these.
    Failure
        When it cannot be written.
    """
    try:
        _enter(folder, dict(frames))
        linked = sum(_laid(folder / name, path, links, step, n) for n, (name, path) in enumerate(frames, start=1))
        size = sum((folder / name).stat().st_size for name, _ in frames)
        found = sum((folder / name).is_file() for name, _ in frames)
    except OSError as error:
        raise Failure(
            f"{folder} cannot be written: {error.strerror}; choose another folder or free some space"
        ) from None
    how = "hard links to the take: a program that writes into them changes it" if linked else "copies"
    return Receipt(
        str(folder), recipe, size, (Check("frames", f"{planned:,}", f"{found:,}", found == planned),), (how,)
    )


def _enter(folder: Path, frames: dict[str, Path]) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    for held in sorted(folder.iterdir()):
        mine = frames.get(held.name)
        if held.name.startswith(".") or (mine and _same(held, mine)):
            continue
        raise Mistake(f"{folder} already holds other files, such as {held.name}: name a new folder")


def _same(held: Path, mine: Path) -> bool:
    if held.stat().st_size != mine.stat().st_size:
        return False
    return held.samefile(mine) or digest_of_file(held) == digest_of_file(mine)


def _laid(place: Path, path: Path, links: bool, step: Callable[[int], None], number: int) -> bool:
    """One frame, whole or not at all; whether it is a link."""
    linked = False
    if not place.exists():
        with arriving(place) as part:
            if links:
                with suppress(OSError):
                    os.link(path, part)
                    linked = True
            if not linked:
                shutil.copyfile(path, part)
    step(number)
    return linked


class _Passing(io.RawIOBase):
    """A file that keeps what was written until it is taken."""

    def __init__(self) -> None:
        self._held = bytearray()

    def writable(self) -> bool:
        """It can be written, and no more."""
        return True

    def write(self, data: object) -> int:
        """Keep the bytes."""
        view = memoryview(data)  # type: ignore[arg-type]
        self._held += view
        return len(view)

    def taken(self) -> bytes:
        """What was written since this was last asked."""
        data = bytes(self._held)
        self._held.clear()
        return data


def zipped_frames(frames: Sequence[Named]) -> Iterator[bytes]:
    """A ZIP archive of frames, made while it is read; pictures do not become smaller, so they are stored."""
    out = _Passing()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
        for name, path in frames:
            # In chunks, so that each is passed on before the next is read: the archive is never in memory as a whole.
            entry = zipfile.ZipInfo.from_file(path, name)
            with path.open("rb") as source, archive.open(entry, "w") as target:
                while data := source.read(CHUNK):
                    target.write(data)
                    yield out.taken()
    yield out.taken()
