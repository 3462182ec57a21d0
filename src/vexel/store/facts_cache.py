"""What was measured of sources, kept so that an unchanged shot starts no stage to be planned."""

import json
import threading
from contextlib import suppress
from typing import Any

from cachetools import LRUCache
from sqlalchemy import delete, text
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session, sessionmaker

from vexel.store.tables import FactRow

KEPT, KEPT_ON_DISK = 256, 5000
"""Facts in memory, and in the database when a project is opened."""


class FactsTable:
    """Measured facts in the project's database."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions
        self._known: LRUCache[str, Any] = LRUCache(KEPT)
        self._turn = threading.Lock()
        self._forget_oldest()

    def get(self, key: str) -> Any:
        """The value kept under a key, or None."""
        with self._turn:
            known = self._known.get(key)
        if known is not None:
            return known
        with self._sessions() as session:
            row = session.get(FactRow, key)
        if row is None:
            return None
        try:
            value = json.loads(row.value)
        except ValueError:
            self.forget(key)
            return None
        with self._turn:
            self._known[key] = value
        return value

    def put(self, key: str, value: Any) -> None:
        """Keep a JSON value under a key."""
        with self._sessions.begin() as session:
            row = insert(FactRow).values(key=key, value=json.dumps(value))
            # Two pages may ask the same at once; the key says all, so the first answer is as good.
            session.execute(row.on_conflict_do_nothing())

    def forget(self, key: str) -> None:
        """Keep nothing under a key."""
        with self._turn:
            self._known.pop(key, None)
        with self._sessions.begin() as session:
            session.execute(delete(FactRow).where(FactRow.key == key))

    def _forget_oldest(self) -> None:
        """Keep the newest facts: some 4 kB each, and an edit of a dial adds one or two."""
        # On a closed disk they stay.
        with suppress(SQLAlchemyError), self._sessions.begin() as session:
            session.execute(
                text("DELETE FROM facts WHERE rowid <= (SELECT max(rowid) FROM facts) - :kept"), {"kept": KEPT_ON_DISK}
            )
