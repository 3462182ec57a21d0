"""Which files a source draws on, their digest, and the copy that frames are made from.

A run must not see a file change under it: everything that decides pixels is
copied once to a folder named by its digest, and frames are made from there.
"""

import hashlib
import json
import os
import shutil
import tempfile
import threading
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from types import MappingProxyType
from typing import Any

from vexel.core.errors import Mistake
from vexel.sources.contained import contained_file
from vexel.sources.registry import KINDS

NAMES = ".names.json"
"""In a copy: the files that it was made of, the main one first."""
PART = ".part"
"""Ends the names of copies that are not finished; they begin with the process that makes them."""
_seen: dict[tuple[str, int, int], str] = {}
_placing = threading.Lock()


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
    """

    folder: Path
    main: str
    beside: tuple[str, ...]
    digest: str
    kept: bool = False

    def copy_to(self, copies: Path) -> Path:
        """Copy everything to ``copies/<digest>`` once; return the copied main file."""
        if self.kept:
            return Path(self.main)
        target, names = copies / self.digest, (self.main, *self.beside)

        def holds(folder: Path) -> bool:
            return _names_of(folder) == names and _holds(folder, names, self.digest)

        if not holds(target):
            with _new_copy(copies, target, holds) as partial:
                for name in names:
                    (partial / name).parent.mkdir(parents=True, exist_ok=True)
                    shutil.copyfile(self.folder / name, partial / name)
                (partial / NAMES).write_text(json.dumps(names))
                if not holds(partial):
                    raise Mistake(f"{self.main} changed while it was read: try again")
        return target / self.main


def copied(copies: Path, digest: str, main: str) -> Path | None:
    """The main file of a copy that was made before; None where the copy is gone, or no longer what it was."""
    if Path(main).is_absolute():
        return Path(main) if Path(main).is_file() else None
    names = _names_of(copies / digest)
    whole = names[:1] == (main,) and _holds(copies / digest, names, digest)
    return copies / digest / main if whole else None


def _names_of(copy: Path) -> tuple[str, ...]:
    """The files that a copy was made of; none where it does not say."""
    try:
        names = json.loads((copy / NAMES).read_bytes())
    except (OSError, ValueError):
        return ()
    return tuple(names) if isinstance(names, list) and all(isinstance(name, str) for name in names) else ()


def _holds(folder: Path, names: Sequence[str], digest: str) -> bool:
    """Whether a copy is what its digest says, and not merely there."""
    try:
        return _digest(folder, names) == digest
    except OSError:
        return False


@contextmanager
def _new_copy(copies: Path, target: Path, holds: Callable[[Path], bool]) -> Iterator[Path]:
    """A folder that takes the place of `target`, if that does not hold, when the block ends well; else it is gone.

    It has a name of its own, since several requests may copy the same source at once.
    """
    copies.mkdir(parents=True, exist_ok=True)
    partial = Path(tempfile.mkdtemp(prefix=f".{os.getpid()}.", suffix=PART, dir=copies))
    aside = partial.with_name(f"{partial.name}.old{PART}")
    try:
        yield partial
        with _placing:
            # Another request may have been quicker, and its copy is as good.
            if not holds(target):
                with suppress(FileNotFoundError):
                    target.rename(aside)
                partial.rename(target)
    finally:
        shutil.rmtree(partial, ignore_errors=True)
        shutil.rmtree(aside, ignore_errors=True)


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
        return SourceFiles(file.parent, str(file), (), files.stamp(file, options), kept=True)
    found = sorted({p for p in files.beside(file) if p != file and p.is_file()})
    names = tuple(os.path.relpath(p, file.parent) for p in found)
    for name in names:
        contained_file(file.parent, name, file.name)
    return SourceFiles(file.parent, file.name, names, _digest(file.parent, (file.name, *names)))


def code_of(kind: str, main: Path, options: Mapping[str, Any], files: SourceFiles) -> tuple[tuple[Path, ...], str]:
    """Which files of a source would run, the main one first, and a digest of their content; none where nothing runs."""
    code = KINDS[kind].files.code(main, options)
    if code is None:
        return (), ""
    if code != main:
        drawing = source_files("sketch", code)
        return code_of("sketch", drawing.folder / drawing.main, {}, drawing)
    return (main, *(files.folder / name for name in files.beside)), files.digest


def _digest(folder: Path, names: Sequence[str]) -> str:
    """Over names and contents."""
    digest = hashlib.sha256()
    for name in names:
        digest.update(f"{name}\0{_sha256(folder / name)}\0".encode())
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
        digest = hashlib.sha256(file.read_bytes()).hexdigest()
    except OSError as error:
        raise Mistake(f"the background {file} cannot be read: {error.strerror}; name a file beside the shot") from None
    target = copies / digest / file.name

    def holds(folder: Path) -> bool:
        return (folder / file.name).is_file() and _sha256(folder / file.name) == digest

    if not holds(target.parent):
        with _new_copy(copies, target.parent, holds) as partial:
            shutil.copyfile(file, partial / file.name)
            if not holds(partial):
                raise Mistake(f"the background {file} changed while it was read: try again")
    return target
