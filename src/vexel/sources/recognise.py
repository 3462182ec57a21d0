"""Which kind of source a file is, decided from its content without running it."""

import ast
from pathlib import Path

from vexel.core.errors import Mistake
from vexel.sources.marking import Model, Simulation, Sketch
from vexel.sources.sniff import SUFFIXES

MARKS = (Model.mark, Sketch.mark, Simulation.mark)


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
    if suffix in SUFFIXES:
        return "object"
    raise Mistake(
        f"{file.name} is no source that Vexel knows: bring Python code that draws or builds (.py), "
        f"or a mesh ({', '.join(SUFFIXES)})"
    )


def _kind_of_code(file: Path) -> str:
    """By the mark on one of its functions; a model if it cannot be told, whose own check then says why."""
    try:
        tree = ast.parse(file.read_bytes())
    except (SyntaxError, ValueError, OSError):
        return "model"
    for node in tree.body:
        if isinstance(node, ast.FunctionDef | ast.ClassDef):
            for decorator in node.decorator_list:
                call = decorator.func if isinstance(decorator, ast.Call) else decorator
                name = call.attr if isinstance(call, ast.Attribute) else getattr(call, "id", "")
                if name in MARKS:
                    return name
    return "model"
