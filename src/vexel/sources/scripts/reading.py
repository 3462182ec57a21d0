"""What a plain Python script does, read without running it: what it draws with, what it saves, what it loops over."""

import ast
import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from operator import add, mul, sub, truediv

PYPLOT = ("matplotlib.pyplot", "pylab")
LIBRARIES = ("matplotlib", "PIL", "pyvista", "skia", "cv2", "imageio", "numpy")
"""Libraries whose scripts are known; the first one that a script imports says most of what it draws."""
GIVEN_AWAY = {"savefig", "save", "show", "imwrite", "imsave", "write_frame", "screenshot", "pause", "close", "plot",
              "mimsave", "mimwrite"}  # fmt: skip
"""Calls by which a script hands its picture to a file or a window."""
FIGURES = {"figure", "subplots", "subplot", "subplot_mosaic"}
ARITHMETIC: dict[type[ast.operator], Callable[..., Fraction]] = {
    ast.Add: add, ast.Sub: sub, ast.Mult: mul, ast.Div: truediv,
}  # fmt: skip
MOST_DIGITS = 30
"""Numbers of scripts with more digits are not calculated with."""
OF_TIME = {"t", "time", "phase", "progress", "tau"}
"""Names that mean the time where they are set to one number."""


@dataclass(frozen=True)
class Script:
    """A script's tree, with what its names mean.

    Attributes
    ----------
    body : list of ast.stmt
        Its statements; those under ``if __name__ == "__main__"`` are among them.
    modules : dict of str to str
        Local names of modules, and the modules.
    """

    tree: ast.Module
    body: list[ast.stmt]
    modules: dict[str, str] = field(default_factory=dict)

    @property
    def library(self) -> str:
        """What it draws with; empty when that is none of the known ones."""
        imported = {module.split(".")[0] for module in self.modules.values()}
        if "pyvista" in imported and not self.alias(*PYPLOT):
            return "pyvista"
        return next((name for name in LIBRARIES if name in imported), "")

    def alias(self, *modules: str) -> str:
        """Local name of the first of some modules that is imported, or empty."""
        return next((name for name, module in self.modules.items() if module in modules), "")

    def module_of(self, node: ast.expr) -> str:
        """The module of a name or a dotted name, or empty."""
        if isinstance(node, ast.Name):
            return self.modules.get(node.id, "")
        if isinstance(node, ast.Attribute) and (outer := self.module_of(node.value)):
            return f"{outer}.{node.attr}"
        return ""

    def functions(self) -> dict[str, ast.FunctionDef]:
        """Functions of the module by name."""
        return {node.name: node for node in self.tree.body if isinstance(node, ast.FunctionDef)}

    def whole_number(self, node: ast.expr) -> int | None:
        """The value of a constant expression, if it is whole; see `number`."""
        value = self.number(node)
        return int(value) if value is not None and value.denominator == 1 else None

    def number(self, node: ast.expr) -> Fraction | None:
        """The exact value of a number, of the name of one, or of an expression of such; None for any other."""
        if isinstance(node, ast.Constant) and isinstance(node.value, int | float) and not isinstance(node.value, bool):
            written = repr(node.value)
            return Fraction(written) if math.isfinite(node.value) and len(written) < MOST_DIGITS else None
        if isinstance(node, ast.BinOp) and type(node.op) in ARITHMETIC:
            left, right = self.number(node.left), self.number(node.right)
            if left is None or right is None or (isinstance(node.op, ast.Div) and not right):
                return None
            value = ARITHMETIC[type(node.op)](left, right)
            return value if len(str(value)) < MOST_DIGITS else None
        if isinstance(node, ast.Name):
            set_to = [s.value for s in self.body if isinstance(s, ast.Assign) and node.id in assigned(s)]
            if len(set_to) == 1 and node.id not in used(set_to[0]):
                return self.number(set_to[0])
        return None


def read_script(tree: ast.Module) -> Script:
    """Read a tree."""
    body: list[ast.stmt] = []
    for statement in tree.body:
        body += getattr(statement, "body", []) if is_main_guard(statement) else [statement]
    modules: dict[str, str] = {}
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            for alias in node.names:
                modules[alias.asname or alias.name.split(".")[0]] = alias.name
        elif isinstance(node, ast.ImportFrom) and node.module:
            modules |= {alias.asname or alias.name: f"{node.module}.{alias.name}" for alias in node.names}
    return Script(tree, body, modules)


def is_main_guard(statement: ast.stmt) -> bool:
    """Whether it is ``if __name__ == "__main__"``."""
    test = statement.test if isinstance(statement, ast.If) else None
    return isinstance(test, ast.Compare) and isinstance(test.left, ast.Name) and test.left.id == "__name__"


def is_setting(statement: ast.stmt) -> bool:
    """Whether a statement only makes names known: an import, a function, a class or a docstring."""
    if isinstance(statement, ast.Expr):
        return isinstance(statement.value, ast.Constant)
    return isinstance(statement, ast.Import | ast.ImportFrom | ast.FunctionDef | ast.ClassDef)


def assigned(*statements: ast.stmt) -> set[str]:
    """Names that statements set, functions and classes too; not those within functions."""
    names: set[str] = set()
    for statement in statements:
        if isinstance(statement, ast.FunctionDef | ast.ClassDef):
            names.add(statement.name)
            continue
        for node in ast.walk(statement):
            if isinstance(node, ast.Name) and isinstance(node.ctx, ast.Store):
                names.add(node.id)
    return names


def used(*statements: ast.AST) -> set[str]:
    """Names that are looked up."""
    return {
        node.id for statement in statements for node in ast.walk(statement)
        if isinstance(node, ast.Name) and isinstance(node.ctx, ast.Load)
    }  # fmt: skip


def carried(body: list[ast.stmt], before: set[str]) -> str:
    """A name from before a loop that each turn of it changes further, or empty."""
    for statement in body:
        for node in ast.walk(statement):
            if isinstance(node, ast.AugAssign):
                base: ast.expr = node.target
                while isinstance(base, ast.Subscript | ast.Attribute):
                    base = base.value
                if isinstance(base, ast.Name) and base.id in before:
                    return base.id
            elif isinstance(node, ast.Call) and any(k.arg == "inplace" for k in node.keywords):
                if again := used(node.func) & before:
                    return min(again)
            elif isinstance(node, ast.Assign):
                again = assigned(node) & used(node.value) & before
                if again:
                    return min(again)
    return ""


def call_of(statement: ast.stmt) -> ast.Call | None:
    """The call that a statement consists of."""
    value = statement.value if isinstance(statement, ast.Expr | ast.Assign) else None
    return value if isinstance(value, ast.Call) else None


def called(call: ast.Call) -> str:
    """Last name of what is called."""
    return call.func.attr if isinstance(call.func, ast.Attribute) else getattr(call.func, "id", "")


def statements_in(body: list[ast.stmt]) -> Iterator[tuple[ast.stmt, list[ast.stmt]]]:
    """All statements of a body and of the blocks in it, each with its block; not those of functions."""
    for statement in body:
        yield statement, body
        if isinstance(statement, ast.FunctionDef | ast.ClassDef):
            continue
        for name in ("body", "orelse", "finalbody"):
            inner = getattr(statement, name, None)
            if isinstance(inner, list):
                yield from statements_in(inner)


def gives_away(statement: ast.stmt, script: Script) -> bool:
    """Whether a statement hands the picture to a file or a window."""
    call = call_of(statement)
    if call is None or not isinstance(statement, ast.Expr) or not isinstance(call.func, ast.Attribute):
        return False
    name = call.func.attr
    if name == "plot":
        # A mesh is shown by it; pyplot and its axes draw with it.
        return script.library == "pyvista" and not call.args
    return name in GIVEN_AWAY


def gathered(statement: ast.stmt, script: Script) -> bool:
    """Whether a statement appends a picture to a list that is handed away later, as for an animated file."""
    call = call_of(statement)
    if call is None or called(call) != "append" or not isinstance(call.func, ast.Attribute) or len(call.args) != 1:
        return False
    lists = used(call.func)
    return any(gives_away(other, script) and used(other) & lists for other in script.body)
