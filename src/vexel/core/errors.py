"""The errors that a user can cause or must know of."""

from collections.abc import Sequence
from typing import Any


class VexelError(Exception):
    """Base of every error whose text is one readable sentence for the user.

    Attributes
    ----------
    fits : sequence of (str, dict)
        Ways to make a file all the same: a label, and a patch of its recipe.
    """

    fits: Sequence[tuple[str, dict[str, Any]]] = ()


class Mistake(VexelError, ValueError):
    """The call or the document is wrong; nothing was begun (exit status 2)."""


class Missing(Mistake):
    """What was named is not there."""


class Conflict(Mistake):
    """Somebody else has changed the thing in the meantime; `changed` names it."""

    def __init__(self, sentence: str, changed: tuple[str, ...] = ()) -> None:
        super().__init__(sentence)
        self.changed = changed


class Failure(VexelError):
    """The work itself failed, or a finding blocks it (exit status 1)."""


class Stopped(VexelError):
    """The user ended the work; nothing is wrong, and finished parts stay."""


class SourceError(Failure):
    """A source cannot give a frame; names the file and line, and what to do.

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


class TookTooLong(SourceError):
    """A source did not come to an end; its other frames would go the same way."""
