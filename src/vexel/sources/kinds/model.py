"""Source kind ``model``: a Python file that builds geometry from dials."""

from pathlib import Path

from vexel.core.errors import SourceError
from vexel.core.evaluate.source_facts import SourceFacts
from vexel.sources.code.code_file import CodeFile, seed_global
from vexel.sources.code.decorators import Model
from vexel.sources.code.watch import Reading
from vexel.sources.meshes.parts import Part, as_parts, check_parts
from vexel.sources.protocols import FrameRequest


class ModelFile:
    """A model file, loaded; see `CodeFile` for what it may raise."""

    def __init__(self, file: Path) -> None:
        self._code = CodeFile(file, Model)
        self.facts = SourceFacts(tuple(self._code.marked.dials), self._code.marked.time_inputs)

    @property
    def readings(self) -> list[Reading]:
        """What its code read beside its own files; see `vexel.sources.code.watch`."""
        return self._code.watch.readings

    def show(self, asked: FrameRequest) -> list[Part]:
        """Run the building function; see `Source.show`."""
        seed_global(0)
        result = self._code.call(self._code.marked, **self._code.arguments(asked.dials, asked.time_inputs))
        if result is None:
            raise SourceError(
                f"{self._code.place} returned None; it must return a PyVista mesh, a part or a list of them",
                self._code.line,
            )
        try:
            parts = as_parts(result)
            check_parts(parts)
        except (TypeError, ValueError) as error:
            raise SourceError(
                f"{self._code.place} returned something that cannot be drawn: {error}", self._code.line
            ) from None
        return parts
