"""Names of frames in a folder, and which frames a person asks for."""

import re
import unicodedata

from vexel.core.errors import Mistake


def slug(title: str) -> str:
    """A title as a file name: lower case, ASCII letters and digits, hyphens between."""
    ascii_text = unicodedata.normalize("NFKD", title).encode("ascii", "ignore").decode()
    return re.sub(r"[^a-z0-9]+", "-", ascii_text.lower()).strip("-")[:80] or "shot"


def frame_name(title: str, render_pass: str, frame: int, count: int, start: int = 0, digits: int | None = None) -> str:
    """``<title-slug>.<pass>.<number>.png``, padded so that names sort as numbers do.

    Parameters
    ----------
    title, render_pass : str
    frame, count : int
        From 0, of so many.
    start : int
        Number of the first name.
    digits : int or None
        Fewest digits; None for four or as many as the last number takes.
    """
    digits = digits or max(4, len(str(start + count - 1)))
    return f"{slug(title)}.{render_pass}.{start + frame:0{digits}d}.png"


def chosen_frames(text: str, count: int) -> list[int]:
    """Read a choice such as ``0-23,40`` against a shot of `count` frames.

    Raises
    ------
    Mistake
        When a part is not a number or range, or lies outside the shot.
    """
    chosen: set[int] = set()
    for part in text.split(","):
        form = re.fullmatch(r"\s*(\d+)(?:\s*-\s*(\d+))?\s*", part)
        if form is None:
            raise Mistake(f"frames {part.strip()!r} is not a number or a range: write frames as 0-23,40")
        first = int(form[1])
        last = int(form[2]) if form[2] else first
        if first > last:
            raise Mistake(f"frames {part.strip()} run backwards: write {last}-{first}")
        if last >= count:
            raise Mistake(f"frame {last} is outside the shot, which has frames 0 to {count - 1}")
        chosen.update(range(first, last + 1))
    return sorted(chosen)
