"""What a mesh file really holds, judged by its content, and whether it is whole."""

import struct
from collections.abc import Callable
from pathlib import Path

from vexel.core.errors import SourceError
from vexel.sources.contained_path import contained_file
from vexel.sources.meshes.gltf import read_gltf
from vexel.sources.meshes.ply import read_ply_header

SUFFIXES = {".obj": "OBJ", ".stl": "STL", ".ply": "PLY", ".gltf": "glTF", ".glb": "GLB", ".vtp": "VTP"}
_HEAD_BYTES = 4096


def mesh_format(file: Path) -> str:
    """The format of a mesh file, one of `SUFFIXES`' values.

    Raises
    ------
    SourceError
        When the file is empty, cut short, of another format than its name
        says, or of none that Vexel reads.
    """
    named = SUFFIXES.get(file.suffix.lower())
    if named is None:
        raise SourceError(f"{file.name} is not a mesh file that Vexel can read: use {', '.join(SUFFIXES)}")
    size = file.stat().st_size
    if size == 0:
        raise SourceError(f"{file.name} is empty (0 bytes): export or copy it again")
    with file.open("rb") as stream:
        head = stream.read(_HEAD_BYTES)
    held = _held(head, size, named)
    if held != named:
        other = next((s for s, name in SUFFIXES.items() if name == held), None)
        if other is None:
            raise SourceError(f"{file.name} does not hold {named} data: its first bytes are not those of a mesh file")
        raise SourceError(f"{file.name} is named {named} but holds {held} data: rename it to {file.stem}{other}")
    _WHOLE[named](file, head, size)
    return named


def cut_short(file: Path, promised: str, held: str) -> SourceError:
    """The error of a file that ends too early."""
    return SourceError(f"{file.name} is cut short: it promises {promised} but holds {held}; export or copy it again")


def _held(head: bytes, size: int, named: str) -> str:
    text = head.lstrip()
    if head.startswith(b"glTF"):
        return "GLB"
    if text.startswith(b"ply\n") or text.startswith(b"ply\r"):
        return "PLY"
    if text.startswith(b"<"):
        return "VTP" if b"<VTKFile" in head else "XML"
    if text.startswith(b"{"):
        return "glTF"
    if text[:5].lower() == b"solid" and (b"facet" in head or b"endsolid" in head or size < 256):
        return "STL"
    if _reads_like_obj(text):
        return "OBJ"
    # A binary STL has no mark at all: 80 bytes of anything, then a count.
    return "STL" if named == "STL" and b"\0" in head else "unknown"


def _reads_like_obj(text: bytes) -> bool:
    keys = {b"v", b"vn", b"vt", b"f", b"o", b"g", b"mtllib", b"usemtl", b"s", b"l", b"p"}
    words = [line.split(maxsplit=1)[0] for line in text.splitlines() if line.strip() and not line.startswith(b"#")]
    return b"\0" not in text and any(word in keys for word in words[:50])


def _whole_stl(file: Path, head: bytes, size: int) -> None:
    if head.lstrip()[:5].lower() == b"solid" and b"\0" not in head:
        with file.open("rb") as stream:
            stream.seek(max(size - 512, 0))
            if b"endsolid" not in stream.read().lower():
                raise cut_short(file, "a closing endsolid", "none")
        return
    if size < 84:
        raise cut_short(file, "a header of 84 bytes", f"{size}")
    (triangles,) = struct.unpack("<I", head[80:84])
    if triangles == 0:
        raise no_faces(file)
    if size < 84 + 50 * triangles:
        raise cut_short(file, f"{triangles:,} triangles", f"{(size - 84) // 50:,}")


def _whole_ply(file: Path, head: bytes, size: int) -> None:
    try:
        header = read_ply_header(file)
    except (ValueError, IndexError) as error:
        if b"end_header" not in head:
            raise cut_short(file, "a header with end_header", "none within its first 4 kB") from None
        raise SourceError(f"{file.name} is damaged: {error}; export or copy it again") from None
    if not header.count_of("vertex"):
        raise no_faces(file)
    body = size - header.size
    if body < header.least_bytes:
        raise cut_short(file, f"at least {header.least_bytes:,} bytes of data", f"{max(body, 0):,}")


def _whole_glb(file: Path, head: bytes, size: int) -> None:
    if len(head) < 12:
        raise cut_short(file, "a header of 12 bytes", f"{len(head)}")
    (length,) = struct.unpack("<I", head[8:12])
    if size < length:
        raise cut_short(file, f"{length:,} bytes", f"{size:,}")


def _whole_gltf(file: Path, head: bytes, size: int) -> None:
    try:
        uris = read_gltf(file).uris
    except ValueError as error:
        raise SourceError(f"{file.name} is cut short or damaged: {error}; export or copy it again") from None
    for uri in uris:
        if not contained_file(file.parent, uri, file.name).is_file():
            raise SourceError(f"{file.name} needs {uri} beside it: add that file too")


def _whole_vtp(file: Path, head: bytes, size: int) -> None:
    with file.open("rb") as stream:
        stream.seek(max(size - 256, 0))
        if b"</VTKFile>" not in stream.read():
            raise cut_short(file, "a closing </VTKFile>", "none")


def _whole_obj(file: Path, head: bytes, size: int) -> None:
    """OBJ has no end mark; faces that name missing vertices are found by its reader."""


def no_faces(file: Path) -> SourceError:
    """The error of a mesh without faces."""
    return SourceError(f"{file.name} has no faces, so there is nothing to see: export it as a mesh with faces")


_WHOLE: dict[str, Callable[[Path, bytes, int], None]] = {
    "STL": _whole_stl,
    "PLY": _whole_ply,
    "GLB": _whole_glb,
    "glTF": _whole_gltf,
    "VTP": _whole_vtp,
    "OBJ": _whole_obj,
}
