"""Which other files a source draws on, found without running it, and stamps of sources that are read where they lie."""

import ast
import hashlib
import re
from collections.abc import Iterator, Mapping
from functools import lru_cache
from pathlib import Path
from typing import Any

from vexel.sources.code.syntax import syntax_of
from vexel.sources.contained import contained_file
from vexel.sources.data.pieces import stamp_of_all, with_pieces
from vexel.sources.meshes.gltf import read_gltf
from vexel.sources.pictures.sequence_members import COLLECTIONS, members_of, numbered_meshes, stamp_of

MAX_BESIDE_BYTES = 512 * 1024 * 1024


def beside_code(file: Path, seen: set[Path] | None = None) -> Iterator[Path]:
    """Modules beside the file that it imports, and files beside it that its texts name."""
    seen = seen if seen is not None else {file}
    tree = syntax_of(file)
    # Nearly every text of a program names no file: one look into the folder saves asking the disk about each,
    # which took a tenth of the server's time while somebody drags.
    there = {place.name for place in file.parent.iterdir()} if tree else set()
    for name in _names_in(tree) if tree else ():
        if name.parts[0] not in there:
            continue
        candidate = file.parent / name
        if candidate in seen or not candidate.is_file() or candidate.stat().st_size > MAX_BESIDE_BYTES:
            continue
        seen.add(candidate)
        yield candidate
        if candidate.suffix == ".py":
            yield from beside_code(candidate, seen)


@lru_cache(64)
def _names_in(tree: ast.Module) -> tuple[Path, ...]:
    """What may be a file beside a program: its modules, and its texts."""
    return tuple({name: None for node in ast.walk(tree) for name in _named_by(node) if name.parts})


def _named_by(node: ast.AST) -> list[Path]:
    if isinstance(node, ast.Import):
        return [p for alias in node.names for p in _module(alias.name)]
    if isinstance(node, ast.ImportFrom):
        base = node.module or ""
        names = [base, *(f"{base}.{alias.name}".lstrip(".") for alias in node.names)]
        return [p for name in names if name for p in _module(name)]
    if isinstance(node, ast.Constant) and isinstance(node.value, str) and 0 < len(node.value) < 200:
        if "\0" in node.value or "\n" in node.value or node.value.startswith(("/", "~")):
            return []
        return [Path(node.value)] if ".." not in node.value else []
    return []


def _module(dotted: str) -> list[Path]:
    parts = dotted.split(".")
    packages = [Path(*parts[: n + 1], "__init__.py") for n in range(len(parts))]
    return [Path(*parts).with_suffix(".py"), *packages]


def beside_mesh(file: Path) -> Iterator[Path]:
    """Material, texture and buffer files that a mesh file names."""
    if file.suffix.lower() == ".obj":
        for library in _words_after("mtllib", file):
            colours = contained_file(file.parent, library, file.name)
            yield colours
            for key in ("map_Kd", "map_Ka", "map_d", "map_Bump", "bump"):
                if colours.is_file():
                    names = _words_after(key, colours)
                    yield from (contained_file(file.parent, name, colours.name) for name in names)
    elif file.suffix.lower() == ".gltf":
        try:
            uris = read_gltf(file).uris
        except ValueError:
            return
        yield from (contained_file(file.parent, uri, file.name) for uri in uris)


def _words_after(key: str, file: Path) -> tuple[str, ...]:
    return _found_in(key, file, stamp_of(file))


# A mesh is asked at every picture, and reading 20 MB of it each time would hold up a drag.
@lru_cache(256)
def _found_in(key: str, file: Path, stamp: str) -> tuple[str, ...]:
    pattern = re.compile(rb"^\s*" + key.encode() + rb"\s+(.+?)\s*$", re.MULTILINE)
    return tuple(m.decode("utf-8", "replace") for m in pattern.findall(file.read_bytes()))


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
