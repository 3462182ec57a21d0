"""Notes on frames, in the project's database."""

import secrets
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session, sessionmaker

from vexel.core.errors import Missing
from vexel.store.tables import NoteRow

UID_BYTES = 12


class NoteStore:
    """Notes by what they are about."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def of(self, subject: str) -> list[NoteRow]:
        """All notes on a subject, such as ``take:3``, by their frames."""
        query = select(NoteRow).where(NoteRow.subject == subject).order_by(NoteRow.first, NoteRow.id)
        with self._sessions() as session:
            return list(session.scalars(query))

    def get(self, note_id: int) -> NoteRow:
        """A note.

        Raises
        ------
        Missing
            When there is none.
        """
        with self._sessions() as session:
            row = session.get(NoteRow, note_id)
        if row is None:
            raise Missing(f"there is no note {note_id}: it may have been deleted on another page")
        return row

    def add(self, **values: Any) -> NoteRow:
        """Write a note down."""
        values.setdefault("uid", secrets.token_hex(UID_BYTES))
        with self._sessions(expire_on_commit=False) as session, session.begin():
            row = NoteRow(**values)
            session.add(row)
        return row

    def merge(self, **values: Any) -> bool:
        """Write down a note that has a `uid`, unless its subject has it already; whether it is new."""
        try:
            self.add(**values)
        except IntegrityError:
            return False
        return True

    def change(self, note_id: int, **values: Any) -> NoteRow:
        """Change some values of a note; see `get` for errors."""
        with self._sessions(expire_on_commit=False) as session, session.begin():
            row = session.get(NoteRow, note_id)
            if row is None:
                raise Missing(f"there is no note {note_id}: it may have been deleted on another page")
            for name, value in values.items():
                setattr(row, name, value)
        return row

    def remove(self, note_id: int) -> None:
        """Delete a note; nothing happens where there is none."""
        with self._sessions.begin() as session:
            session.execute(delete(NoteRow).where(NoteRow.id == note_id))

    def remove_of(self, subject: str) -> None:
        """Delete all notes on a subject."""
        with self._sessions.begin() as session:
            session.execute(delete(NoteRow).where(NoteRow.subject == subject))
