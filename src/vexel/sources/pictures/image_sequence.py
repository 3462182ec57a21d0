"""Numbered names: which names of a folder belong to one sequence, and what is odd about it."""

import re
from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True)
class ImageSequence:
    """Names that differ in one number alone.

    Attributes
    ----------
    head, tail : str
        The name before and after the number.
    padding : int
        Fewest digits that the number is written with.
    names : tuple of (int, str)
        Numbers and names, rising.
    doubles : tuple of str
        Names whose number another name has already, written with other padding.
    """

    head: str
    tail: str
    padding: int
    names: tuple[tuple[int, str], ...]
    doubles: tuple[str, ...] = ()

    @property
    def pattern(self) -> str:
        """The names as a pattern, such as ``out.%04d.png``."""
        return f"{self.head}%0{self.padding}d{self.tail}" if self.padding > 1 else f"{self.head}%d{self.tail}"

    @property
    def missing(self) -> list[int]:
        """Numbers that are missing between the first and the last."""
        return gaps(number for number, _ in self.names)


def sequence_of(member: str, names: Iterable[str]) -> ImageSequence | None:
    """The sequence that a name belongs to; None when there is not a number in it.

    Of several numbers in the name, the one counts by which most other names
    differ, and the last of those that are equal in this.
    """
    names = list(names)
    best: ImageSequence | None = None
    for found in re.finditer(r"\d+", member):
        sequence = _differing(member[: found.start()], member[found.end() :], names)
        if best is None or len(sequence.names) >= len(best.names):
            best = sequence
    return best


def gaps(numbers: Iterable[int]) -> list[int]:
    """Whole numbers that are missing between the lowest and the highest."""
    held = set(numbers)
    return [] if not held else sorted(set(range(min(held), max(held) + 1)) - held)


def _differing(head: str, tail: str, names: list[str]) -> ImageSequence:
    start, end = len(head), len(tail)
    by_number: dict[int, str] = {}
    doubles, padding = [], 99
    for name in names:
        digits = name[start : len(name) - end]
        if not (name.startswith(head) and name.endswith(tail) and digits.isascii() and digits.isdigit()):
            continue
        padding = min(padding, len(digits))
        if int(digits) in by_number:
            doubles.append(name)
        else:
            by_number[int(digits)] = name
    return ImageSequence(head, tail, padding, tuple(sorted(by_number.items())), tuple(sorted(doubles)))
