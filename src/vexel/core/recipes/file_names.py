"""Names of the files that leave a project: a pattern, with a version that counts up by itself."""

import re
from collections.abc import Iterator, Mapping
from datetime import date
from pathlib import PurePosixPath

from vexel.core.errors import Mistake
from vexel.core.wording import nearest_name, slug

FIELDS = ("date", "title", "take", "variant", "camera", "pass", "recipe", "size", "version")
USUAL_NAMES = "{title}.{take}.{camera}.{pass}.{recipe}.{size}"
"""Pattern of all names for which nobody gave another one; a version follows where the name is taken."""
_FIELD = re.compile(r"\{([a-z]*)\}")


def check_file_pattern(pattern: str) -> None:
    """Refuse a pattern that is no name of a file below a folder.

    Raises
    ------
    Mistake
    """
    for found in _FIELD.finditer(pattern):
        if found[1] not in FIELDS:
            raise Mistake(f"{found[0]} is not a field of file names; {nearest_name(found[1], FIELDS)}")
    rest = _FIELD.sub("", pattern)
    if bad := re.search(r"[^A-Za-z0-9._ /-]", rest):
        raise Mistake(
            f"names {pattern!r} hold {bad[0]!r}: use letters, digits and . _ - / and fields such as {{title}}"
        )
    parts = PurePosixPath(pattern).parts
    if not parts or pattern.startswith("/") or any(part in ("..", ".") or part.startswith(".") for part in parts):
        raise Mistake(f"names {pattern!r}: write a name below the folder, without leading dots or ..")


MOST_VERSIONS = 100_000


def file_names(pattern: str, values: Mapping[str, str], suffix: str, day: date | None = None) -> Iterator[str]:
    """Names of files of a pattern, to be tried one after another until one is free.

    Parameters
    ----------
    pattern : str
        See `FIELDS`; without ``{version}`` it gets one only where the name is taken.
    values : mapping
        Of the fields but date and version; a field without a value goes, with the dot before it.
    suffix : str
        With its dot; empty for a folder.
    day : date, optional
        Of today by default.
    """
    check_file_pattern(pattern)
    known = {name: slug(value) if value else "" for name, value in values.items()}
    known["date"] = (day or date.today()).isoformat()
    counts = "{version}" in pattern
    for version in range(1, MOST_VERSIONS):
        text = pattern if counts or version == 1 else f"{pattern}.{{version}}"
        yield _filled(text, known | {"version": f"v{version:03d}"}) + suffix


def _filled(pattern: str, values: Mapping[str, str]) -> str:
    """A pattern with its values, without the dots and dashes that empty ones leave."""
    name = _FIELD.sub(lambda found: values.get(found[1], ""), pattern)
    return re.sub(r"([._-])[._-]+", r"\1", re.sub(r"(^|/)[._-]+", r"\1", name)).rstrip("._-/ ")
