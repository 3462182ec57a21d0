"""Source kind ``sketch``: a Python file that draws a picture."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from vexel.core.errors import SourceError
from vexel.core.evaluate.source_facts import SourceFacts
from vexel.sources.code.code_file import CodeFile, seed_global
from vexel.sources.code.decorators import Sketch
from vexel.sources.code.drawing_result import DrawingSurface, drawing_result
from vexel.sources.code.watch import Reading
from vexel.sources.protocols import FrameRequest, Shown


class SketchFile:
    """A sketch file, loaded; see `CodeFile` for what it may raise."""

    def __init__(self, file: Path, seed: int = 0) -> None:
        self._code = CodeFile(file, Sketch)
        self._seed = seed
        self.facts = SourceFacts(tuple(self._code.marked.dials), self._code.marked.time_inputs)

    @property
    def readings(self) -> list[Reading]:
        """What its code read beside its own files; see `vexel.sources.code.watch`."""
        return self._code.watch.readings

    def show(self, asked: FrameRequest) -> Shown:
        """Run the drawing function; see `Source.show`."""
        sketch = self._code.marked
        seed_global(self._seed)
        return shown(
            asked,
            sketch.takes,
            self._seed,
            lambda more: self._code.call(sketch, **self._code.arguments(asked.dials, asked.time_inputs, **more)),
            lambda wrong: SourceError(f"{self._code.place} returned {wrong}", self._code.line),
        )


def shown(
    asked: FrameRequest,
    takes: list[str],
    seed: int,
    draw: Callable[[dict[str, Any]], Any],
    wrong: Callable[[Exception], SourceError],
) -> Shown:
    """What a drawing function drew on its canvas or returned.

    Parameters
    ----------
    asked : Asked
    takes : list of str
        Names that the function takes.
    seed : int
        Of the random numbers that it is given.
    draw : callable
        Calls the function with canvas, size and random numbers by their names.
    wrong : callable
        Makes the error of a result that is no picture.
    """
    sheet = DrawingSurface(asked) if "canvas" in takes else None
    more: dict[str, Any] = {"size": asked.layout, "random": np.random.default_rng(seed)}
    if sheet is not None:
        more["canvas"] = sheet.canvas
    result = draw(more)
    try:
        if result is not None:
            return drawing_result(result, asked)
        if sheet is None:
            raise TypeError("None; let it take canvas and draw on it, or return a picture")
        return sheet.pixels
    except (TypeError, ValueError) as error:
        raise wrong(error) from None
