"""The text of a document, checked before it is parsed."""

import json
import re

from vexel.core.errors import Mistake

MOST_BYTES = 16_000_000
"""Usual documents have a thousandth of it; reading 104 MB took 5.4 GB of memory."""
_ZERO = re.compile(r"(?<!\\)(?:\\\\)*\\u0000")
"""A character of code 0 as JSON escapes it: no file can have it in its name, and libraries in C end a text there."""


def document_text(data: str | bytes, name: str) -> str:
    """Decode the text of a document: UTF-8, or UTF-16 or UTF-32 as some editors write it, without a byte-order mark.

    Raises
    ------
    Mistake
        When it is too large, is not text, or holds a character that no name can have.
    """
    if len(data) > MOST_BYTES:
        raise Mistake(
            f"{name} has {len(data) / 1e6:,.0f} MB, more than the {MOST_BYTES // 1_000_000} MB that a document may "
            "have: move large parts into separate files"
        )
    text = data if isinstance(data, str) else _decoded(data, name)
    if _ZERO.search(text):
        raise Mistake(f"{name}: holds a character of code 0, which no name and no path can have: take it out")
    return text


def _decoded(data: bytes, name: str) -> str:
    encoding = json.detect_encoding(data)
    try:
        return data.decode(encoding)
    except UnicodeDecodeError as error:
        raise Mistake(
            f"{name} is not a text in {encoding.upper().removesuffix('-SIG')} (byte {error.start:,}): save it as UTF-8"
        ) from None
