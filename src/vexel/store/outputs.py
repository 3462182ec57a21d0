"""Compiled files of a project, with their receipts."""

from typing import Any

from sqlalchemy import select, update
from sqlalchemy.orm import Session, sessionmaker

from vexel.core.errors import Mistake
from vexel.store.tables import OutputRow


class OutputShelf:
    """All compiled files of a project."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def add(self, run_id: int, recipe: str, file: str, strand: int = 0) -> int:
        """A new file of one strand of a take that waits to be compiled; its id."""
        with self._sessions.begin() as session:
            row = OutputRow(run_id=run_id, recipe=recipe, file=file, strand=strand, state="waiting")
            session.add(row)
            session.flush()
            return row.id

    def get(self, output_id: int) -> OutputRow:
        """A file's row.

        Raises
        ------
        Mistake
            When there is none.
        """
        with self._sessions() as session:
            row = session.get(OutputRow, output_id)
        if row is None:
            raise Mistake(f"there is no compiled file {output_id}")
        return row

    def of(self, run_id: int) -> list[OutputRow]:
        """Files of a run, newest first."""
        query = select(OutputRow).where(OutputRow.run_id == run_id).order_by(OutputRow.id.desc())
        with self._sessions() as session:
            return list(session.scalars(query))

    def set(self, output_id: int, **values: Any) -> None:
        """Set columns of a file's row."""
        with self._sessions.begin() as session:
            session.execute(update(OutputRow).where(OutputRow.id == output_id).values(**values))
