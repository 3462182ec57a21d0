"""Words for people: counts with their nouns, ordinals, runs of numbers, and the nearest known name."""

import unicodedata
from collections.abc import Iterable
from difflib import get_close_matches
from functools import lru_cache


def one_line(text: str) -> str:
    """A text without line breaks, for formats in which one begins something else."""
    return " ".join(text.split())


def nearest_name(name: str, known: Iterable[str]) -> str:
    """A hint that ends a sentence: the nearest known name, or all of them."""
    names = list(known)
    close = get_close_matches(name, names, n=1, cutoff=0.5)
    if close:
        return f"did you mean {close[0]}?"
    return f"known: {', '.join(names)}" if names else "there are none"


def counted(count: int, one: str, many: str = "") -> str:
    """A count with its noun: ``1 frame``, ``2 frames``; `many` where it is not formed by an s."""
    return f"{count:,} {one if count == 1 else many or one + 's'}"


def ordinal(number: int) -> str:
    """A number as ``2nd`` or ``11th``."""
    ending = "th" if number % 100 in (11, 12, 13) else {1: "st", 2: "nd", 3: "rd"}.get(number % 10, "th")
    return f"{number:,}{ending}"


def spelled(numbers: list[int], most: int = 5) -> str:
    """A list of numbers for people, with runs drawn together: ``3, 7 to 9 and more``."""
    runs: list[list[int]] = []
    for number in numbers:
        if runs and number == runs[-1][1] + 1:
            runs[-1][1] = number
        else:
            runs.append([number, number])
    words = [str(a) if a == b else f"{a} to {b}" for a, b in runs[:most]]
    return ", ".join(words) + (" and more" if len(runs) > most else "")


def said_missing(numbers: list[int]) -> str:
    """Missing numbers in words."""
    return f"{counted(len(numbers), 'number is', 'numbers are')} missing ({spelled(numbers)})"


@lru_cache(256)
def slug(title: str) -> str:
    """A title as a file name: letters and digits of any script in lower case, hyphens between; at most 80 bytes."""
    # Composed, as file systems of most machines expect. Marks are parts of letters: vowel signs, accents.
    letters = unicodedata.normalize("NFC", title.lower())
    spaced = "".join(one if unicodedata.category(one)[0] in "LNM" else " " for one in letters)
    return "-".join(spaced.split()).encode()[:80].decode("utf-8", "ignore").strip("-") or "shot"
