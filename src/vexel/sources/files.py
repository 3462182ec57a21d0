"""Which files a source draws on, their digest, and the copy that frames are made from.

A run must not see a file change under it: everything that decides pixels is
copied once to a folder named by its digest, and frames are made from there.
"""

import errno
import hashlib
import os
import re
import shutil
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import islice
from pathlib import Path
from types import MappingProxyType
from typing import Any

from vexel.core.document.source_spec import SourceSpec, WithCode
from vexel.core.errors import Mistake
from vexel.disk.named_place import named_place
from vexel.sources.code.named_files import reads_in
from vexel.sources.code.syntax import syntax_of
from vexel.sources.contained_path import contained_file, is_private
from vexel.sources.content_copy import digest_of_files, holds_only, new_copy, sha256
from vexel.sources.outside_files import ENVIRONMENT, MOST_READ, OutsideReads, is_below
from vexel.sources.registry import KINDS

_DIGEST = re.compile(r"[0-9a-f]{64}")


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
            with new_copy(copies, target, self._is_in) as partial:
                for name in self.names:
                    (partial / name).parent.mkdir(parents=True, exist_ok=True)
                    shutil.copyfile(self.folder / name, partial / name)
                if not self._is_in(partial):
                    raise Mistake(f"{self.main} changed while it was read: try again")
        return SourceCopy(target / self.main)

    def _is_in(self, folder: Path) -> bool:
        """Whether a folder holds exactly these files: one more could be run or read in place of what was shown."""
        return holds_only(folder, self.names) and digest_of_files(folder, self.names) == self.digest


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
        same = files.digest == digest and (kept or holds_only(folder, files.names))
    except (Mistake, OSError):
        return None
    return files if same or (kept and files.drawing is None) else None


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
                os.path.relpath(file.parent / name, code.parent) for name in options.get("reads", ()) if is_below(name)
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
    return SourceFiles(file.parent, file.name, names, digest_of_files(file.parent, (file.name, *names)))


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


def outside_reads(spec: SourceSpec, folder: Path, files: SourceFiles, secrets: Iterable[str]) -> OutsideReads:
    """What a source declares to read beyond its own folder, in its code and in the shot of a folder.

    Parameters
    ----------
    secrets : iterable of str
        See `OutsideReads.of`.

    Raises
    ------
    Mistake
    """
    if not isinstance(spec, WithCode):
        return OutsideReads({})
    declared = [(named_place(folder, spec.file), tuple(spec.reads))]
    if files.written is not None:
        declared.append((files.written, declared_reads(files.written, {})))
    held = {name: named_place(folder, place) for name, place in spec.reads_from.items()}
    return OutsideReads.of(declared, held, secrets)


def _declared_below(folder: Path, reads: Sequence[str]) -> Iterator[Path]:
    """Files below a source's folder that it declares to read: each, or all of a folder."""
    for name in reads:
        if name.startswith(ENVIRONMENT) or not is_below(name):
            continue
        place = folder / name
        try:
            yield from islice(place.rglob("*"), MOST_READ) if place.is_dir() else (place,)
        except OSError as error:
            raise Mistake(f"source.reads: {name} cannot be read: {error.strerror}") from None


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
        digest = sha256(file)
    except OSError as error:
        raise Mistake(f"the background {file} cannot be read: {error.strerror}; name a file beside the shot") from None
    target = copies / digest / file.name

    def holds(folder: Path) -> bool:
        return holds_only(folder, (file.name,)) and sha256(folder / file.name) == digest

    if not holds(target.parent):
        with new_copy(copies, target.parent, holds) as partial:
            shutil.copyfile(file, partial / file.name)
            if not holds(partial):
                raise Mistake(f"the background {file} changed while it was read: try again")
    return target


def copied_backdrop(copies: Path, digest: str) -> Path | None:
    """The image that `backdrop_file` copied before; None where it is gone, or no longer what it was."""
    folder = copies / digest
    names = tuple(path.name for path in folder.iterdir()) if _DIGEST.fullmatch(digest) and folder.is_dir() else ()
    if len(names) != 1 or not holds_only(folder, names) or sha256(folder / names[0]) != digest:
        return None
    return folder / names[0]
