"""A new shot from a file: kind by its content, sensible values for the rest."""

import os
from pathlib import Path
from typing import Any

from vexel.core.errors import Mistake
from vexel.core.shot import LOOKED_AT, Shot, read_shot_document
from vexel.sources.recognise import kind_of

SECONDS = 5


def shot_of_file(file: Path, shots: Path, title: str = "") -> Shot:
    """A shot that shows what the file holds.

    Parameters
    ----------
    file : Path
        Absolute.
    shots : Path
        Folder of the shot documents, to which the file's path is made relative if it lies in the project.
    """
    if not file.is_absolute():
        raise Mistake(f"{file} is not an absolute path: begin it with / or ~")
    if not file.is_file():
        raise Mistake(f"there is no file {file}: check the path")
    kind = kind_of(file)
    inside = file.resolve().is_relative_to(shots.parent.resolve())
    place = os.path.relpath(file.resolve(), shots.resolve()) if inside else str(file.resolve())
    words = file.stem.replace("_", " ").replace("-", " ").strip() or "shot"
    name = f"{words[0].upper()}{words[1:]}"
    document: dict[str, Any] = {
        "title": title or (f"{name}, once round" if kind in LOOKED_AT else name),
        "source": {"kind": kind, "file": place},
        "clock": {"rate": "24", "seconds": SECONDS},
    }
    return read_shot_document(document, file.name)
