"""Reels of a project."""

import json
from pathlib import Path
from typing import TypeAlias

from sqlalchemy.orm import Session, sessionmaker

from vexel.core.reel.reel_spec import Reel, edited_reel, read_reel
from vexel.store.documents.document_shelf import DocumentKind, DocumentShelf, Kept

KeptReel: TypeAlias = Kept[Reel]


class ReelShelf(DocumentShelf[Reel]):
    """All reels of a project."""

    def __init__(self, folder: Path, sessions: sessionmaker[Session]) -> None:
        super().__init__(folder, sessions, DocumentKind("reel", read_reel, spelled_reel, edited_reel))


def spelled_reel(reel: Reel) -> str:
    """The one way in which Vexel writes a reel: what people read first, and else what is not usual."""
    whole = reel.model_dump(mode="json")
    unusual = reel.model_dump(mode="json", exclude_defaults=True)
    first = {name: whole[name] for name in ("vexel", "title", "rate", "width", "height")}
    return json.dumps(first | unusual, indent=2, ensure_ascii=False) + "\n"
