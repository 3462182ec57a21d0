"""Texts of sources, with a history for undo and redo."""

import threading
from dataclasses import dataclass
from difflib import SequenceMatcher
from pathlib import Path

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session, sessionmaker

from vexel.core.errors import Conflict, Mistake
from vexel.disk.write import write_whole
from vexel.store.tables import TextRow

KEPT = 200


@dataclass(frozen=True)
class KeptText:
    """A text and its file.

    Attributes
    ----------
    text : str
    revision : int
    undo, redo : bool
        Whether there is one before it, and one after it that was undone.
    """

    text: str
    revision: int
    undo: bool
    redo: bool


class TextStore:
    """Texts of a project's own sources. The file is the truth; an edit made outside joins the history."""

    def __init__(self, home: Path, sessions: sessionmaker[Session]) -> None:
        self._home, self._sessions = home, sessions
        self._turn = threading.RLock()
        self._bursts: dict[str, tuple[int, str]] = {}

    def get(self, file: Path) -> KeptText:
        """A text as its file has it now, with its history.

        Raises
        ------
        Mistake
            When the file cannot be read as text.
        """
        with self._turn, self._sessions.begin() as session:
            return self._kept(session, file, self._joined(session, file))

    def save(self, file: Path, text: str, revision: int | None = None, burst: str = "") -> KeptText:
        """Write a text; texts one after another that bear the same burst are one undo.

        Raises
        ------
        Conflict
            When the file has changed since `revision`; nothing is written then.
        OSError
            When it cannot be written.
        """
        with self._turn, self._sessions.begin() as session:
            row = self._joined(session, file)
            self._refuse_stale(session, row, text, revision)
            if text == row.text:
                return self._kept(session, file, row)
            goes_on = burst != "" and self._bursts.get(row.file) == (row.number, burst)
            write_whole(file, text.encode())
            new = self._push(session, row, text)
            if goes_on:
                session.delete(row)
            self._bursts[row.file] = (new.number, burst)
            return self._kept(session, file, new)

    def undo(self, file: Path, revision: int | None = None) -> KeptText:
        """Restore the text before this one; nothing happens when there is none."""
        return self._move(file, -1, revision)

    def redo(self, file: Path, revision: int | None = None) -> KeptText:
        """Redo the text that was undone last; nothing happens when there is none."""
        return self._move(file, +1, revision)

    def _move(self, file: Path, by: int, revision: int | None) -> KeptText:
        with self._turn, self._sessions.begin() as session:
            row = self._joined(session, file)
            self._refuse_stale(session, row, row.text, revision)
            target = self._neighbour(session, row, by)
            if target is not None:
                write_whole(file, target.text.encode())
                self._stand(session, target)
                row = target
            return self._kept(session, file, row)

    def _joined(self, session: Session, file: Path) -> TextRow:
        """The row of what the file holds now."""
        try:
            text = file.read_bytes().decode()
        except (OSError, UnicodeDecodeError) as error:
            raise Mistake(f"{file.name} cannot be shown as text: {error}") from None
        name = str(file.relative_to(self._home))[:500]
        row = session.scalars(select(TextRow).where(TextRow.file == name, TextRow.stands)).first()
        if row is None:
            row = TextRow(file=name, number=0, text=text, stands=True)
            session.add(row)
            session.flush()
        return row if row.text == text else self._push(session, row, text)

    def _push(self, session: Session, row: TextRow, text: str) -> TextRow:
        own, number = TextRow.file == row.file, TextRow.number
        newest = session.scalar(select(func.max(number)).where(own)) or 0
        # What was undone is gone for good once something new is written.
        session.execute(delete(TextRow).where(own, number > row.number))
        new = TextRow(file=row.file, number=newest + 1, text=text, stands=False)
        session.add(new)
        oldest = session.scalar(select(number).where(own).order_by(number.desc()).offset(KEPT).limit(1))
        if oldest is not None:
            session.execute(delete(TextRow).where(own, number <= oldest))
        self._stand(session, new)
        return new

    @staticmethod
    def _stand(session: Session, row: TextRow) -> None:
        session.execute(update(TextRow).where(TextRow.file == row.file).values(stands=False))
        row.stands = True
        session.flush()

    @staticmethod
    def _neighbour(session: Session, row: TextRow, by: int) -> TextRow | None:
        own, number = TextRow.file == row.file, TextRow.number
        beyond, nearest = (number < row.number, number.desc()) if by < 0 else (number > row.number, number.asc())
        return session.scalars(select(TextRow).where(own, beyond).order_by(nearest).limit(1)).first()

    def _kept(self, session: Session, file: Path, row: TextRow) -> KeptText:
        before, after = (self._neighbour(session, row, by) is not None for by in (-1, 1))
        return KeptText(row.text, row.number, before, after)

    @staticmethod
    def _refuse_stale(session: Session, row: TextRow, text: str, revision: int | None) -> None:
        if revision is None or revision == row.number:
            return
        name = Path(row.file).name
        base = session.get(TextRow, (row.file, revision))
        lines = _changed_lines(base.text, row.text) if base else ()
        where = f" ({', '.join(lines)})" if lines else ""
        raise Conflict(f"{name} was changed in the meantime{where}: your text was not saved over it", tuple(lines))


def _changed_lines(before: str, after: str) -> tuple[str, ...]:
    """Where the newer text differs, as ``line 3`` or ``lines 3 to 5``; at most a few."""
    places = []
    for tag, _, _, first, last in SequenceMatcher(None, before.splitlines(), after.splitlines(), False).get_opcodes():
        if tag != "equal":
            places.append(f"line {first + 1}" if last - first <= 1 else f"lines {first + 1} to {last}")
    return tuple(places[:4])
