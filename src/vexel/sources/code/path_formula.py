"""A camera path from a formula: a Python file with one function that returns the camera's position."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from vexel.core.errors import SourceError
from vexel.core.time.clock import Instant
from vexel.sources.code.code_file import CodeFile
from vexel.sources.code.decorators import PathFormula

NAMES = (("x", "y", "z"), ("look_x", "look_y", "look_z"))


def formula_rows(file: Path, instants: Sequence[Instant]) -> list[dict[str, float]]:
    """Ask a formula for the camera of every frame.

    Parameters
    ----------
    file : Path
    instants : sequence of Instant

    Raises
    ------
    SourceError
        When the code fails, or gives no place.
    """
    code = CodeFile(file, PathFormula)
    rows = []
    for number, instant in enumerate(instants):
        seen = {name: getattr(instant, name) for name in ("frame", "count", "seconds", "phase", "rate")}
        result = code.call(code.marked, **code.arguments({}, seen))
        rows.append({"frame": float(number)} | _row(code, result, number))
    return rows


def _row(code: CodeFile[PathFormula], result: Any, frame: int) -> dict[str, float]:
    try:
        numbers = np.asarray(result, dtype=np.float64)
    except (TypeError, ValueError):
        numbers = np.empty(0)
    if numbers.shape not in ((3,), (2, 3)) or not np.isfinite(numbers).all():
        raise SourceError(
            f"{code.place} gave {result!r:.60} for frame {frame}; it must return a place (x, y, z), or a place and "
            "what the camera looks at",
            code.line,
        )
    names = [name for group in NAMES for name in group]
    return dict(zip(names, map(float, numbers.ravel()), strict=False))
