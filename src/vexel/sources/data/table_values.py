"""Numbers as people write them in tables: with thousands, signs of currency, percent, and marks for what is missing."""

import re
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

Decimal = Literal[".", ","]
MISSING = ("", "-", "–", "—", "n/a", "na", "nan", "null", "none", "#n/a", "?")
"""Texts that mean a missing value, in small letters."""
_SIGNS = r"[$€£¥]"
_PARTED = {".": r"[,'\u00a0\u202f ]", ",": r"[.'\u00a0\u202f ]"}
"""What parts thousands, by the decimal sign: the other sign, spaces or apostrophes."""
_FORMS = {
    decimal: re.compile(
        rf"{_SIGNS}?\s*(?P<value>[+-]?(\d{{1,3}}({parted}\d{{3}})+|\d+)?([{decimal}]\d*)?([eE][+-]?\d+)?)"
        rf"\s*(%|{_SIGNS})?"
    )
    for decimal, parted in _PARTED.items()
}
_SIGNED = re.compile(rf"[+-]\s*{_SIGNS}")


def number_in(text: str, decimal: Decimal = ".") -> float | None:
    """The number of a text; NaN for a missing one, None for text that is not a number."""
    text = text.strip().replace("\u2212", "-")
    if text.lower() in MISSING:
        return float("nan")
    # -$5 and $-5 are the same.
    outside = _SIGNED.match(text) is not None
    found = _FORMS[decimal].fullmatch(text[1:].lstrip() if outside else text)
    if found is None or not re.search(r"\d", found["value"]):
        return _infinite(text)
    value = float(re.sub(_PARTED[decimal], "", found["value"]).replace(",", "."))
    return -value if outside and text.startswith("-") else value


def _infinite(text: str) -> float | None:
    return float(text) if re.fullmatch(r"[+-]?inf(inity)?", text, re.IGNORECASE) else None


def numbers_in(values: Any, decimal: Decimal) -> tuple[NDArray[np.float64], list[int]]:
    """Texts as numbers, and the places of those that are none; shape (n,)."""
    numbers, wrong = np.full(len(values), np.nan), []
    for place, text in enumerate(values):
        found = number_in(text, decimal) if isinstance(text, str) else float("nan")
        if found is None:
            wrong.append(place)
        else:
            numbers[place] = found
    return numbers, wrong


def without_fraction(numbers: NDArray[np.float64]) -> NDArray[Any]:
    """Whole numbers as such, where all are whole and there."""
    whole = (
        np.isfinite(numbers).all() and (numbers == np.rint(numbers)).all() and np.abs(numbers).max(initial=0) < 2**53
    )
    return numbers.astype(np.int64) if whole else numbers
