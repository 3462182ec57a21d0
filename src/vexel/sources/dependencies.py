"""Which other files a source draws on, found without running it, and stamps of sources that are read where they lie."""

import hashlib
import os
import re
from collections.abc import Iterator, Mapping
from fnmatch import fnmatch
from functools import cached_property
from pathlib import Path, PurePath
from typing import Any

from vexel.sources.code.named_files import Named, module_files, named_in
from vexel.sources.code.syntax import syntax_of
from vexel.sources.contained_path import contained_file, is_private
from vexel.sources.data.pieces import stamp_of_all, with_pieces
from vexel.sources.meshes.gltf import read_gltf
from vexel.sources.meshes.material_file import libraries, textures_of
from vexel.sources.meshes.ply import ply_textures
from vexel.sources.pictures.sequence_members import COLLECTIONS, members_of, numbered_meshes, stamp_of

MAX_BESIDE_BYTES = 512 * 1024 * 1024
MOST_LISTED, MOST_LOOKED_AT = 2000, 20_000
"""Files that belong to a program since it lists them, and that are looked at for it."""
_WILD = re.compile(r"[*?\[]")


def beside_code(file: Path) -> Iterator[Path]:
    """Modules beside the file that it imports, and files below its folder that it and they name.

    Of a program that lists folders, all files of the folders that it names.
    """
    beside, seen, waiting = _Beside(file.parent), {file}, [file]
    while waiting:
        code = waiting.pop()
        tree = syntax_of(code)
        for candidate in beside.named_by(named_in(tree), code) if tree else ():
            if candidate in seen or is_private(str(candidate.relative_to(beside.root))) or not candidate.is_file():
                continue
            seen.add(candidate)
            if candidate.stat().st_size > MAX_BESIDE_BYTES:
                continue
            yield candidate
            if candidate.suffix == ".py":
                waiting.append(candidate)


class _Beside:
    """The folder of a program, looked into once at most."""

    def __init__(self, root: Path) -> None:
        self.root = root

    @cached_property
    def _there(self) -> set[str]:
        # Nearly every text of a program names no file: one look saves asking the disk about each, which took a tenth
        # of the server's time while somebody drags.
        return {place.name for place in self.root.iterdir()}

    @cached_property
    def _all(self) -> list[str]:
        """Files below the folder by their relative names, as many as are looked at."""
        found: list[str] = []
        for place, folders, files in os.walk(self.root):
            folders[:] = sorted(name for name in folders if not name.startswith(".") and name != "__pycache__")
            found += [os.path.relpath(Path(place) / name, self.root) for name in sorted(files)]
            if len(found) > MOST_LOOKED_AT:
                break
        return found

    def named_by(self, named: Named, code: Path) -> Iterator[Path]:
        """What may be a file that a program names."""
        for level, name in named.modules:
            bases = (self.root, code.parent) if level == 0 else code.parents[level - 1 : level]
            for base in dict.fromkeys(bases):
                if base.is_relative_to(self.root):
                    yield from (base / place for place in module_files(name))
        folders = named.lists and any((self.root / path).is_dir() for path in named.paths if not _WILD.search(path))
        own = named.lists_own or (named.lists_unsaid and not folders)
        for path in (*named.paths, *(("*",) if own else ())):
            if _WILD.search(path):
                yield from self._of_pattern(path)
            elif named.lists and (self.root / path).is_dir():
                yield from self._of_pattern(f"{path}/*")
            elif PurePath(path).parts[:1] and (code.parent != self.root or PurePath(path).parts[0] in self._there):
                yield from dict.fromkeys((self.root / path, code.parent / path))

    def _of_pattern(self, pattern: str) -> Iterator[Path]:
        """Files of a pattern at any depth, since the folder may be set in another place."""
        if pattern == "*":
            named = [name for name in self._all if "/" not in name]
        else:
            # A star of this matching passes over strokes too, so that ** is any folder.
            named = [name for name in self._all if fnmatch(name, pattern) or fnmatch(name, f"*/{pattern}")]
        yield from (self.root / name for name in named[:MOST_LISTED])


def beside_mesh(file: Path) -> Iterator[Path]:
    """Material, texture and buffer files that a mesh file names."""
    if file.suffix.lower() == ".obj":
        yield from (place for _, place in libraries(file))
        yield from (place for _, place in textures_of(file))
    elif file.suffix.lower() == ".ply":
        yield from (place for _, place in ply_textures(file))
    elif file.suffix.lower() == ".gltf":
        try:
            uris = read_gltf(file).uris
        except ValueError:
            return
        yield from (contained_file(file.parent, uri, file.name) for uri in uris)


def stamp_of_sequence(file: Path, options: Mapping[str, Any]) -> str:
    """Over the sequence's place and names; what each picture holds is stamped frame by frame."""
    if file.suffix.lower() == ".zip":
        return stamp_of_clip(file, options)
    _, members = members_of(file)
    stamps = [str(file.parent), *(member.stamp for member in members)]
    return hashlib.sha256("\0".join(stamps).encode()).hexdigest()


def stamp_of_clip(file: Path, options: Mapping[str, Any]) -> str:
    """Over place, size and time of writing, since a clip may hold many gigabytes."""
    return hashlib.sha256(f"{file}\0{stamp_of(file)}".encode()).hexdigest()


def stamp_of_series(file: Path, options: Mapping[str, Any]) -> str:
    """Over place and time of writing of all its files, those that its files name among them."""
    if not numbered_meshes(file) and file.suffix.lower() not in (".pvd", *COLLECTIONS):
        return stamp_of_clip(file, options)
    members = members_of(file)[1] if numbered_meshes(file) else ()
    stamps = [stamp_of_all(file.parent / member.name) for member in members] or [stamp_of_all(file)]
    return hashlib.sha256("\0".join([str(file), *stamps]).encode()).hexdigest()


def members_of_stills(file: Path) -> list[Path]:
    """All pictures of a sequence, or the archive that holds them."""
    if file.suffix.lower() == ".zip":
        return [file]
    return [file.parent / member.name for member in members_of(file)[1]]


def members_of_series(file: Path) -> list[Path]:
    """All files of a data set: of a collection with its parts, of a numbered set, or the only one."""
    firsts = members_of_stills(file) if numbered_meshes(file) else [file]
    return [one for first in firsts for one in with_pieces(first) if one.is_file()]
