"""The user's Python file, loaded, with errors that name its lines.

Opened inside a stage process only: it runs untrusted code.
"""

import os
import random
import sys
import traceback
from collections.abc import Callable, Mapping
from fractions import Fraction
from itertools import islice
from pathlib import Path
from types import ModuleType
from typing import Any, Generic, TypeVar

import numpy as np

from vexel.core.errors import SourceError
from vexel.sources.code.decorators import Decorated, Model, PathFormula, Simulation, Sketch
from vexel.sources.code.syntax import syntax_of
from vexel.sources.code.watch import Watch

MOST_TEXTS = 200
"""Files of code beside the main one that are looked through for what they read."""
M = TypeVar("M", Model, PathFormula, Sketch, Simulation, Decorated)


class CodeFile(Generic[M]):
    """A file with one marked function or class.

    Parameters
    ----------
    file : Path
    mark : type of Marked
        The mark that the function must carry.

    Raises
    ------
    SourceError
        When the code does not parse or run, or marks no function.
    """

    def __init__(self, file: Path, mark: type[M]) -> None:
        self.file = file
        self.watch = Watch(file.parent)
        if b"vexel" not in file.read_bytes():
            # A plain script would draw and save everything before it is refused as a source.
            raise self._unmarked(f"no {mark.marks}", mark)
        self.marked: M = self._find(self._load(), mark)

    @property
    def place(self) -> str:
        """File, line and name of the marked function, to begin a sentence."""
        return f"{self.file.name}, line {self.line}: {self.marked.build.__name__}()"

    @property
    def line(self) -> int:
        """Line of the marked function."""
        return self.marked.line

    def call(self, function: Callable[..., Any], *given: Any, **named: Any) -> Any:
        """Call a function of the file.

        Raises
        ------
        SourceError
            With the file and line where it failed.
        """
        try:
            with self.watch.watching():
                return function(*given, **named)
        except Exception as error:  # noqa: BLE001 (user code raises anything)
            raise self._pointed(error) from None
        except SystemExit:
            raise self._exits() from None

    def arguments(self, dials: Mapping[str, float], seen: Mapping[str, int | Fraction], **more: Any) -> dict[str, Any]:
        """Arguments of the marked function; see `Decorated.given`."""
        assert isinstance(self.marked, Decorated)
        try:
            return self.marked.given(dials, seen, **more)
        except ValueError as error:
            raise SourceError(f"{self.place} {error}", self.line) from None

    def _load(self) -> ModuleType:
        folder: str = str(self.file.parent)
        os.chdir(folder)
        # Another source may have a module of the same name beside it, and Python would hand out the old one.
        _forget_modules_outside_packages()
        sys.path[:] = [folder, *(p for p in sys.path if p != folder)]
        # A compiled module in the copy would be one file more than what was shown.
        sys.dont_write_bytecode = True
        module = ModuleType("__source__")
        module.__file__ = str(self.file)
        seed_global(0)
        try:
            code = compile(self.file.read_bytes(), str(self.file), "exec")
            with self.watch.watching():
                exec(code, module.__dict__)  # noqa: S102 (this is where user code is run, in a bounded process)
        except Exception as error:  # noqa: BLE001 (user code raises anything)
            raise self._pointed(error) from None
        except SystemExit:
            raise self._exits() from None
        texts = islice(self.file.parent.rglob("*.py"), MOST_TEXTS)
        self.watch.note_texts(tree for tree in map(syntax_of, texts) if tree is not None)
        return module

    def _find(self, module: ModuleType, mark: type[M]) -> M:
        found = [value for value in vars(module).values() if isinstance(value, mark)]
        if len(found) != 1:
            count = f"no {mark.marks}" if not found else f"{len(found)} of them"
            raise self._unmarked(count, mark)
        return found[0]

    def _unmarked(self, count: str, mark: type[M]) -> SourceError:
        return SourceError(
            f"{self.file.name} marks {count} as its {mark.mark}: put @{mark.mark} before the one {mark.marks} "
            f"that Vexel is to call (from vexel.author import {mark.mark})"
        )

    def _exits(self) -> SourceError:
        return SourceError(f"{self.file.name} ends the process: remove the call to exit()")

    def _pointed(self, error: Exception) -> SourceError:
        """The error as a sentence that names the user's file and line."""
        folder = self.file.parent
        text = str(error) or "no further word"
        if isinstance(error, SyntaxError):
            name = Path(error.filename or self.file).name
            return SourceError(f"{name}, line {error.lineno}: the code cannot be read: {error.msg}", error.lineno or 0)
        if isinstance(error, MemoryError):
            text = "asked for more memory than a source may take (VEXEL_MEMORY_MB sets how much)"
        if isinstance(error, PermissionError):
            text += "; a source may write into the folder that tempfile gives it, and nowhere else"
        own = [f for f in traceback.extract_tb(error.__traceback__) if Path(f.filename).is_relative_to(folder)]
        if not own:
            return SourceError(f"{self.file.name}: {type(error).__name__}: {text}")
        place = own[-1]
        inside = Path(place.filename).relative_to(folder)
        return SourceError(f"{inside}, line {place.lineno}: {type(error).__name__}: {text}", place.lineno or 0)


def seed_global(seed: int) -> None:
    """Set Python's and NumPy's own random numbers, so that code that draws from them gives the same each time."""
    random.seed(seed)
    np.random.seed(seed)


def _forget_modules_outside_packages() -> None:
    """Drop modules that an earlier source imported from its folder."""
    kept = tuple({sys.prefix, sys.base_prefix, str(Path(__file__).parents[2])})
    for name, module in list(sys.modules.items()):
        path = getattr(module, "__file__", None)
        if path and not path.startswith(kept) and name != "__main__":
            del sys.modules[name]
