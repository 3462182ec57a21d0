"""Names of frames in a folder, and the parser of frame selections."""

import re
from collections.abc import Mapping

from vexel.core.errors import Mistake
from vexel.core.wording import slug

MAIN_CAMERA = "main"
"""Name of a camera that was given none."""
FIELDS = ("title", "camera", "pass", "frame")
_OTHER = re.compile(r"\{([A-Za-z_]\w*)\}")
"""A field of a sweep: ``variant``, or what varies."""
_FIELD = re.compile(r"\{(title|camera|pass|frame)(?:(?<=frame):(\d{1,2}))?\}")


def frame_name(
    title: str,
    render_pass: str,
    frame: int,
    count: int,
    start: int = 0,
    digits: int | None = None,
    camera: str = "",
    pattern: str | None = None,
    suffix: str = ".png",
) -> str:
    """Name of a frame's file without its ending's dot and letters, padded so that names sort as numbers do.

    Parameters
    ----------
    title, render_pass : str
    frame, count : int
        From 0, of so many.
    start : int
        Number of the first name.
    digits : int or None
        Fewest digits; None for four or as many as the last number takes.
    camera : str
        Named only where there are several; else empty.
    pattern : str or None
        See `check_pattern`; None is ``{title}.{camera}.{pass}.{frame}``, with
        the camera left out where it has no name.
    suffix : str
    """
    digits = digits or max(4, len(str(start + count - 1)))
    number = start + frame
    if pattern is None:
        return ".".join(filter(None, [slug(title), camera, render_pass, f"{number:0{digits}d}"])) + suffix
    values = {"title": slug(title), "camera": camera or MAIN_CAMERA, "pass": render_pass}

    def one(found: re.Match[str]) -> str:
        if found[1] == "frame":
            return f"{number:0{int(found[2] or digits)}d}"
        return values[found[1]]

    return _FIELD.sub(one, pattern) + suffix


def check_pattern(pattern: str) -> None:
    """Refuse a pattern of frames' names that cannot be one.

    Its fields are ``{title}``, ``{camera}``, ``{pass}`` and ``{frame}``, the
    last one with its fewest digits if wanted, such as ``{frame:04}``; and those
    of a sweep, which the shot knows.

    Raises
    ------
    Mistake
    """
    rest = _OTHER.sub("", _FIELD.sub("", pattern))
    if bad := re.search(r"[^A-Za-z0-9._ -]", rest):
        cure = (
            "write {title}, {camera}, {pass}, {frame:04} or {variant}"
            if bad[0] in "{}"
            else "use letters, digits and . _ -"
        )
        raise Mistake(f"names {pattern!r} hold {bad[0]!r}: {cure}")
    if [found[1] for found in _FIELD.finditer(pattern)].count("frame") != 1:
        raise Mistake(f"names {pattern!r} need the frame's number once: add {{frame:04}}")
    if pattern.startswith("."):
        raise Mistake(f"names {pattern!r} begin with a dot, which hides the files: begin with {{title}}")


def filled(pattern: str, values: Mapping[str, str]) -> str:
    """A pattern with further fields filled in, as texts that file names may hold."""
    return _OTHER.sub(lambda field: safe_name(values[field[1]]) if field[1] in values else field[0], pattern)


def safe_name(text: str) -> str:
    """A text as a part of a file's name: letters of ASCII, digits and ``._-``."""
    return re.sub(r"[^A-Za-z0-9._-]+", "-", text.replace(" ", "-")).strip("-.") or "x"


def other_fields(pattern: str) -> list[str]:
    """Fields of a pattern that are not of every shot: those of a sweep."""
    return [name for name in _OTHER.findall(_FIELD.sub("", pattern)) if name not in FIELDS]


def fields_named(pattern: str) -> set[str]:
    """Fields that a pattern names."""
    return {found[1] for found in _FIELD.finditer(pattern)}


def chosen_frames(text: str, count: int) -> list[int]:
    """Read a choice such as ``0-23,40``, ``0-95/5`` or ``10-20x3`` against a shot of `count` frames.

    ``first-last/n`` takes every n-th frame of a range; ``first-lastxn`` takes n
    frames of it, evenly spread, both ends among them. A range without a first or
    a last frame, such as ``24-``, begins with the shot or ends with it.

    Raises
    ------
    Mistake
        When a part is not a number or range, or lies outside the shot.
    """
    chosen: set[int] = set()
    for part in text.split(","):
        form = re.fullmatch(r"\s*(\d*)\s*(?:(-)\s*(\d*)(?:\s*([x/])\s*(\d+))?)?\s*", part)
        if form is None or not (form[1] or form[3]):
            raise Mistake(f"frames {part.strip()!r} is not a number or a range: write 0-23,40, 24-, 0-95/5 or 0-95x20")
        first = int(form[1] or 0)
        last = int(form[3]) if form[3] else max(count - 1, first) if form[2] else first
        if first > last:
            raise Mistake(f"frames {part.strip()} run backwards: write {last}-{first}")
        if last >= count:
            raise Mistake(f"frame {last:,} is outside the shot, which has frames 0 to {count - 1:,}")
        number = int(form[5] or 1)
        if number < 1 or (form[4] == "x" and number > last - first + 1):
            raise Mistake(f"frames {part.strip()}: write 1 to {last - first + 1:,} after x, or 1 and more after /")
        chosen.update(_spread(first, last, number) if form[4] == "x" else range(first, last + 1, number))
    return sorted(chosen)


def _spread(first: int, last: int, count: int) -> list[int]:
    """Frames from first to last at equal steps, `count` in all, rounded to whole frames."""
    if count == 1:
        return [first]
    return [first + (2 * n * (last - first) + count - 1) // (2 * (count - 1)) for n in range(count)]
