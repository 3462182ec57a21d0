"""Files of a request, kept in a temporary folder."""

import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from werkzeug.datastructures import FileStorage

from vexel.core.errors import Mistake, VexelError
from vexel.core.wording import slug
from vexel.disk.write import claimed_folder

MAX_NAME_BYTES = 255


@contextmanager
def kept_files(files: list[FileStorage], base: Path) -> Iterator[tuple[Path, list[Path]]]:
    """A new folder with the files, and their places in it; gone again when what came cannot be used.

    Raises
    ------
    Mistake
        When a name is not usable, or the files cannot be written.
    """
    folder = claimed_folder(base, slug(Path(files[0].filename or "").stem))
    try:
        places = _places_of(files, folder)
        for file, place in zip(files, places, strict=True):
            place.parent.mkdir(parents=True, exist_ok=True)
            file.save(place)
        yield folder, places
    except VexelError:
        shutil.rmtree(folder, ignore_errors=True)
        raise
    except OSError as error:
        shutil.rmtree(folder, ignore_errors=True)
        raise Mistake(f"the upload cannot be kept: {error.strerror}") from None


def _places_of(files: list[FileStorage], folder: Path) -> list[Path]:
    """Where each file goes: under its own name, in the folders that it came with; no two in one place."""
    places = [folder.joinpath(*_safe_parts(file.filename or "")) for file in files]
    seen: set[Path] = set()
    for place in places:
        if place in seen or any(parent in seen for parent in place.parents):
            raise Mistake(f"two of the files are named {place.relative_to(folder)}: rename one of them")
        seen.add(place)
    return places


def _safe_parts(name: str) -> list[str]:
    """A file's name with its folders, spelled exactly, since other files may refer to it."""
    parts = name.replace("\\", "/").lstrip("/").split("/")
    usable = all(part and not part.startswith(".") and part.isprintable() for part in parts)
    if not usable or max(len(part.encode("utf-8", "replace")) for part in parts) > MAX_NAME_BYTES:
        raise Mistake(f"{name[:80]!r} is not a usable file name: rename the file with letters and digits")
    return parts
