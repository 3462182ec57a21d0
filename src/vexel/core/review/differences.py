"""What differs between two documents, setting by setting."""

import json
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from difflib import SequenceMatcher
from typing import Any

LATER = ("title", "names", "recipe", "vexel")
"""Parts of a document that change no picture: listed last."""
LONGEST = 60
"""Letters of a value that are shown."""


@dataclass(frozen=True)
class Difference:
    """One setting that differs.

    Attributes
    ----------
    path : str
        Where it is in the documents, such as ``picture.samples``; entries of lists by their numbers.
    one, other : str
        Both values as JSON; empty where a document has no such setting.
    """

    path: str
    one: str
    other: str


def differences(one: Mapping[str, Any], other: Mapping[str, Any]) -> tuple[Difference, ...]:
    """All settings in which two documents differ, those first that change pictures."""
    found = list(_between(one, other, ()))
    return tuple(sorted(found, key=lambda difference: difference.path.split(".")[0] in LATER))


def _between(one: Any, other: Any, path: tuple[str, ...]) -> Iterator[Difference]:
    if isinstance(one, Mapping) and isinstance(other, Mapping):
        # What only another kind has follows from the kind.
        others = one.get("kind") != other.get("kind")
        for name in dict.fromkeys((*one, *other)):
            if others and (name not in one or name not in other):
                continue
            yield from _between(one.get(name, _NONE), other.get(name, _NONE), (*path, str(name)))
    elif isinstance(one, list) and isinstance(other, list) and len(one) == len(other) and _of_parts(one + other):
        for number, (mine, theirs) in enumerate(zip(one, other, strict=True)):
            yield from _between(mine, theirs, (*path, str(number + 1)))
    elif one != other:
        yield Difference(".".join(path), _spelled(one), _spelled(other))


class _None:
    """A setting that a document does not have."""


_NONE = _None()


def _of_parts(values: list[Any]) -> bool:
    return any(isinstance(value, (Mapping, list)) for value in values)


def _spelled(value: Any) -> str:
    if value is _NONE:
        return ""
    if isinstance(value, float) and value.is_integer():
        value = int(value)
    text = value if isinstance(value, str) and value else json.dumps(value, ensure_ascii=False)
    return text if len(text) <= LONGEST else f"{text[:LONGEST]}…"


def lines_apart(one: str, other: str) -> list[tuple[range, range]]:
    """Lines in which two texts differ, counted from 1: those of the first, and of the second."""
    matcher = SequenceMatcher(None, one.splitlines(), other.splitlines(), autojunk=False)
    return [
        (range(begin + 1, end + 1), range(other_begin + 1, other_end + 1))
        for kind, begin, end, other_begin, other_end in matcher.get_opcodes()
        if kind != "equal"
    ]
