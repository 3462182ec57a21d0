"""Which kind of source a file is, decided from its content before its name, without running it."""

import ast
import zipfile
from pathlib import Path

from vexel.core.errors import Mistake
from vexel.sources.code.decorators import Model, Simulation, Sketch
from vexel.sources.code.syntax import syntax_of
from vexel.sources.meshes.mesh_format import SUFFIXES
from vexel.sources.pictures.images import IMAGES
from vexel.sources.pictures.sequence_members import MESHES, numbered_meshes
from vexel.sources.scripts import mark_of

MARKS = (Model.mark, Sketch.mark, Simulation.mark)
CLIPS = (".mp4", ".mov", ".mkv", ".webm", ".avi", ".m4v", ".mpg", ".mpeg", ".ogv", ".gif")
DATA = (".npy", ".npz", ".csv", ".parquet", ".pvd", ".vtu", ".vti", ".vts", ".vtr", ".vtk")
PAGES = (".html", ".htm", ".svg")
_MAGIC = (
    (b"\x89PNG\r\n\x1a\n", "stills"), (b"\xff\xd8\xff", "stills"), (b"II*\0", "stills"), (b"MM\0*", "stills"),
    (b"v/1\x01", "stills"), (b"\x93NUMPY", "series"), (b"PAR1", "series"), (b"\x1aE\xdf\xa3", "clip"),
    (b"GIF8", "clip"), (b"OggS", "clip"), (b"glTF", "object"), (b"ply\n", "object"), (b"ply\r", "object"),
)  # fmt: skip


def kind_of(file: Path) -> str:
    """The kind of source that a file is.

    Raises
    ------
    Mistake
        When it is none, with what could be brought instead.
    """
    suffix = file.suffix.lower()
    if suffix == ".py":
        return _kind_of_code(file)
    if suffix == ".npz":
        return "series"
    head = _head(file)
    if head.startswith(b"PK\x03\x04"):
        return _kind_of_archive(file)
    if by_content := _by_content(head):
        return by_content
    if suffix in MESHES and suffix in SUFFIXES and numbered_meshes(file):
        return "series"
    for kind, endings in (("object", SUFFIXES), ("stills", IMAGES), ("page", PAGES), ("clip", CLIPS), ("series", DATA)):
        if suffix in endings:
            return kind
    raise Mistake(
        f"{file.name} is no source that Vexel knows: bring Python code that draws, builds or simulates (.py), a mesh, "
        "data (CSV, Parquet, .npy, VTK), a page (HTML, SVG or a ZIP of one), numbered pictures or a video"
    )


def _head(file: Path) -> bytes:
    try:
        with file.open("rb") as stream:
            return stream.read(2048)
    except OSError:
        return b""


def _by_content(head: bytes) -> str:
    for magic, kind in _MAGIC:
        if head.startswith(magic):
            return kind
    if head[4:8] == b"ftyp" or (head.startswith(b"RIFF") and head[8:12] == b"AVI "):
        return "clip"
    if head.startswith(b"RIFF") and head[8:12] == b"WEBP":
        return "stills"
    text = head.lstrip(b"\xef\xbb\xbf \t\r\n").lower()
    return "page" if text.startswith((b"<!doctype html", b"<html", b"<svg")) else ""


def _kind_of_archive(file: Path) -> str:
    try:
        with zipfile.ZipFile(file) as held:
            names = [name.lower() for name in held.namelist() if not name.startswith("__MACOSX/")]
    except zipfile.BadZipFile:
        raise Mistake(f"{file.name} is damaged and cannot be unpacked: pack it again") from None
    if any(name.endswith((".html", ".htm")) for name in names):
        return "page"
    if any(name.endswith(IMAGES) for name in names):
        return "stills"
    raise Mistake(f"{file.name} holds neither a page (index.html) nor numbered pictures: pack one of them")


def _kind_of_code(file: Path) -> str:
    """By the mark on one of its functions; else by what it imports, and its own check then says what is missing."""
    tree = syntax_of(file)
    return mark_in(tree) or mark_of(tree)


def mark_in(tree: ast.Module | None) -> str:
    """The mark on one of the functions of a file; empty where none has one."""
    for node in tree.body if tree else ():
        if isinstance(node, ast.FunctionDef | ast.ClassDef):
            for decorator in node.decorator_list:
                call = decorator.func if isinstance(decorator, ast.Call) else decorator
                name = call.attr if isinstance(call, ast.Attribute) else getattr(call, "id", "")
                if name in MARKS:
                    return str(name)
    return ""
