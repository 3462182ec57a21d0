"""Text on the frame, with numbers in it."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from vexel.core.errors import Mistake

Align = Literal["left", "middle", "right"]
OF_TIME = ("frame", "number", "count", "phase", "seconds", "timecode")
"""Fields of every frame: its number from 0, the number in its file's name, how many there are, and its time."""
_FIELD = re.compile(r"\{\{|\}\}|\{([A-Za-z_]\w*)(?::([^{}]*))?\}|[{}]")
_FORM = re.compile(r"[+ ]?0?\d{0,3},?(\.\d{1,2})?[dfe%]?")


@dataclass(frozen=True)
class Label:
    """The text of a label on one frame.

    Attributes
    ----------
    text : str
    at : (float, float)
        Shares of the frame's width from the left and of its height from the
        top, of the end or the middle of the text's line.
    size : float
        Height of a capital letter and what hangs below it, as a share of the frame's height.
    colour : str
        ``#rrggbb``
    align : {"left", "middle", "right"}
        Which part of the line is at `at`.
    room : float
        Share of the frame's width in which it is broken into lines; 0 for all there is up to the frame's edges.
    lines : int
        How many lines it may have: it becomes smaller until it has no more; 0 for any number.
    """

    text: str
    at: tuple[float, float]
    size: float
    colour: str
    align: Align
    room: float = 0.0
    lines: int = 0


def fields_of(text: str) -> list[str]:
    """Names of the numbers that a text wants.

    Raises
    ------
    Mistake
        When a brace has no partner, or a number's format is unknown.
    """
    names = []
    for found in _FIELD.finditer(text):
        if found[0] in ("{{", "}}"):
            continue
        if found[1] is None:
            raise Mistake(
                f"label {text!r}: a brace has no partner; write {{frame}}, {{seconds:.2f}} or the name of a dial, "
                "and {{ for a brace itself"
            )
        if not _FORM.fullmatch(found[2] or ""):
            raise Mistake(
                f"label {text!r}: {found[2]!r} is not a number format: write {{{found[1]}:.2f}} or {{frame:04d}}"
            )
        names.append(found[1])
    return names


def written(text: str, values: Mapping[str, float | str]) -> str:
    """The text with its numbers.

    Parameters
    ----------
    text : str
        With fields such as ``{frame:04d}``; a form is that of Python's numbers.
    values : mapping of str to float or str
    """

    def one(found: re.Match[str]) -> str:
        if found[1] is None:
            return found[0][0]
        value, form = values[found[1]], found[2] or ""
        if isinstance(value, str):
            return value
        return format(round(value) if form.endswith("d") else value, form or ".6g")

    return _FIELD.sub(one, text)
