"""Documents that were taken off a store and can be put back."""

import json
from contextlib import suppress
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

MOST_LISTED, MOST_BYTES = 200, 1 << 22


@dataclass(frozen=True)
class Removed:
    """A document in the folder ``removed`` of its store.

    Attributes
    ----------
    name : str
        Of its file, for `DocumentStore.restore`.
    title : str
    """

    name: str
    title: str


def removed_documents(folder: Path) -> tuple[Removed, ...]:
    """List what was taken off a store, the newest first."""
    place = folder / "removed"
    try:
        return _listed(place, place.stat().st_mtime_ns)
    except OSError:
        return ()


@lru_cache(8)
def _listed(place: Path, changed: int) -> tuple[Removed, ...]:
    files = [file for file in place.glob("*.json") if file.is_file() and not file.is_symlink()]
    # The name ends with the time of the removal.
    files.sort(key=lambda file: (file.name.partition(".")[2], file.name), reverse=True)
    return tuple(Removed(file.name, _title(file)) for file in files[:MOST_LISTED])


def _title(file: Path) -> str:
    """The title in a document; its file's name where it has none."""
    with suppress(OSError, ValueError, RecursionError):
        document = json.loads(file.read_bytes()) if file.stat().st_size <= MOST_BYTES else {}
        title = document.get("title") if isinstance(document, dict) else None
        if isinstance(title, str) and title.strip():
            return title.strip()[:200]
    return file.name.partition(".")[0]
