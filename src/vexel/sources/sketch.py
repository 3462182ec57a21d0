"""Source kind ``sketch``: a Python file that draws a picture."""

from pathlib import Path
from typing import Any

import numpy as np

from vexel.sources.code import CodeFile
from vexel.sources.contract import Asked, Shown, SourceError
from vexel.sources.drawn import Sheet, drawn
from vexel.sources.marking import Sketch


class SketchFile:
    """A sketch file, loaded; see `CodeFile` for what it may raise."""

    def __init__(self, file: Path, seed: int = 0) -> None:
        self._code = CodeFile(file, Sketch)
        self._seed = seed
        self.facts = self._code.facts

    def show(self, asked: Asked) -> Shown:
        """Run the drawing function; see `Source.show`."""
        takes = self._code.marked.takes
        sheet = Sheet(asked) if "canvas" in takes else None
        more: dict[str, Any] = {"size": asked.layout, "random": np.random.default_rng(self._seed)}
        if sheet is not None:
            more["canvas"] = sheet.canvas
        result = self._code.call(self._code.marked.given(asked.dials, asked.seen, **more))
        try:
            if result is None:
                if sheet is None:
                    raise TypeError("None; let it take canvas and draw on it, or return a picture")
                return sheet.pixels
            return drawn(result, asked)
        except (TypeError, ValueError) as error:
            raise SourceError(f"{self._code.place} returned {error}", self._code.line) from None
