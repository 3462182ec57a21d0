"""The text of a document, looked at before anything is made of it."""

import re

from vexel.core.errors import Mistake

MOST_BYTES = 16_000_000
"""What people work with has a thousandth of it; reading 104 MB took 5.4 GB of memory."""
_ZERO = re.compile(r"(?<!\\)(?:\\\\)*\\u0000")
"""A character of code 0 as JSON escapes it: no file can have it in its name, and libraries in C end a text there."""


def check_text(text: str | bytes, name: str) -> None:
    """Refuse the text of a document that cannot be worked with.

    Raises
    ------
    Mistake
        When it is too large, or holds a character that no name can have.
    """
    if len(text) > MOST_BYTES:
        raise Mistake(
            f"{name} has {len(text) / 1e6:,.0f} MB, more than the {MOST_BYTES // 1_000_000} MB that a document may "
            "have: move large parts into separate files"
        )
    if _ZERO.search(text if isinstance(text, str) else text.decode("utf-8", "replace")):
        raise Mistake(f"{name}: holds a character of code 0, which no name and no path can have: take it out")
