"""Measured figures of frames in the project's database."""

import json
from collections.abc import Iterable, Mapping
from typing import Any

from sqlalchemy import select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, sessionmaker

from vexel.store.tables import FigureRow

AT_ONCE = 10_000
"""Names in one query: SQLite takes 32,766."""


class FigureStore:
    """Keeps figures by their names; see `vexel.core.review.kept`."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def get(self, names: Iterable[str]) -> dict[str, Any]:
        """The values that are kept under some of the names."""
        found: dict[str, Any] = {}
        wanted = list(dict.fromkeys(names))
        with self._sessions() as session:
            for begin in range(0, len(wanted), AT_ONCE):
                part = wanted[begin : begin + AT_ONCE]
                query = select(FigureRow.name, FigureRow.value).where(FigureRow.name.in_(part))
                found |= {name: json.loads(value) for name, value in session.execute(query)}
        return found

    def put(self, values: Mapping[str, Any]) -> None:
        """Keep values, in place of older ones."""
        rows = [{"name": name, "value": json.dumps(value)} for name, value in values.items()]
        if not rows:
            return
        order = insert(FigureRow)
        with self._sessions.begin() as session:
            session.execute(order.on_conflict_do_update(["name"], set_={"value": order.excluded.value}), rows)
