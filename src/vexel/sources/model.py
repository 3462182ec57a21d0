"""Source kind ``model``: a Python file that builds geometry from dials.

Only ever opened inside a stage process: it runs a person's own code.
"""

import os
import sys
import traceback
from collections.abc import Mapping
from pathlib import Path
from types import ModuleType

from vexel.core.clock import Instant
from vexel.core.plan import SourceFacts
from vexel.sources.contract import SourceError
from vexel.sources.marking import Model
from vexel.sources.parts import Part, as_parts, check_parts


class ModelFile:
    """A model file, loaded.

    Raises
    ------
    SourceError
        When the code does not parse or run, or marks no building function.
    """

    def __init__(self, file: Path, up: str = "auto") -> None:
        self._file = file
        self._model = self._marked(self._load())
        self.facts = SourceFacts(tuple(self._model.dials), self._model.takes_instant)

    def parts(self, dials: Mapping[str, float], instant: Instant | None) -> list[Part]:
        """Run the building function; see `Source.parts`."""
        given: dict[str, object] = dict(dials)
        if self._model.takes_instant:
            given["instant"] = instant
        try:
            result = self._model(**given)
        except Exception as error:
            raise self._pointed(error) from None
        name = self._model.__name__  # type: ignore[attr-defined]
        line = self._model.build.__code__.co_firstlineno
        if result is None:
            raise SourceError(
                f"{self._file.name}, line {line}: {name}() returned None; "
                "it must return a PyVista mesh, a part or a list of them",
                line,
            )
        try:
            parts = as_parts(result)
            check_parts(parts)
        except (TypeError, ValueError) as error:
            raise SourceError(
                f"{self._file.name}, line {line}: {name}() returned something that cannot be drawn: {error}", line
            ) from None
        return parts

    def _load(self) -> ModuleType:
        folder = str(self._file.parent)
        os.chdir(folder)
        _forget_modules_outside_packages()
        sys.path[:] = [folder, *(p for p in sys.path if p != folder)]
        module = ModuleType("__model__")
        module.__file__ = str(self._file)
        try:
            code = compile(self._file.read_bytes(), str(self._file), "exec")
            exec(code, module.__dict__)
        except Exception as error:
            raise self._pointed(error) from None
        except SystemExit:
            raise SourceError(f"{self._file.name} ends its own program: remove the call of exit()") from None
        return module

    def _marked(self, module: ModuleType) -> Model:
        models = [value for value in vars(module).values() if isinstance(value, Model)]
        if len(models) != 1:
            found = "no function" if not models else f"{len(models)} functions"
            raise SourceError(
                f"{self._file.name} marks {found} as its model: put @model before the one function "
                "that builds the geometry (from vexel.author import model)"
            )
        return models[0]

    def _pointed(self, error: Exception) -> SourceError:
        """The error as a sentence that names the person's own file and line."""
        folder = self._file.parent
        text = str(error) or "no further word"
        if isinstance(error, SyntaxError):
            name = Path(error.filename or self._file).name
            return SourceError(f"{name}, line {error.lineno}: the code cannot be read: {error.msg}", error.lineno or 0)
        if isinstance(error, MemoryError):
            text = "asked for more memory than a source may take (VEXEL_MEMORY_MB sets how much)"
        own = [f for f in traceback.extract_tb(error.__traceback__) if Path(f.filename).is_relative_to(folder)]
        if not own:
            return SourceError(f"{self._file.name}: {type(error).__name__}: {text}")
        place = own[-1]
        inside = Path(place.filename).relative_to(folder)
        return SourceError(f"{inside}, line {place.lineno}: {type(error).__name__}: {text}", place.lineno or 0)


def _forget_modules_outside_packages() -> None:
    """Drop modules that an earlier model brought from beside its own file."""
    kept = tuple({sys.prefix, sys.base_prefix, str(Path(__file__).parents[1])})
    for name, module in list(sys.modules.items()):
        path = getattr(module, "__file__", None)
        if path and not path.startswith(kept) and name != "__main__":
            del sys.modules[name]
