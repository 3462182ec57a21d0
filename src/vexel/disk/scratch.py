"""Folders for a while, and what killed processes left of them and of unfinished files."""

import fcntl
import os
import shutil
import tempfile
import weakref
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from vexel.disk.claim import is_void
from vexel.disk.write import owner_of_part

PREFIX = "vexel-"
LOCK = ".owned"


class ScratchFolder:
    """A folder among the system's temporary ones, which is this process's for as long as it lives.

    A lock on a file in it tells other processes so; it goes with the process, however that ends.

    Parameters
    ----------
    what : str
        Part of its name.

    Attributes
    ----------
    path : Path
    remove : callable
        Deletes it with all that is in it; called at the latest when the process ends.
    """

    def __init__(self, what: str) -> None:
        self.path = Path(tempfile.mkdtemp(prefix=f"{PREFIX}{what}-"))
        # Locked before it has its name, so that nobody finds it without the lock.
        unnamed = self.path / f"{LOCK}.new"
        lock = os.open(unnamed, os.O_CREAT | os.O_RDWR | os.O_CLOEXEC, 0o600)
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        unnamed.rename(self.path / LOCK)
        self.remove = weakref.finalize(self, _remove, self.path, lock)


def empty_scratch(path: Path) -> None:
    """Delete what is in a scratch folder but for its lock, by which the next start knows that it is left."""
    with suppress(OSError):
        for entry in list(path.iterdir()):
            if entry.is_dir() and not entry.is_symlink():
                shutil.rmtree(entry, ignore_errors=True)
            elif entry.name != LOCK:
                entry.unlink(missing_ok=True)


def _remove(path: Path, lock: int) -> None:
    shutil.rmtree(path, ignore_errors=True)
    os.close(lock)


@contextmanager
def scratch_folder(what: str) -> Iterator[Path]:
    """A `ScratchFolder` that is gone after the block."""
    folder = ScratchFolder(what)
    try:
        yield folder.path
    finally:
        folder.remove()


def sweep_scratch() -> int:
    """Delete scratch folders whose processes are gone; how many."""
    left = [folder for folder in Path(tempfile.gettempdir()).glob(f"{PREFIX}*-*") if _is_left(folder)]
    for folder in left:
        shutil.rmtree(folder, ignore_errors=True)
    return len(left)


def sweep_parts(folder: Path) -> int:
    """Delete unfinished files and folders below a folder whose processes are gone; how many."""
    count = 0
    for place, folders, files in os.walk(folder):
        names = [name for name in (*folders, *files) if name.startswith(".") and _is_void(Path(place) / name)]
        for path in (Path(place) / name for name in names):
            count += 1
            if path.is_dir():
                folders.remove(path.name)
                shutil.rmtree(path, ignore_errors=True)
            else:
                path.unlink(missing_ok=True)
    return count


def _is_void(path: Path) -> bool:
    """Whether something unfinished is of a process that is gone; names that tell none are an older version's."""
    return is_void(path) or (path.name.endswith(".part") and not _lives(_owner(path.name)))


def _is_left(folder: Path) -> bool:
    try:
        descriptor = os.open(folder / LOCK, os.O_RDWR | os.O_CLOEXEC)
    except OSError:
        # A folder of another program, or one that is being made or deleted at this moment.
        return False
    try:
        fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return False
    finally:
        os.close(descriptor)
    return True


def _owner(name: str) -> int | None:
    owner = owner_of_part(name)
    if owner is None and (process := name.split(".")[1]).isdecimal():
        return int(process)
    return owner


def _lives(process: int | None) -> bool:
    """Whether a process is there; a name that tells none is an older version's, of a server that has ended."""
    return process is not None and Path(f"/proc/{process}").exists()
