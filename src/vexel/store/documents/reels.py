"""Reels of a project."""

from pathlib import Path
from typing import TypeAlias

from pydantic_core import to_json
from sqlalchemy.orm import Session, sessionmaker

from vexel.core.reel.reel_spec import Reel, edited_reel, read_reel
from vexel.store.documents.document_store import DocumentKind, DocumentStore, Kept
from vexel.store.documents.history import History
from vexel.store.tables import ReelRevisionRow, ReelRow

KeptReel: TypeAlias = Kept[Reel]


class ReelStore(DocumentStore[Reel]):
    """All reels of a project."""

    def __init__(self, folder: Path, sessions: sessionmaker[Session]) -> None:
        history = History(ReelRow, ReelRevisionRow)
        super().__init__(folder, sessions, DocumentKind("reel", read_reel, spelled_reel, edited_reel, history))


def spelled_reel(reel: Reel) -> str:
    """The one way in which Vexel writes a reel: what people read first, and else what is not usual."""
    first = reel.model_dump(mode="json", include={"vexel", "title", "rate", "width", "height"})
    unusual = reel.model_dump(mode="json", exclude_defaults=True)
    # Python's own encoder takes a quarter of a second for 5,000 items once it indents.
    return to_json(first | unusual, indent=2).decode() + "\n"
