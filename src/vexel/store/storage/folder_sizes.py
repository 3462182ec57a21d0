"""Sizes of folders, which are read again only where something was added, removed or renamed."""

import os
import stat
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class FolderSize:
    """Bytes of a folder with all within, its own entry included, as ``du --apparent-size`` counts them; and files."""

    bytes: int = 0
    files: int = 0

    def __add__(self, other: "FolderSize") -> "FolderSize":
        return FolderSize(self.bytes + other.bytes, self.files + other.files)


def linked_bytes(folder: Path, others: Path) -> int:
    """Bytes of files in a folder that are hard links to others in it or in a second folder: the disk has them once.

    The second folder is read only where the first one holds such files.
    """
    linked = [info for info in _files(folder) if info.st_nlink > 1]
    if not linked:
        return 0
    seen = {(info.st_dev, info.st_ino) for info in _files(others) if info.st_nlink > 1}
    found = 0
    for info in linked:
        found += info.st_size if (info.st_dev, info.st_ino) in seen else 0
        seen.add((info.st_dev, info.st_ino))
    return found


def _files(folder: Path) -> Iterator[os.stat_result]:
    for base, _, names in os.walk(folder):
        for name in names:
            with suppress(OSError):
                yield Path(base, name).lstat()


@dataclass(frozen=True)
class _Known:
    changed: int
    size: FolderSize
    within: tuple[str, ...]


class FolderSizes:
    """Remembers the sizes of folders by the times of their last change.

    A file that is written in place changes no folder: such folders are asked for with `steady` off.
    """

    def __init__(self) -> None:
        self._known: dict[str, _Known] = {}

    def of(self, folder: Path, *, steady: bool, without: tuple[str, ...] = ()) -> FolderSize:
        """The size of a folder; nothing where there is none.

        Parameters
        ----------
        steady : bool
            Whether its files appear whole and never change.
        without : tuple of str
            Names within it that do not count.
        """
        return self._of(str(folder), steady, without)

    def _of(self, folder: str, steady: bool, without: tuple[str, ...]) -> FolderSize:
        try:
            info = os.lstat(folder)
        except OSError:
            return FolderSize()
        if not stat.S_ISDIR(info.st_mode):
            return FolderSize()
        known = self._known.get(folder) if steady else None
        if known is None or known.changed != info.st_mtime_ns:
            known = _read(folder, info)
            if known is None:
                return FolderSize()
            if steady:
                self._known[folder] = known
        size = known.size
        for name in known.within:
            if name not in without:
                size += self._of(f"{folder}/{name}", steady, ())
        return size


def _read(folder: str, info: os.stat_result) -> _Known | None:
    total, files, within = info.st_size, 0, []
    try:
        with os.scandir(folder) as entries:
            for entry in entries:
                if entry.is_dir(follow_symlinks=False):
                    within.append(entry.name)
                    continue
                try:
                    total += entry.stat(follow_symlinks=False).st_size
                except FileNotFoundError:
                    continue
                files += 1
    except OSError:
        return None
    return _Known(info.st_mtime_ns, FolderSize(total, files), tuple(within))
