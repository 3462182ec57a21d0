"""What every kind of source offers, and the error that all raise."""

from collections.abc import Mapping
from typing import Protocol

from vexel.core.clock import Instant
from vexel.core.errors import Failure
from vexel.core.plan import SourceFacts
from vexel.sources.parts import Part


class SourceError(Failure):
    """A source cannot give a frame; says which file and line, and what to do.

    Attributes
    ----------
    line : int
        Line in the source's own code, 0 when there is none.
    """

    def __init__(self, sentence: str, line: int = 0) -> None:
        super().__init__(sentence)
        self.line = line

    def __reduce__(self) -> tuple[type, tuple[str, int]]:
        return type(self), (str(self), self.line)


class Source(Protocol):
    """Something that stands before the camera."""

    facts: SourceFacts

    def parts(self, dials: Mapping[str, float], instant: Instant | None) -> list[Part]:
        """What is to be drawn for these dials at this instant."""
