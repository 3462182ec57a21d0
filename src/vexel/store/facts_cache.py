"""What was measured of sources, kept so that an unchanged shot starts no stage to be planned."""

import json
from typing import Any

from sqlalchemy import delete
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, sessionmaker

from vexel.store.tables import FactRow


class FactsTable:
    """Measured facts in the project's database."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions
        self._known: dict[str, Any] = {}

    def get(self, key: str) -> Any:
        """The value kept under a key, or None."""
        if key not in self._known:
            with self._sessions() as session:
                row = session.get(FactRow, key)
            if row is None:
                return None
            try:
                self._known[key] = json.loads(row.value)
            except ValueError:
                self.forget(key)
                return None
        return self._known[key]

    def put(self, key: str, value: Any) -> None:
        """Keep a JSON value under a key."""
        with self._sessions.begin() as session:
            row = insert(FactRow).values(key=key, value=json.dumps(value))
            # Two pages may ask the same at once; the key says all, so the first answer is as good.
            session.execute(row.on_conflict_do_nothing())

    def forget(self, key: str) -> None:
        """Keep nothing under a key."""
        self._known.pop(key, None)
        with self._sessions.begin() as session:
            session.execute(delete(FactRow).where(FactRow.key == key))
