"""Which kind of source a file is, decided from its content before its name, without running it."""

import ast
from pathlib import Path

from vexel.core.errors import Mistake
from vexel.sources.archive import names_in
from vexel.sources.code.syntax import syntax_of
from vexel.sources.registry import KINDS
from vexel.sources.scripts import mark_of

HEAD_BYTES = 2048
NAMED_ALONE = (".npz",)
"""Formats that are archives themselves, so that their content does not tell them from other archives."""
MARKS: dict[str, str] = {kind.detection.mark: name for name, kind in KINDS.items() if kind.detection.mark}


def kind_of(file: Path) -> str:
    """The kind of source that a file is.

    Raises
    ------
    Mistake
        When it is none, with the kinds that are accepted.
    """
    suffix = file.suffix.lower()
    if suffix == ".py":
        return _kind_of_code(file)
    head = b"" if suffix in NAMED_ALONE else _head(file)
    if head.startswith(b"PK\x03\x04"):
        return _kind_of_archive(file)
    by_place = [name for name, kind in KINDS.items() if kind.detection.place(file)]
    if by_content := _by_content(head):
        # One picture and a sequence of them begin alike.
        alike = [name for name in by_place if KINDS[name].suffixes == KINDS[by_content].suffixes]
        return (alike or [by_content])[0]
    by_suffix = [name for name, kind in KINDS.items() if suffix in kind.detection.suffixes]
    # The files beside a file decide before its own ending, but only for files that could be a source alone.
    if by_suffix:
        return (by_place or by_suffix)[0]
    raise Mistake(
        f"{file.name} is not a source that Vexel can read: use Python code that draws, builds or simulates (.py), "
        "a mesh, data (CSV, Parquet, .npy, VTK), a page (HTML, SVG or a ZIP of one), numbered pictures or a video"
    )


def _head(file: Path) -> bytes:
    try:
        with file.open("rb") as stream:
            return stream.read(HEAD_BYTES)
    except OSError:
        return b""


def _by_content(head: bytes) -> str:
    for name, kind in KINDS.items():
        if head.startswith(kind.detection.begins) or kind.detection.content(head):
            return name
    return ""


def _kind_of_archive(file: Path) -> str:
    names = [name.lower() for name in names_in(file)]
    for name, kind in KINDS.items():
        if kind.detection.archived and any(held.endswith(kind.detection.archived) for held in names):
            return name
    raise Mistake(f"{file.name} holds neither a page (index.html) nor numbered pictures: pack one of them")


def _kind_of_code(file: Path) -> str:
    """By the decorator of one of its functions; else by its imports, and its own check then names what is missing."""
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
