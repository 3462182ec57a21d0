"""Numbers as people type them, exactly."""

import re
from fractions import Fraction

from vexel.core.errors import Mistake

_GROUPS = re.compile(r"[-+]?\d{1,3}(?:,\d{3})+(?:\.\d*)?")
_COMMA = re.compile(r"[-+]?\d+,\d+")
_TWO_WAYS = re.compile(r"[-+]?[1-9]\d{0,2},\d{3}")


def read_number(text: str) -> Fraction:
    """The number that a text says: ``12.5``, ``1,000,000`` or ``30000/1001``.

    Raises
    ------
    Mistake
        When it is none, divides by 0, has a comma for a point, or reads as two: ``1,000`` is a thousand to some, and
        one to others.
    """
    bare = text.strip()
    if _TWO_WAYS.fullmatch(bare):
        whole, _, rest = bare.partition(",")
        raise Mistake(f"{bare} could be {whole}{rest} or {whole}.{rest}: write it without the comma, or with a point")
    if _COMMA.fullmatch(bare) and not _GROUPS.fullmatch(bare):
        raise Mistake(f"{bare} has a comma: write {bare.replace(',', '.')}")
    plain = bare.replace(",", "") if _GROUPS.fullmatch(bare) else bare
    try:
        return Fraction(plain)
    except ZeroDivisionError:
        raise Mistake(f"{bare} divides by 0") from None
    except ValueError:
        raise Mistake(f"{bare!r} is not a number") from None
