"""The dials of a page: declared in the page itself, in a block of JSON."""

import json
from html.parser import HTMLParser
from pathlib import Path
from typing import Any

from vexel.core.errors import SourceError
from vexel.core.lanes.dial import Dial

BLOCK = "vexel-dials"
_WORDS = {"unit", "about"}
_NUMBERS = {"default", "low", "high"}


def page_dials(file: Path) -> tuple[Dial, ...]:
    """Dials in a page's ``<script type="application/json" id="vexel-dials">``, if it has one.

    Raises
    ------
    SourceError
        When the block is not as it should be, with its line.
    """
    finder = _Finder()
    finder.feed(file.read_text(encoding="utf-8", errors="replace"))
    if not finder.text.strip():
        return ()
    try:
        declared = json.loads(finder.text)
    except json.JSONDecodeError as error:
        line = finder.line + error.lineno - 1
        raise SourceError(f"{file.name}, line {line}: the dials are not valid JSON: {error.msg}", line) from None
    try:
        if not isinstance(declared, dict):
            raise ValueError("an object is wanted, of a name and its dial")
        return tuple(_dial(name, value) for name, value in declared.items())
    except ValueError as error:
        raise SourceError(f"{file.name}, line {finder.line}: the dials: {error}", finder.line) from None


def _dial(name: str, value: Any) -> Dial:
    if not isinstance(value, dict) or not _NUMBERS <= set(value) <= _NUMBERS | _WORDS:
        raise ValueError(f"{name} needs default, low and high, and may have unit and about")
    default, low, high = (value[key] for key in ("default", "low", "high"))
    if any(isinstance(n, bool) or not isinstance(n, int | float) for n in (default, low, high)):
        raise ValueError(f"{name}: default, low and high must be numbers")
    if not low <= default <= high:
        raise ValueError(f"{name}: the default lies outside low to high")
    return Dial(name, float(default), float(low), float(high), str(value.get("unit", "")), str(value.get("about", "")))


class _Finder(HTMLParser):
    """The text of the block, and the line on which it begins."""

    def __init__(self) -> None:
        super().__init__()
        self.text, self.line, self._inside = "", 0, False

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self._inside = tag == "script" and ("id", BLOCK) in attrs

    def handle_endtag(self, tag: str) -> None:
        self._inside = False

    def handle_data(self, data: str) -> None:
        if self._inside:
            self.line = self.line or self.getpos()[0]
            self.text += data
