"""Compiled files of a project, with their receipts."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any
from urllib.parse import quote

from sqlalchemy import create_engine, delete, func, select, update
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from vexel.core.errors import Missing
from vexel.disk.disk_errors import os_sentence
from vexel.disk.finished import Finished, is_whole
from vexel.store.endings import Endings
from vexel.store.frame_states import UNDER_WAY
from vexel.store.tables import OutputRow, RunRow

CHANGED = "This file has changed since its receipt was written: compile it again"
GONE = "This file is no longer there: compile it again"


class OutputStore:
    """All compiled files of a project."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions
        self._endings = Endings(self._write)

    def add(self, run_id: int, recipe: str, file: str, camera_pass: int = 0, document: str = "", batch: int = 0) -> int:
        """A new file of one camera pass of a take that waits to be compiled, by a recipe's document; its id."""
        with self._sessions.begin() as session:
            row = OutputRow(
                run_id=run_id, recipe=recipe, file=file, camera_pass=camera_pass, state="queued",
                document=document, batch=batch,
            )  # fmt: skip
            session.add(row)
            session.flush()
            return row.id

    def add_of_reel(self, reel: str, reel_document: str, recipe: str, file: str, document: str, batch: int) -> int:
        """Add a file of the present reel that waits to be compiled; return its id."""
        with self._sessions.begin() as session:
            row = OutputRow(
                reel=reel, reel_document=reel_document, recipe=recipe, file=file, state="queued", document=document,
                batch=batch,
            )  # fmt: skip
            session.add(row)
            session.flush()
            return row.id

    def knows(self, file: str) -> bool:
        """Whether a file of this name was made or is queued, even where it is gone: its receipt is of another file."""
        query = select(OutputRow.id).where(OutputRow.file == file, OutputRow.state.in_((*UNDER_WAY, "done")))
        with self._sessions() as session:
            return session.scalar(query.limit(1)) is not None

    def get(self, output_id: int) -> OutputRow:
        """A file's row.

        Raises
        ------
        Missing
            When there is none.
        """
        with self._sessions() as session:
            row = session.get(OutputRow, output_id)
        if row is None:
            raise Missing(f"there is no compiled file {output_id}")
        return self._endings.on(row)

    def of(self, run_id: int) -> list[OutputRow]:
        """Files of a run, newest first."""
        query = select(OutputRow).where(OutputRow.run_id == run_id).order_by(OutputRow.id.desc())
        with self._sessions() as session:
            return [self._endings.on(row) for row in session.scalars(query).all()]

    def by_run(self, run_ids: Sequence[int] | None = None) -> dict[int, list[OutputRow]]:
        """Files of all runs, or of some, newest first, by the runs' ids."""
        query = select(OutputRow).where(OutputRow.run_id.is_not(None)).order_by(OutputRow.id.desc())
        if run_ids is not None:
            query = query.where(OutputRow.run_id.in_(run_ids))
        found: dict[int, list[OutputRow]] = {}
        with self._sessions() as session:
            for row in session.scalars(query).all():
                found.setdefault(row.run, []).append(self._endings.on(row))
        return found

    def newest_per_shot(self) -> dict[str, int]:
        """The newest finished file of each shot, by the shots' ids."""
        query = select(RunRow.shot_id, func.max(OutputRow.id)).join(OutputRow, OutputRow.run_id == RunRow.id)
        query = query.where(OutputRow.state == "done").group_by(RunRow.shot_id)
        with self._sessions() as session:
            return dict(session.execute(query).all())

    def all(self, most: int = 500) -> list[OutputRow]:
        """Files of all runs, newest first."""
        query = select(OutputRow).order_by(OutputRow.id.desc()).limit(most)
        with self._sessions() as session:
            return [self._endings.on(row) for row in session.scalars(query).all()]

    def end(self, output_id: int, **values: Any) -> None:
        """Set columns of a file that was made, or not, at the latest when the disk has room again."""
        self._endings.record(output_id, values)

    def set(self, output_id: int, **values: Any) -> None:
        """Set columns of a file's row."""
        self._endings.set(output_id, values)

    def remove(self, output_id: int) -> None:
        """Delete a file's row."""
        with self._sessions.begin() as session:
            session.execute(delete(OutputRow).where(OutputRow.id == output_id))

    def sharing(self, row: OutputRow) -> int:
        """How many other rows have the same file or folder."""
        query = select(func.count()).where(OutputRow.file == row.file, OutputRow.id != row.id)
        with self._sessions() as session:
            return session.scalar(query) or 0

    def _write(self, output_id: int, **values: Any) -> None:
        with self._sessions.begin() as session:
            session.execute(update(OutputRow).where(OutputRow.id == output_id).values(**values))


def trouble_of(row: OutputRow, file: Path, *, deep: bool = False) -> str:
    """What is wrong with a compiled file that is done, as a sentence; else empty."""
    try:
        if not file.exists():
            return GONE
        if not row.digest or is_whole(file, Finished(row.bytes, row.digest, row.written), deep=deep):
            return ""
    except OSError as error:
        return f"This file cannot be read: {os_sentence(error)}"
    return CHANGED


def changed_since_receipt(file: Path) -> str:
    """Whether a file that lies among a project's compiled ones is no longer what its receipt was written of.

    Returns
    -------
    str
        A sentence; empty where no project knows it, or nothing has changed.
    """
    database = file.absolute().parent.parent / "vexel.db"
    if not database.is_file():
        return ""
    # Read only, and without migration: it may be the project of a running server, or of another version.
    engine = create_engine(f"sqlite:///file:{quote(str(database))}?mode=ro&uri=true")
    query = select(OutputRow.bytes, OutputRow.digest, OutputRow.written)
    query = query.where(OutputRow.file == file.name, OutputRow.state == "done").order_by(OutputRow.id.desc()).limit(1)
    try:
        with engine.connect() as connection:
            row = connection.execute(query).first()
    except DBAPIError:
        return ""
    finally:
        engine.dispose()
    if row is None or not row[1] or is_whole(file, Finished(*row), deep=True):
        return ""
    return CHANGED
