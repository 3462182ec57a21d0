"""Shots of a project."""

import json
from pathlib import Path
from typing import Final, TypeAlias

from sqlalchemy.orm import Session, sessionmaker

from vexel.core.checks.shot_timing import shot_timing
from vexel.core.document.shot import Shot, edited, read_shot
from vexel.core.errors import Mistake
from vexel.store.documents.document_store import DocumentKind, DocumentStore, Kept
from vexel.store.documents.history import History
from vexel.store.tables import ShotRevisionRow, ShotRow

KeptShot: TypeAlias = Kept[Shot]


class ShotStore(DocumentStore[Shot]):
    """All shots of a project."""

    def __init__(self, folder: Path, sessions: sessionmaker[Session]) -> None:
        history = History(ShotRow, ShotRevisionRow)
        super().__init__(folder, sessions, DocumentKind("shot", read_shot, spelled, edited, history, _check))

    def shot(self, shot_id: str) -> Shot:
        """A shot as its file states it now, without its history.

        Raises
        ------
        Mistake
            When there is none, or its file is no valid document.
        """
        return self.value(shot_id)


def _check(shot: Shot) -> None:
    """Refuse numbers that are allowed one by one and cannot be worked with together."""
    try:
        shot_timing(shot.clock, shot.orbit, shot.camera)
    except (ArithmeticError, ValueError) as error:
        raise Mistake(f"{shot.title}: its numbers are too large or too small together ({error})") from None


ALWAYS: Final = {"clock": ("rate", "span"), "picture": ("width", "height", "samples", "background")}
"""What a document says even where it is as usual."""


def spelled(shot: Shot) -> str:
    """The one way in which Vexel writes a shot document: what people read first, and else what is not usual."""
    whole = shot.model_dump(mode="json")
    unusual = shot.model_dump(mode="json", exclude_defaults=True)
    named = {}
    for name, value in whole.items():
        first = {key: value[key] for key in ALWAYS.get(name, ())}
        if name in unusual or first or name == "vexel":
            named[name] = first | unusual.get(name, {}) if isinstance(value, dict) else value
            if isinstance(value, list):
                named[name] = unusual[name]
    return json.dumps(named, indent=2, ensure_ascii=False) + "\n"
