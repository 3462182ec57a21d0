"""Writing a file so that it is there whole or not at all."""

import os
import re
import secrets
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from glob import escape
from pathlib import Path

_PART = re.compile(r"\..+\.(\d+)\.[0-9a-f]{8}\.part")


def part_of(path: Path) -> Path:
    """A temporary name beside a file that nobody else has, and that tells whose it is."""
    # Of its own for every call: two threads may write the same file, and the later one counts.
    return path.with_name(f".{path.name}.{os.getpid()}.{secrets.token_hex(4)}.part")


def owner_of_part(name: str) -> int | None:
    """The process that a temporary name tells; None where it is no such name."""
    found = _PART.fullmatch(name)
    return int(found[1]) if found else None


def remove_parts(path: Path, process: int) -> None:
    """Delete what a process that has ended left of a file that it was writing."""
    for part in path.parent.glob(f".{escape(path.name)}.{process}.*.part"):
        part.unlink(missing_ok=True)


@contextmanager
def arriving(path: Path) -> Iterator[Path]:
    """A temporary file that takes the name `path` when the block ends well, and else is gone."""
    part = part_of(path)
    path.parent.mkdir(parents=True, exist_ok=True)
    try:
        yield part
        part.rename(path)
    finally:
        part.unlink(missing_ok=True)


def write_whole(path: Path, data: bytes, mode: int | None = None) -> None:
    """Write to a temporary name beside `path`, flush to the disk, then rename; `mode` says who may read it.

    Raises
    ------
    OSError
        When the folder cannot be written or the disk is full; nothing is left behind.
    """
    with arriving(path) as part, part.open("wb") as file:
        if mode is not None:
            os.fchmod(file.fileno(), mode)
        file.write(data)
        file.flush()
        os.fsync(file.fileno())


def copy_whole(source: Path, path: Path) -> None:
    """Copy a file, which is there whole or not at all.

    Raises
    ------
    OSError
    """
    with arriving(path) as part:
        shutil.copyfile(source, part)


def claimed_folder(within: Path, name: str) -> Path:
    """A new folder of this name, or with the next number behind it; of several who ask at once each has its own."""
    within.mkdir(parents=True, exist_ok=True)
    folder, number = within / name, 2
    while True:
        try:
            folder.mkdir()
        except FileExistsError:
            folder, number = within / f"{name}-{number}", number + 1
        else:
            return folder
