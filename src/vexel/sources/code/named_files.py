"""Files that a program names: its imports, its texts, and paths that it puts together; found without running it."""

import ast
import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from vexel.core.errors import Mistake

_LISTING = frozenset({"iterdir", "listdir", "scandir", "walk", "glob", "iglob", "rglob", "fwalk"})
"""Functions that list a folder."""
_JOINING = frozenset({"join", "joinpath"})
_MARKS = frozenset({"model", "sketch", "simulation"})
_IMPORTING = frozenset({"import_module", "__import__"})
_FILE = re.compile(r"[^/]*\.\w{1,8}$|/\*+$|^\*$")
_LONGEST = 200
"""Letters of a text that may be a path."""


@dataclass(frozen=True)
class Named:
    """What a program names.

    Attributes
    ----------
    modules : tuple of (int, str)
        How many folders up a module lies, 0 for one that is looked for from the main file's folder; and its name.
    paths : tuple of str
        Files, folders, or patterns of them, relative to the main file's folder.
    lists : bool
        Whether it lists folders, so that all files of a folder that it names belong to it.
    lists_own : bool
        Whether it lists the folder of the file itself.
    lists_unsaid : bool
        Whether it lists a folder whose name is set in another place.
    """

    modules: tuple[tuple[int, str], ...]
    paths: tuple[str, ...]
    lists: bool
    lists_own: bool
    lists_unsaid: bool


@lru_cache(64)
def named_in(tree: ast.Module) -> Named:
    """What a program names."""
    modules: dict[tuple[int, str], None] = {}
    paths: dict[str, None] = {}
    lists = own = unsaid = False
    for node in ast.walk(tree):
        modules.update(dict.fromkeys(_modules(node)))
        paths.update(dict.fromkeys(filter(_may_be_path, _paths(node))))
        if isinstance(node, ast.Call) and _called(node) in _LISTING:
            lists = True
            own = own or _is_own_folder(node)
            unsaid = unsaid or not node.args
    return Named(tuple(modules), tuple(paths), lists, own, unsaid and not own)


def reads_in(tree: ast.Module) -> tuple[str, ...]:
    """What the marks of a program declare that it reads, such as ``@model(reads=["tide.csv"])``.

    Raises
    ------
    Mistake
        When that is not written as texts, so that it cannot be known without running it.
    """
    found: list[str] = []
    for node in tree.body:
        for mark in getattr(node, "decorator_list", ()):
            if isinstance(mark, ast.Call) and _called(mark) in _MARKS:
                found += [name for keyword in mark.keywords if keyword.arg == "reads" for name in _listed(keyword)]
    return tuple(found)


def _listed(keyword: ast.keyword) -> list[str]:
    try:
        names = ast.literal_eval(keyword.value)
    except (ValueError, SyntaxError, TypeError, MemoryError, RecursionError):
        names = None
    if not isinstance(names, list | tuple) or not all(isinstance(name, str) and 0 < len(name) <= 400 for name in names):
        raise Mistake(f"line {keyword.value.lineno}: write reads as a list of texts, such as reads=['data/tide.csv']")
    return list(names)


def places_in(tree: ast.Module) -> tuple[str, ...]:
    """Absolute paths in the texts of a program, and those that begin at a home folder."""
    texts = (node.value for node in ast.walk(tree) if isinstance(node, ast.Constant) and isinstance(node.value, str))
    found = (text for text in texts if text.startswith(("/", "~/")) and 1 < len(text) < _LONGEST and text.isprintable())
    return tuple(dict.fromkeys(found))


def asks_for_the_time(tree: ast.Module) -> bool:
    """Whether a program calls ``now`` or ``today`` of a date."""
    calls = (node for node in ast.walk(tree) if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute))
    return any(
        call.func.attr in ("now", "today", "utcnow")
        and isinstance(of := call.func.value, ast.Name | ast.Attribute)
        and (of.id if isinstance(of, ast.Name) else of.attr) in ("datetime", "date", "Timestamp")
        for call in calls
        if isinstance(call.func, ast.Attribute)
    )


def _modules(node: ast.AST) -> Iterator[tuple[int, str]]:
    if isinstance(node, ast.Import):
        yield from ((0, alias.name) for alias in node.names)
    elif isinstance(node, ast.ImportFrom):
        base = node.module or ""
        yield from ((node.level, name) for name in (base, *(f"{base}.{alias.name}".strip(".") for alias in node.names)))
    elif isinstance(node, ast.Call) and _called(node) in _IMPORTING and node.args:
        first = node.args[0]
        if isinstance(first, ast.Constant) and isinstance(first.value, str):
            name = first.value.lstrip(".")
            yield len(first.value) - len(name), name


def _paths(node: ast.AST) -> Iterator[str]:
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        yield node.value
    elif isinstance(node, ast.JoinedStr):
        yield _pattern(node)
    elif isinstance(node, ast.BinOp) and isinstance(node.op, ast.Div):
        yield _chained(node)
    elif isinstance(node, ast.Call) and _called(node) in _JOINING:
        yield "/".join(filter(None, map(_text, node.args)))
    elif (
        isinstance(node, ast.Call) and _called(node) in _LISTING and isinstance(node.func, ast.Attribute) and node.args
    ):
        # The folder that it is called on, and the pattern that it is called with.
        yield "/".join(filter(None, (_chained(node.func.value), _text(node.args[0]))))


def _called(node: ast.Call) -> str:
    function = node.func
    return function.attr if isinstance(function, ast.Attribute) else getattr(function, "id", "")


def _text(node: ast.AST) -> str:
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        return node.value
    return _pattern(node) if isinstance(node, ast.JoinedStr) else _chained(node)


def _pattern(node: ast.JoinedStr) -> str:
    """A text with values in it, as a pattern."""
    return "".join(str(part.value) if isinstance(part, ast.Constant) else "*" for part in node.values)


def _chained(node: ast.AST) -> str:
    """The known end of a path that is joined by ``/``."""
    if isinstance(node, ast.BinOp) and isinstance(node.op, ast.Div):
        return "/".join(filter(None, (_chained(node.left), _text(node.right))))
    return ""


def _is_own_folder(node: ast.Call) -> bool:
    """Whether a listing names no folder except the file's."""
    told = [*node.args[:1], *([node.func.value] if isinstance(node.func, ast.Attribute) else [])]
    said = any(_text(one) for one in told if not _is_wild(_text(one)))
    at_file = any(isinstance(one, ast.Name) and one.id == "__file__" for part in told for one in ast.walk(part))
    return not said and at_file


def _is_wild(text: str) -> bool:
    return any(mark in text for mark in "*?[")


def _may_be_path(text: str) -> bool:
    if not 0 < len(text) < _LONGEST or "\0" in text or "\n" in text or text.startswith(("/", "~")):
        return False
    if ".." in text.split("/"):
        return False
    # A text with values in it is a path where it ends like a file's name; others are labels.
    return not _is_wild(text) or (" " not in text and _FILE.search(text) is not None)


def module_files(name: str) -> list[Path]:
    """Where a module may lie: its file, and the packages that it is in; without a name, the package itself."""
    if not name:
        return [Path("__init__.py")]
    parts = name.split(".")
    packages = [Path(*parts[: n + 1], "__init__.py") for n in range(len(parts))]
    return [Path(*parts).with_suffix(".py"), *packages]
