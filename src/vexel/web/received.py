"""Hand-overs that are dropped on the project: unpacked as projects within it, whose code waits for a review."""

import json
import os
import shutil
from pathlib import Path
from typing import Any

from vexel.core.document.shot import Shot, read_shot
from vexel.core.errors import Mistake, VexelError
from vexel.core.wording import slug
from vexel.disk.named_place import named_place
from vexel.disk.write import claimed_folder
from vexel.output.exporting.handover import SUMS, open_handover
from vexel.sources.archive import names_in
from vexel.store.folder_take import LEDGER
from vexel.store.project import Project

RECEIVED = "received"
"""Folder of hand-overs in a project; each is marked as a project that was received."""


def is_handover(file: Path) -> bool:
    """Whether a file is an archive that a hand-over makes."""
    if file.suffix.lower() != ".zip":
        return False
    names = set(names_in(file))
    return {SUMS, f"take/{LEDGER}"} <= names and any(
        name.startswith("shots/") and name.endswith(".json") for name in names
    )


def receive(archive: Path, project: Project) -> str:
    """Unpack a hand-over into the project, and add its shot to the list; the shot's id.

    Its frames stay in the folder ``take`` of the hand-over. They are not put among those of the project: a frame is
    known by its key, which somebody else's picture must not take.

    Raises
    ------
    Mistake, Failure, SourceError
        When it cannot be unpacked, or its shot names files beyond it.
    """
    folder = claimed_folder(project.home / RECEIVED, slug(archive.stem))
    try:
        open_handover(archive, folder)
        document = next(iter(sorted((folder / "shots").glob("*.json"))), None)
        if document is None:
            raise Mistake(f"{archive.name} holds no shot: ask for the hand-over again")
        shot = read_shot(document.read_bytes(), f"the shot of {archive.name}")
        return project.shots.add(_moved(shot, document.parent, project.shots.folder, folder)).id
    except VexelError:
        shutil.rmtree(folder, ignore_errors=True)
        raise


def _moved(shot: Shot, origin: Path, to: Path, within: Path) -> Shot:
    """A shot whose paths begin at another folder."""

    def path(name: str) -> str:
        place = named_place(origin, name).resolve()
        if not place.is_relative_to(within.resolve()):
            raise Mistake(f"the shot of {within.name} names {name}, which is not in the hand-over: it is not opened")
        return Path(os.path.relpath(place, to)).as_posix()

    document: dict[str, Any] = shot.model_dump(mode="json")
    source = document["source"]
    source["file"] = path(source["file"])
    if source.get("reads_from"):
        source["reads_from"] = {name: path(place) for name, place in source["reads_from"].items()}
    if image := shot.picture.behind.image:
        document["picture"]["background"] = f"image:{path(image)}"
    document["clock"]["like"] = None
    return Shot.model_validate_json(json.dumps(document))
