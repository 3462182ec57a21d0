"""Sizes of files as people write them."""

import re

from vexel.core.errors import Mistake

_UNITS = {"": 1, "b": 1, "kb": 1000, "mb": 1000**2, "gb": 1000**3, "kib": 1024, "mib": 1024**2, "gib": 1024**3}
_SIZE = re.compile(r"\s*(\d+(?:\.\d+)?)\s*([kmg]?i?b?)\s*", re.IGNORECASE)


def read_bytes(text: str) -> int:
    """Bytes of a text such as ``8 MB``, ``750kB`` or ``2 GiB``; a bare number is bytes.

    Raises
    ------
    Mistake
        When it is none, or less than a kilobyte.
    """
    found = _SIZE.fullmatch(text)
    unit = found[2].lower() if found else "?"
    unit = unit if unit in _UNITS else f"{unit}b"
    if found is None or unit not in _UNITS:
        raise Mistake(f"{text!r} is not a size: write it as 8 MB or 750 kB")
    size = round(float(found[1]) * _UNITS[unit])
    if size < 1000:
        raise Mistake(f"{text} is less than a kilobyte: write it with its unit, such as 8 MB")
    return size


def said_bytes(size: float) -> str:
    """Bytes for people: ``8.02 MB``, ``750 kB``."""
    for unit, factor in (("GB", 1000**3), ("MB", 1000**2), ("kB", 1000)):
        if size >= factor:
            return f"{size / factor:.3g} {unit}" if size < 1000 * factor - factor / 2 else f"{size / factor:.0f} {unit}"
    return f"{size:.0f} bytes"
