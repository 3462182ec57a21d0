"""The one way in which files that last are written: whole or not at all, and still there after a power cut.

The bytes go to a temporary name, are flushed to the disk, get their name, and then the folder is flushed.
"""

import os
import re
import secrets
import shutil
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from glob import escape
from hashlib import sha256
from pathlib import Path

_PART = re.compile(r"\..+\.(\d+)\.[0-9a-f]{8}\.part")
_NAME_BYTES = 180
"""Bytes of a name that are reused in derived names: a disk takes 255."""


def stem_of(name: str) -> str:
    """A name for use within another one: itself, or a unique short form where it is long."""
    encoded = name.encode("utf-8", "surrogateescape")
    return name if len(encoded) <= _NAME_BYTES else sha256(encoded).hexdigest()[:32]


def part_of(path: Path) -> Path:
    """A temporary name beside a file that nobody else has, and that tells whose it is."""
    # Unique for every call: two threads may write the same file, and the later one counts.
    return path.with_name(f".{stem_of(path.name)}.{os.getpid()}.{secrets.token_hex(4)}.part")


def owner_of_part(name: str) -> int | None:
    """The process that a temporary name tells; None where it is no such name."""
    found = _PART.fullmatch(name)
    return int(found[1]) if found else None


def remove_parts(path: Path, process: int) -> None:
    """Delete what a process that has ended left of a file that it was writing."""
    for part in path.parent.glob(f".{escape(stem_of(path.name))}.{process}.*.part"):
        part.unlink(missing_ok=True)


def publish(part: Path, path: Path, *, replace: bool = True) -> None:
    """Give a file or folder that is finished its name, for good.

    Parameters
    ----------
    replace : bool
        Whether a file of that name is replaced. A folder is replaced only where it is empty.

    Raises
    ------
    FileExistsError
        When the name is taken and is not to be replaced.
    OSError
    """
    flush(part)
    if replace or part.is_dir():
        part.rename(path)
    else:
        _rename_to_free(part, path)
    _flush_entry(path.parent)


def make_folder(folder: Path) -> None:
    """Make a folder that lasts, with those above it, where it is not there yet.

    Raises
    ------
    OSError
    """
    if folder.is_dir():
        return
    make_folder(folder.parent)
    folder.mkdir(exist_ok=True)
    _flush_entry(folder.parent)


def flush(path: Path) -> None:
    """Wait until a file, or a folder with all that is in it, is on the disk.

    Raises
    ------
    OSError
    """
    if path.is_dir():
        for place, _, names in os.walk(path):
            for name in names:
                _flush_entry(Path(place) / name)
            _flush_entry(Path(place))
    else:
        _flush_entry(path)


@contextmanager
def arriving(path: Path, *, replace: bool = True) -> Iterator[Path]:
    """A temporary file that takes the name `path` when the block ends well, and else is gone; see `publish`."""
    part = part_of(path)
    make_folder(path.parent)
    try:
        yield part
        publish(part, path, replace=replace)
    finally:
        part.unlink(missing_ok=True)


def write_whole(path: Path, data: bytes, mode: int | None = None, *, replace: bool = True) -> None:
    """Write a file; `mode` says who may read it.

    Raises
    ------
    OSError
        When the folder cannot be written or the disk is full; nothing is left behind.
    """
    with arriving(path, replace=replace) as part, part.open("wb") as file:
        if mode is not None:
            os.fchmod(file.fileno(), mode)
        file.write(data)


def copy_whole(source: Path, path: Path) -> None:
    """Copy a file.

    Raises
    ------
    OSError
    """
    with arriving(path) as part:
        shutil.copyfile(source, part)


def claimed_folder(within: Path, name: str) -> Path:
    """A new folder of this name, or with the next number behind it; of several who ask at once each has its own."""
    make_folder(within)
    folder, number = within / name, 2
    while True:
        try:
            folder.mkdir()
        except FileExistsError:
            folder, number = within / f"{name}-{number}", number + 1
        else:
            return folder


def _rename_to_free(part: Path, path: Path) -> None:
    """Rename a file, unless the name is taken: not even by one that came a moment ago."""
    try:
        os.link(part, path)
    except FileExistsError:
        raise
    except OSError:
        # A disk without links, such as that of a camera: looked at first, which others may come between.
        if path.exists():
            raise FileExistsError(f"{path} is there already") from None
        part.rename(path)
    else:
        part.unlink()


def _flush_entry(path: Path) -> None:
    entry = os.open(path, os.O_RDONLY | os.O_CLOEXEC)
    try:
        os.fsync(entry)
    except OSError:
        # Some network disks cannot flush a folder, and then keep its names by themselves.
        if not path.is_dir():
            raise
    finally:
        with suppress(OSError):
            os.close(entry)
