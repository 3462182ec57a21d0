"""A lane's value as a formula of the time and of other lanes, worked out for all frames at once.

The text is read into a tree of a few kinds of node, each with its function;
nothing of it is run as a program.
"""

import ast
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import Mistake
from vexel.core.wording import nearest_name

Array = NDArray[np.float64]
MAX_LENGTH = 1000
MAX_NODES = 400
TIMES: Final = ("phase", "seconds", "frame")
"""Where the lane stands, in phase, and in seconds and frames of the motion's own time."""
CONSTANTS: Final = {"pi": np.pi, "tau": 2 * np.pi, "e": np.e}


def _smoothstep(a: Array, b: Array, x: Array) -> Array:
    t = np.clip((x - a) / (b - a), 0, 1)
    return t * t * (3 - 2 * t)


FUNCTIONS: Final[dict[str, tuple[Callable[..., Any], int]]] = {
    "sin": (np.sin, 1), "cos": (np.cos, 1), "tan": (np.tan, 1), "asin": (np.arcsin, 1), "acos": (np.arccos, 1),
    "atan": (np.arctan, 1), "atan2": (np.arctan2, 2), "sqrt": (np.sqrt, 1), "exp": (np.exp, 1), "log": (np.log, 1),
    "abs": (np.abs, 1), "sign": (np.sign, 1), "floor": (np.floor, 1), "ceil": (np.ceil, 1), "round": (np.rint, 1),
    "min": (np.minimum, 2), "max": (np.maximum, 2), "hypot": (np.hypot, 2), "pow": (np.power, 2),
    "clamp": (np.clip, 3), "mix": (lambda a, b, t: a + (b - a) * t, 3), "smoothstep": (_smoothstep, 3),
}  # fmt: skip
"""By name, with how many arguments they take. Angles are in radians."""
_OPERATORS: Final[dict[type[ast.AST], Callable[..., Any]]] = {
    ast.Add: np.add, ast.Sub: np.subtract, ast.Mult: np.multiply, ast.Div: np.divide, ast.Mod: np.mod,
    ast.Pow: np.power, ast.FloorDiv: np.floor_divide, ast.USub: np.negative, ast.UAdd: np.positive,
    ast.Lt: np.less, ast.LtE: np.less_equal, ast.Gt: np.greater, ast.GtE: np.greater_equal, ast.Eq: np.equal,
    ast.NotEq: np.not_equal, ast.And: np.logical_and, ast.Or: np.logical_or, ast.Not: np.logical_not,
}  # fmt: skip


@dataclass(frozen=True)
class Formula:
    """A formula, read.

    Attributes
    ----------
    text : str
    lanes : tuple of str
        Other lanes that it takes, by what they drive.
    """

    text: str
    lanes: tuple[str, ...]
    _tree: ast.expr

    @classmethod
    @lru_cache(256)
    def parse(cls, text: str) -> "Formula":
        """Read a formula such as ``2 + 0.5 * sin(tau * phase)`` or ``lane("dial:depth") / 3``.

        Raises
        ------
        Mistake
            Naming what is not part of one.
        """
        if len(text) > MAX_LENGTH:
            raise Mistake(f"a formula has at most {MAX_LENGTH:,} characters, this has {len(text):,}")
        try:
            tree = ast.parse(text.strip().replace("^", "**"), mode="eval").body
        except (SyntaxError, ValueError, RecursionError, MemoryError):
            raise Mistake(f"formula {text!r} cannot be read: write such as 2 + 0.5 * sin(tau * phase)") from None
        if sum(1 for _ in ast.walk(tree)) > MAX_NODES:
            raise Mistake(f"formula {text[:40]!r}… is too long: take it apart into several lanes")
        lanes: dict[str, None] = {}
        _check(tree, lanes)
        return cls(text, tuple(lanes), tree)

    def __call__(self, times: Mapping[str, Array], tracks: Mapping[str, Array]) -> Array:
        """Values at given times, shape (N,).

        Parameters
        ----------
        times : mapping of str to ndarray, shape (N,)
            For each of `TIMES`.
        tracks : mapping of str to ndarray, shape (N,)
            Values of the lanes that it takes.

        Raises
        ------
        Mistake
            When a value is not finite.
        """
        with np.errstate(all="ignore"):
            found = np.asarray(_worked_out(self._tree, times, tracks), np.float64)
        values: Array = np.broadcast_to(found, times["phase"].shape).copy()
        bad = np.flatnonzero(~np.isfinite(values))
        if len(bad):
            at = times["frame"][bad[0]]
            raise Mistake(f"formula {self.text!r} is not finite at frame {at:.6g}: it divides by 0, or overflows")
        return values


def _check(node: ast.AST, lanes: dict[str, None]) -> None:
    if isinstance(node, ast.Constant):
        if isinstance(node.value, bool) or not isinstance(node.value, int | float) or abs(node.value) > 1e15:
            raise Mistake(f"a formula holds {node.value!r}, which is not a number")
        return
    if isinstance(node, ast.Name):
        if node.id not in (*TIMES, *CONSTANTS):
            known = [*TIMES, *CONSTANTS, *FUNCTIONS]
            raise Mistake(f"a formula knows no {node.id!r}; {nearest_name(node.id, known)}")
        return
    if isinstance(node, ast.Call):
        _check_call(node, lanes)
        return
    if isinstance(node, ast.Compare) and len(node.ops) > 1:
        raise Mistake("a formula compares two values at a time: join comparisons with and")
    operators = [
        operator for operator in (getattr(node, "op", None), *getattr(node, "ops", ())) if operator is not None
    ]
    kinds = (ast.BinOp, ast.UnaryOp, ast.BoolOp, ast.Compare, ast.IfExp)
    if not isinstance(node, kinds) or any(type(operator) not in _OPERATORS for operator in operators):
        raise Mistake(f"a formula cannot hold {ast.unparse(node)!r}: write numbers, names, operators and functions")
    for child in ast.iter_child_nodes(node):
        if isinstance(child, ast.expr):
            _check(child, lanes)


def _check_call(node: ast.Call, lanes: dict[str, None]) -> None:
    name = node.func.id if isinstance(node.func, ast.Name) else ast.unparse(node.func)
    if name == "lane":
        given = node.args[0] if len(node.args) == 1 else None
        if not isinstance(given, ast.Constant) or not isinstance(given.value, str):
            raise Mistake('a formula takes another lane as lane("dial:depth")')
        lanes[given.value] = None
        return
    if name not in FUNCTIONS:
        raise Mistake(f"a formula knows no {name}(); {nearest_name(name, [*FUNCTIONS, 'lane'])}")
    wanted = FUNCTIONS[name][1]
    if len(node.args) != wanted or node.keywords:
        raise Mistake(f"{name}() in a formula takes {wanted} values, not {len(node.args) + len(node.keywords)}")
    for argument in node.args:
        _check(argument, lanes)


def _worked_out(node: ast.AST, times: Mapping[str, Array], tracks: Mapping[str, Array]) -> Any:
    def value(of: ast.AST) -> Any:
        return _worked_out(of, times, tracks)

    match node:
        case ast.Constant():
            return np.float64(node.value)  # type: ignore[arg-type]
        case ast.Name():
            return times[node.id] if node.id in times else np.float64(CONSTANTS[node.id])
        case ast.Call(func=ast.Name(id="lane")):
            return tracks[node.args[0].value]  # type: ignore[attr-defined]
        case ast.Call(func=ast.Name(id=name)):
            return FUNCTIONS[name][0](*map(value, node.args))
        case ast.BinOp():
            return _OPERATORS[type(node.op)](value(node.left), value(node.right))
        case ast.UnaryOp():
            return _OPERATORS[type(node.op)](value(node.operand))
        case ast.Compare():
            return _OPERATORS[type(node.ops[0])](value(node.left), value(node.comparators[0]))
        case ast.IfExp():
            return np.where(value(node.test), value(node.body), value(node.orelse))
        case ast.BoolOp():
            first, *rest = map(value, node.values)
            for other in rest:
                first = _OPERATORS[type(node.op)](first, other)
            return first
    raise AssertionError(ast.dump(node))
