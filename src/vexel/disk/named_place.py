"""Paths in documents: any text may be given, and few texts are names that a disk accepts."""

from pathlib import Path

from vexel.core.errors import Mistake

_SHOWN = 80


def named_place(folder: Path, name: str) -> Path:
    """The place that a document in a folder names, links followed; whether something is there is not asked.

    Raises
    ------
    Mistake
        When no file can have that name, its links form a circle, or it is in the home of an unknown user.
    """
    try:
        place = (folder / name).expanduser().resolve()
        # Only asking for it says that a name is too long.
        place.exists()
    except (OSError, RuntimeError, ValueError) as error:
        reason = getattr(error, "strerror", None) or str(error).split(":")[0].split(" from ")[0]
        shown = name if len(name) <= _SHOWN else f"{name[:_SHOWN]}…"
        raise Mistake(f"{shown!r} cannot be opened ({reason}): choose another file") from None
    return place
