"""The typeface of labels and drawings: the same on every machine, since it comes with a library of Vexel's own."""

from functools import cache
from pathlib import Path
from typing import Any


@cache
def typeface(mono: bool = False, bold: bool = False) -> Any:
    """A ``skia.Typeface`` of the DejaVu family."""
    import matplotlib
    import skia

    name = f"DejaVuSans{'Mono' if mono else ''}{'-Bold' if bold else ''}.ttf"
    return skia.Typeface.MakeFromFile(str(Path(matplotlib.get_data_path(), "fonts/ttf", name)))
