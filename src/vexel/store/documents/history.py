"""The states of documents of one kind, by which edits are undone, redone and merged."""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from sqlalchemy import delete, func, insert, select
from sqlalchemy.orm import Session

from vexel.store.tables import DocumentRow, RevisionRow, now

KEPT_REVISIONS = 500


class Standing(NamedTuple):
    """The state of a document that stands, its number, and when it came to be."""

    document: str
    head: int
    edited: str


class History:
    """Rows of documents and of their states, within a session of the caller's.

    Parameters
    ----------
    documents : type of DocumentRow
    revisions : type of RevisionRow
    """

    def __init__(self, documents: type[DocumentRow], revisions: type[RevisionRow]) -> None:
        self._documents, self._revisions = documents, revisions

    def row(self, session: Session, document_id: str) -> DocumentRow | None:
        """The row of a document, if it has one."""
        return session.get(self._documents, document_id)

    def begin(self, session: Session, document_id: str, text: str) -> DocumentRow:
        """A row for a document that has none, with its first state."""
        row = self._documents(id=document_id, head=0)
        session.add(row)
        session.flush()
        session.add(self._revisions(of=document_id, number=0, document=text))
        session.flush()
        return row

    def begin_all(self, session: Session, texts: Mapping[str, str]) -> None:
        """Rows for many documents that have none, with their first states."""
        session.execute(insert(self._documents), [{"id": name, "head": 0} for name in texts])
        first = [{"of": name, "number": 0, "document": text, "what": ""} for name, text in texts.items()]
        session.execute(insert(self._revisions), first)

    def forget(self, session: Session, document_id: str) -> None:
        """Delete a document's row and its states."""
        session.execute(delete(self._documents).where(self._documents.id == document_id))

    def push(self, session: Session, row: DocumentRow, text: str, what: str, *, instead: bool = False) -> None:
        """Put a state on top; those that were undone are gone.

        Parameters
        ----------
        what : str
            What the edit did, for undo.
        instead : bool
            In place of the state that stood, so that one undo takes both edits back.
        """
        number, own = self._revisions.number, self._revisions.of == row.id
        superseded = row.head
        # No number is given twice, so that a revision tells one state alone.
        newest_ever = session.scalar(select(func.max(number)).where(own)) or row.head
        session.execute(delete(self._revisions).where(own, number > row.head))
        # Bursts leave gaps in the numbers, so that the oldest one to be kept is looked up.
        newest = select(number).where(own).order_by(number.desc()).offset(KEPT_REVISIONS).limit(1)
        if (oldest := session.scalar(newest)) is not None:
            session.execute(delete(self._revisions).where(own, number <= oldest))
        row.head, row.edited = max(newest_ever, row.head) + 1, now()
        session.add(self._revisions(of=row.id, number=row.head, document=text, what=what[:200]))
        session.flush()
        if instead:
            session.execute(delete(self._revisions).where(own, number == superseded))

    def standing(self, session: Session, row: DocumentRow) -> RevisionRow:
        """The state that stands."""
        return session.get_one(self._revisions, (row.id, row.head))

    def all_standing(self, session: Session) -> dict[str, Standing]:
        """The states that stand, of all documents by their names."""
        at, row = self._revisions, self._documents
        wanted = select(row.id, at.document, row.head, row.edited).join(at, (at.of == row.id) & (at.number == row.head))
        return {name: Standing(text, head, edited) for name, text, head, edited in session.execute(wanted)}

    def neighbour(self, session: Session, row: DocumentRow, by: int) -> RevisionRow | None:
        """The state before the one that stands, or after it; numbers have gaps where a burst was made one."""
        number = self._revisions.number
        beyond, nearest = (number < row.head, number.desc()) if by < 0 else (number > row.head, number.asc())
        wanted = select(self._revisions).where(self._revisions.of == row.id, beyond).order_by(nearest).limit(1)
        return session.scalars(wanted).first()

    def since(self, session: Session, document_id: str, revision: int, newest: int) -> tuple[str, Sequence[str]]:
        """The text at a revision, or at the newest one before it, and what each edit since then did."""
        own, number = self._revisions.of == document_id, self._revisions.number
        at_most = select(self._revisions).where(own, number <= revision).order_by(number.desc()).limit(1)
        base = session.scalars(at_most).first()
        base = base or session.scalars(select(self._revisions).where(own).order_by(number).limit(1)).one()
        later = select(self._revisions.what).where(own, number > base.number, number <= newest)
        return base.document, session.scalars(later.order_by(number)).all()

    def earlier(self, session: Session, document_id: str, most: int) -> Sequence[str]:
        """Texts before the one that stands, the latest first."""
        row = session.get_one(self._documents, document_id)
        number = self._revisions.number
        wanted = select(self._revisions.document).where(self._revisions.of == row.id, number < row.head)
        return session.scalars(wanted.order_by(number.desc()).limit(most)).all()
