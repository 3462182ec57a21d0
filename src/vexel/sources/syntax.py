"""The syntax tree of a person's Python file, read without running it."""

import ast
import threading
from functools import lru_cache
from pathlib import Path

_one_at_a_time = threading.Lock()
"""CPython 3.11 counts the depth of a tree for all threads together, and breaks down when two build one at once."""


def syntax_of(file: Path) -> ast.Module | None:
    """The tree of a file, or None when it cannot be read as Python; trees are shared, so change none."""
    try:
        text = file.read_bytes()
        with _one_at_a_time:
            return _parsed(text)
    except (OSError, SyntaxError, ValueError, RecursionError):
        return None


@lru_cache(64)
def _parsed(text: bytes) -> ast.Module:
    return ast.parse(text)
