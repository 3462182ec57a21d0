"""The syntax tree of the user's Python file, read without running it."""

import ast
import threading
from functools import lru_cache
from pathlib import Path

_one_at_a_time = threading.Lock()
"""CPython 3.11 counts the depth of a tree for all threads together, and fails when two build one at once."""


def syntax_of(file: Path) -> ast.Module | None:
    """The tree of a file, or None when it cannot be read as Python; trees are shared, so change none."""
    try:
        return parsed(file.read_bytes())
    except (OSError, SyntaxError, ValueError, RecursionError):
        return None


def parsed(text: bytes) -> ast.Module:
    """The tree of a text.

    Raises
    ------
    SyntaxError, ValueError, RecursionError
        When it cannot be read as Python.
    """
    with _one_at_a_time:
        return _tree(text)


@lru_cache(64)
def _tree(text: bytes) -> ast.Module:
    return ast.parse(text)
