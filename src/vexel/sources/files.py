"""Which files a source draws on, their digest, and the copy that frames are made from.

A run must not see a file change under it: everything that decides pixels is
copied once to a folder named by its digest, and frames are made from there.
"""

import errno
import hashlib
import os
import re
import shutil
import tempfile
import threading
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from itertools import islice
from pathlib import Path, PurePath
from types import MappingProxyType
from typing import Any

from vexel.core.errors import Mistake
from vexel.disk.write import make_folder, publish
from vexel.sources.code.named_files import reads_in
from vexel.sources.code.syntax import syntax_of
from vexel.sources.contained import contained_file, is_private
from vexel.sources.registry import KINDS

ENVIRONMENT = "env:"
"""Begins the name of a variable among what a source declares to read."""
MOST_READ, MOST_READ_BYTES = 5000, 2 * 10**9
"""Files of a folder that a source declares to read, and bytes of them."""
_NO_FILES = ("/proc/", "/sys/", "/dev/")
"""Places whose files have no end, or wait for somebody."""
PART = ".part"
"""Ends the names of copies that are not finished; they begin with the process that makes them."""
_DIGEST = re.compile(r"[0-9a-f]{64}")
_seen: dict[tuple[str, int, int], str] = {}
_placing = threading.Lock()


@dataclass(frozen=True)
class SourceCopy:
    """What a stage opens.

    Attributes
    ----------
    main : Path
        The source's main file: copied, or where it lies.
    drawing : Path or None
        Copy of the code that draws a source which is read where it lies.
    """

    main: Path
    drawing: Path | None = None


@dataclass(frozen=True)
class SourceFiles:
    """A source's main file and the files it draws on.

    Attributes
    ----------
    folder : Path
        All names are relative to it.
    main : str
    beside : tuple of str
        Other files, in order of name.
    digest : str
        SHA-256 over names and contents, the main file first.
    kept : bool
        Read where it lies, since it may be very large: `main` is a whole path
        then, and each frame is held against what the file was when planned.
    drawing : SourceFiles or None
        Code that draws what is read where it lies.
    """

    folder: Path
    main: str
    beside: tuple[str, ...]
    digest: str
    kept: bool = False
    drawing: "SourceFiles | None" = None

    @property
    def names(self) -> tuple[str, ...]:
        """All files, the main one first."""
        return self.main, *self.beside

    def code_of(self, kind: str) -> tuple[tuple[Path, ...], str]:
        """Which of them would run, the main one first, and a digest of their content; none where nothing runs."""
        if self.drawing is not None:
            return self.drawing.code_of("sketch")
        if self.kept or KINDS[kind].files.code(self.folder / self.main, {}) is None:
            return (), ""
        return tuple(self.folder / name for name in self.names), self.digest

    def all_of(self, kind: str) -> dict[str, Path]:
        """Every file that the source reads or runs, by its name as seen from the main file's folder."""
        if not self.kept:
            return {name: self.folder / name for name in self.names}
        read = KINDS[kind].files.members(Path(self.main))
        run = [self.drawing.folder / name for name in self.drawing.names] if self.drawing else []
        return {os.path.relpath(path, self.folder): path for path in (*read, *run)}

    @property
    def written(self) -> Path | None:
        """Its main file of code, where it has one."""
        if self.drawing is not None:
            return self.drawing.folder / self.drawing.main
        main = self.folder / self.main
        return main if main.suffix.lower() == ".py" else None

    def copy_to(self, copies: Path) -> SourceCopy:
        """Copy everything that is not read where it lies to ``copies/<digest>`` once."""
        if self.kept:
            return SourceCopy(Path(self.main), self.drawing.copy_to(copies).main if self.drawing else None)
        target = copies / self.digest
        if not self._is_in(target):
            with _new_copy(copies, target, self._is_in) as partial:
                for name in self.names:
                    (partial / name).parent.mkdir(parents=True, exist_ok=True)
                    shutil.copyfile(self.folder / name, partial / name)
                if not self._is_in(partial):
                    raise Mistake(f"{self.main} changed while it was read: try again")
        return SourceCopy(target / self.main)

    def _is_in(self, folder: Path) -> bool:
        """Whether a folder holds exactly these files: one more could be run or read in place of what was shown."""
        return _holds_only(folder, self.names) and _digest(folder, self.names) == self.digest


def copied(copies: Path, kind: str, main: str, digest: str, options: Mapping[str, Any]) -> SourceFiles | None:
    """The files of a copy that was made before, or of a source that is read where it lies.

    Returns
    -------
    SourceFiles or None
        None where the copy is gone, or is not exactly what its digest says.
    """
    kept = KINDS[kind].files.stamp is not None
    if kept != Path(main).is_absolute() or not _DIGEST.fullmatch(digest):
        return None
    try:
        folder = copies / digest
        files = source_files(kind, Path(main) if kept else contained_file(folder, main, "the copy"), options)
        # What is read where it lies is held frame by frame against what it was; only its code must be the same.
        same = files.digest == digest and (kept or _holds_only(folder, files.names))
    except (Mistake, OSError):
        return None
    return files if same or (kept and files.drawing is None) else None


def _holds_only(folder: Path, names: tuple[str, ...]) -> bool:
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
def _new_copy(copies: Path, target: Path, holds: Callable[[Path], bool]) -> Iterator[Path]:
    """A folder that takes the place of `target`, if that does not hold, when the block ends well; else it is gone.

    It has a name of its own, since several requests may copy the same source at once.
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


def source_files(kind: str, file: Path, options: Mapping[str, Any] = MappingProxyType({})) -> SourceFiles:
    """Find the files of a source without running any of its code.

    Raises
    ------
    Mistake
        When the main file is not there.
    """
    if not file.is_file():
        raise Mistake(f"source.file: there is no file {file}; check the path, which is relative to the shot")
    files = KINDS[kind].files
    if files.stamp is not None:
        code = files.code(file, options)
        drawing = None
        if code is not None:
            below = [
                os.path.relpath(file.parent / name, code.parent) for name in options.get("reads", ()) if _is_below(name)
            ]
            drawing = source_files("sketch", code, {"reads": below})
        stamp = files.stamp(file, options)
        if drawing is not None:
            stamp = hashlib.sha256(f"{stamp}\0{drawing.digest}".encode()).hexdigest()
        return SourceFiles(file.parent, str(file), (), stamp, kept=True, drawing=drawing)
    beside = {*files.beside(file), *_declared_below(file.parent, declared_reads(file, options))}
    found = {os.path.relpath(p, file.parent) for p in beside if p != file and p.is_file()}
    names = tuple(sorted(name for name in found if not is_private(name)))
    for name in names:
        contained_file(file.parent, name, file.name)
    return SourceFiles(file.parent, file.name, names, _digest(file.parent, (file.name, *names)))


def declared_reads(file: Path, options: Mapping[str, Any]) -> tuple[str, ...]:
    """What a source declares to read beside its own files, in the shot and in its code.

    Parameters
    ----------
    file : Path
        Its code, or its main file.
    options : mapping

    Raises
    ------
    Mistake
        When the code declares it otherwise than by texts.
    """
    tree = syntax_of(file) if file.suffix.lower() == ".py" else None
    try:
        in_code = reads_in(tree) if tree is not None else ()
    except Mistake as error:
        raise Mistake(f"{file.name}, {error}") from None
    return (*options.get("reads", ()), *in_code)


def outside_stamps(file: Path, reads: Sequence[str]) -> dict[str, str]:
    """What a source declares to read beyond its own folder, each with what identifies its content.

    Parameters
    ----------
    file : Path
        Its main file.
    reads : sequence of str
        Paths relative to that, absolute ones, or ``env:`` with the name of a variable.

    Raises
    ------
    Mistake
        When a folder has too many files.
    """
    stamps = {}
    for name in reads:
        if name.startswith(ENVIRONMENT):
            value = os.environ.get(name.removeprefix(ENVIRONMENT))
            stamps[name] = "" if value is None else hashlib.sha256(value.encode(errors="surrogateescape")).hexdigest()
        elif not _is_below(name):
            stamps[name] = _stamp_of_place(file.parent, name)
    return stamps


def _is_below(name: str) -> bool:
    """Whether a path leads below the folder that it is relative to."""
    path = PurePath(name)
    return bool(path.parts) and not path.is_absolute() and ".." not in path.parts and not name.startswith("~")


def _stamp_of_place(folder: Path, name: str) -> str:
    """Over the content of a file, or of all files in a folder; empty where there is nothing.

    Raises
    ------
    Mistake
        When it cannot be read, or is more than is read for each look at a shot.
    """
    try:
        place = (folder / Path(name).expanduser()).resolve()
        if str(place).startswith(_NO_FILES):
            raise Mistake(f"source.reads: {name} is a file of the system, which is never the same: leave it out")
        if not place.exists():
            return ""
        found = (
            [place] if place.is_file() else [one for one in islice(place.rglob("*"), MOST_READ + 1) if one.is_file()]
        )
        if len(found) > MOST_READ or sum(one.stat().st_size for one in found) > MOST_READ_BYTES:
            raise Mistake(
                f"source.reads: {name} holds more than {MOST_READ:,} files or {MOST_READ_BYTES // 10**6:,} MB: "
                "name the files that are read"
            )
        names = sorted(str(one.relative_to(place)) for one in found) if place.is_dir() else []
        return _digest(place, tuple(names)) if names else _sha256(place) if place.is_file() else ""
    except (OSError, RuntimeError) as error:
        raise Mistake(f"source.reads: {name} cannot be read: {getattr(error, 'strerror', None) or error}") from None


def _declared_below(folder: Path, reads: Sequence[str]) -> Iterator[Path]:
    """Files below a source's folder that it declares to read: each, or all of a folder."""
    for name in reads:
        if name.startswith(ENVIRONMENT) or not _is_below(name):
            continue
        place = folder / name
        try:
            yield from islice(place.rglob("*"), MOST_READ) if place.is_dir() else (place,)
        except OSError as error:
            raise Mistake(f"source.reads: {name} cannot be read: {error.strerror}") from None


def _digest(folder: Path, names: tuple[str, ...]) -> str:
    """Over names and contents."""
    digest = hashlib.sha256()
    for name in names:
        digest.update(f"{name}\0{_sha256(folder / name)}\0".encode(errors="surrogateescape"))
    return digest.hexdigest()


def _sha256(path: Path) -> str:
    stat = path.stat()
    stamp = (str(path), stat.st_mtime_ns, stat.st_size)
    if stamp not in _seen:
        with path.open("rb") as file:
            _seen[stamp] = hashlib.file_digest(file, "sha256").hexdigest()
    return _seen[stamp]


def backdrop_file(file: Path, copies: Path) -> Path:
    """An image behind a shot, copied once to a folder named by its SHA-256.

    Raises
    ------
    Mistake
        When it is not there.
    """
    try:
        if not file.is_file():
            raise FileNotFoundError(errno.ENOENT, "no such file, or none that holds anything")
        digest = _sha256(file)
    except OSError as error:
        raise Mistake(f"the background {file} cannot be read: {error.strerror}; name a file beside the shot") from None
    target = copies / digest / file.name

    def holds(folder: Path) -> bool:
        return _holds_only(folder, (file.name,)) and _sha256(folder / file.name) == digest

    if not holds(target.parent):
        with _new_copy(copies, target.parent, holds) as partial:
            shutil.copyfile(file, partial / file.name)
            if not holds(partial):
                raise Mistake(f"the background {file} changed while it was read: try again")
    return target


def copied_backdrop(copies: Path, digest: str) -> Path | None:
    """The image that `backdrop_file` copied before; None where it is gone, or no longer what it was."""
    folder = copies / digest
    names = tuple(path.name for path in folder.iterdir()) if _DIGEST.fullmatch(digest) and folder.is_dir() else ()
    if len(names) != 1 or not _holds_only(folder, names) or _sha256(folder / names[0]) != digest:
        return None
    return folder / names[0]
