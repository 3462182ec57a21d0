"""Copies of files in folders that are named by their content."""

import hashlib
import os
import shutil
import tempfile
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path, PurePath

from vexel.disk.write import make_folder, publish

PART = ".part"
"""Ends the names of copies that are not finished; they begin with the process that makes them."""
_seen: dict[tuple[str, int, int], str] = {}
_placing = threading.Lock()


def holds_only(folder: Path, names: tuple[str, ...]) -> bool:
    """Whether a folder holds these regular files and nothing else: no other file, no link, no further folder."""
    wanted = {PurePath(name) for name in names}
    folders = {parent for name in wanted for parent in name.parents}
    if folder.is_symlink():
        return False
    there = set()
    for place, inner, files in os.walk(folder):
        within = Path(place).relative_to(folder)
        there |= {within / name for name in files}
        if any((within / name) not in folders for name in inner):
            return False
    return there == wanted and not any((folder / name).is_symlink() for name in (*wanted, *folders))


@contextmanager
def new_copy(copies: Path, target: Path, holds: Callable[[Path], bool]) -> Iterator[Path]:
    """A folder that takes the place of `target`, if that does not hold, when the block ends well; else it is gone.

    It has a unique name, since several requests may copy the same source at once.
    """
    make_folder(copies)
    partial = Path(tempfile.mkdtemp(prefix=f".{os.getpid()}.", suffix=PART, dir=copies))
    aside = partial.with_name(f"{partial.name}.old{PART}")
    try:
        yield partial
        with _placing:
            # Another request may have been quicker, and its copy is as good.
            if not holds(target):
                with suppress(FileNotFoundError):
                    target.rename(aside)
                publish(partial, target)
    finally:
        shutil.rmtree(partial, ignore_errors=True)
        aside.unlink() if aside.is_symlink() else shutil.rmtree(aside, ignore_errors=True)


def digest_of_files(folder: Path, names: tuple[str, ...]) -> str:
    """Over names and contents."""
    digest = hashlib.sha256()
    for name in names:
        digest.update(f"{name}\0{sha256(folder / name)}\0".encode(errors="surrogateescape"))
    return digest.hexdigest()


def sha256(path: Path) -> str:
    """SHA-256 of a file, which is read again only when its time or size changed."""
    stat = path.stat()
    stamp = (str(path), stat.st_mtime_ns, stat.st_size)
    if stamp not in _seen:
        with path.open("rb") as file:
            _seen[stamp] = hashlib.file_digest(file, "sha256").hexdigest()
    return _seen[stamp]
