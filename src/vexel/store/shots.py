"""Shots: a JSON file each, with a history for undo and redo."""

import json
import re
import threading
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session, sessionmaker

from vexel.core.document.merge_patch import clashes, difference
from vexel.core.document.shot import Shot, edited, read_shot
from vexel.core.errors import Conflict, Missing, VexelError
from vexel.core.wording import slug
from vexel.store.disk.write import write_whole
from vexel.store.tables import RevisionRow, ShotRow, now

KEPT_REVISIONS = 500
MOST_NAME_BYTES = 200
Made = tuple[dict[str, Any], str]
"""A merge patch and what it does, for undo."""


@dataclass(frozen=True)
class KeptShot:
    """A shot as it stands.

    Attributes
    ----------
    id : str
        Name of its file without ``.json``.
    shot : Shot
    document : dict
        The shot as plain JSON values.
    revision : int
    undo, redo : str
        What undo and redo would take back or bring again; empty when there is nothing.
    edited : str
    """

    id: str
    shot: Shot
    document: dict[str, Any]
    revision: int
    undo: str
    redo: str
    edited: str


class ShotShelf:
    """All shots of a project. The file is the truth; an edit made outside joins the history."""

    def __init__(self, folder: Path, sessions: sessionmaker[Session]) -> None:
        self.folder = folder
        self._sessions = sessions
        self._turn = threading.RLock()
        self._bursts: dict[str, tuple[int, str]] = {}

    def ids(self) -> list[str]:
        """Names of all shots, by file name."""
        return sorted(path.stem for path in self.folder.glob("*.json"))

    def shot(self, shot_id: str) -> Shot:
        """A shot as its file states it now, without its history.

        Raises
        ------
        Mistake
            When there is none, or its file is no valid document.
        """
        return read_shot(self._read(shot_id), f"shots/{shot_id}.json")

    def get(self, shot_id: str) -> KeptShot:
        """A shot as its file states it now, with its history.

        Raises
        ------
        Mistake
            When there is none, or its file is no valid document.
        """
        # Read in turn: a file that is read before an edit and compared after it would look edited from outside.
        with self._turn, self._sessions.begin() as session:
            shot = self.shot(shot_id)
            row = session.get(ShotRow, shot_id)
            if row is None:
                row = ShotRow(id=shot_id, head=0)
                session.add(row)
                session.flush()
                session.add(RevisionRow(shot_id=shot_id, number=0, document=spelled(shot)))
                session.flush()
            elif not self._says(self._revision(session, row), shot):
                self._push(session, row, spelled(shot), "the edit made outside Vexel")
            return self._kept(session, row, shot)

    def titles(self) -> set[str]:
        """Titles of all shots whose documents can be read."""
        titles = set()
        for shot_id in self.ids():
            with suppress(VexelError):
                titles.add(self.shot(shot_id).title)
        return titles

    def add(self, shot: Shot) -> KeptShot:
        """Put a new shot on the shelf, with a title that no other has, under a name made from that."""
        # In turn, so that of several new shots each has a name of its own.
        with self._turn:
            shot = shot.model_copy(update={"title": _other_title(shot.title, self.titles())})
            base, taken, number = slug(shot.title), set(self.ids()), 2
            shot_id = base
            while shot_id in taken:
                shot_id, number = f"{base}-{number}", number + 1
            with self._sessions.begin() as session:
                # A file of this name may have been removed by hand; its history goes with it.
                session.execute(delete(ShotRow).where(ShotRow.id == shot_id))
            self._write(shot_id, spelled(shot))
            return self.get(shot_id)

    def edit(
        self, shot_id: str, patch: dict[str, Any], what: str, burst: str = "", revision: int | None = None
    ) -> KeptShot:
        """Apply a merge patch (RFC 7396) to the full document, and save.

        Parameters
        ----------
        revision : int, optional
            That the edit was made from. Where others have edited the shot since,
            both edits stand if they differ in place.
        burst : str
            Edits one after another that bear the same word, such as the steps of
            a held key, are taken back by one undo. Empty stands by itself.

        Raises
        ------
        Mistake
            When the patched document would be wrong; nothing is changed then.
        Conflict
            When another edit since `revision` changed the same.
        """
        with self._turn:
            before = self.get(shot_id)
            self._refuse_stale(before, patch, revision)
            shot = edited(before.shot, patch)
            if shot == before.shot:
                return before
            with self._sessions.begin() as session:
                row = session.get_one(ShotRow, shot_id)
                goes_on = burst != "" and self._bursts.get(shot_id) == (row.head, burst)
                superseded = row.head
                self._push(session, row, spelled(shot), what)
                if goes_on:
                    session.execute(
                        delete(RevisionRow).where(RevisionRow.shot_id == shot_id, RevisionRow.number == superseded)
                    )
                self._bursts[shot_id] = (row.head, burst)
                self._write(shot_id, spelled(shot))
                return self._kept(session, row, shot)

    def change(self, shot_id: str, make: Callable[[Shot], Made]) -> KeptShot:
        """Edit a shot by a patch that is worked out from it, such as one that adds to a list.

        It is worked out anew where another edit came between.
        """
        while True:
            before = self.get(shot_id)
            patch, what = make(before.shot)
            with self._turn:
                if self.get(shot_id).revision == before.revision:
                    return self.edit(shot_id, patch, what)

    def _refuse_stale(self, now: KeptShot, patch: dict[str, Any], revision: int | None) -> None:
        """Refuse a patch of an older revision that clashes with what came after it."""
        if revision is None or revision == now.revision:
            return
        base, names = self._since(now, revision)
        theirs = difference(base.model_dump(mode="json"), now.shot.model_dump(mode="json"))
        if places := clashes(patch, theirs):
            raise Conflict(
                f"Changed meanwhile in another window: {', '.join(names)}. This edit was not saved",
                tuple(sorted(places)),
            )

    def _since(self, now: KeptShot, revision: int) -> tuple[Shot, list[str]]:
        """The shot as it was at a revision, or the newest one before it, and the names of all edits since."""
        own, number = RevisionRow.shot_id == now.id, RevisionRow.number
        with self._sessions() as session:
            base = session.scalars(
                select(RevisionRow).where(own, number <= revision).order_by(number.desc()).limit(1)
            ).first()
            base = base or session.scalars(select(RevisionRow).where(own).order_by(number).limit(1)).one()
            later = select(RevisionRow.what).where(own, number > base.number, number <= now.revision)
            names = session.scalars(later.order_by(number)).all()
        named = list(dict.fromkeys(name or "something" for name in names))
        return read_shot(base.document), named[-3:] or ["an undone edit"]

    def earlier(self, shot_id: str, most: int) -> Iterator[dict[str, Any]]:
        """Documents of a shot before the one it has now, the latest first."""
        with self._sessions() as session:
            row = session.get_one(ShotRow, shot_id)
            wanted = select(RevisionRow.document).where(RevisionRow.shot_id == shot_id, RevisionRow.number < row.head)
            documents = session.scalars(wanted.order_by(RevisionRow.number.desc()).limit(most)).all()
        yield from map(json.loads, documents)

    def undo(self, shot_id: str, revision: int | None = None) -> KeptShot:
        """Take back the last edit, if it is still that of a revision; nothing happens when there is none."""
        return self._move(shot_id, -1, revision)

    def redo(self, shot_id: str, revision: int | None = None) -> KeptShot:
        """Bring an undone edit again; see `undo`."""
        return self._move(shot_id, +1, revision)

    def remove(self, shot_id: str) -> str:
        """Take the shot off the shelf: its file goes to ``shots/removed``, takes and files stay.

        Returns
        -------
        str
            Name of the file there, for `restore`.
        """
        self._read(shot_id)
        grave = self.folder / "removed"
        grave.mkdir(exist_ok=True)
        with self._turn:
            stem, number = f"{shot_id}.{now().replace(':', '')}", 2
            name = f"{stem}.json"
            while (grave / name).exists():
                name, number = f"{stem}.{number}.json", number + 1
            try:
                (self.folder / f"{shot_id}.json").rename(grave / name)
            except FileNotFoundError:
                raise Missing(f"there is no shot {shot_id!r}; it may have been removed") from None
        return name

    def restore(self, name: str) -> KeptShot:
        """Put a shot that was removed back, with its history where no other has taken its name.

        Raises
        ------
        Mistake
            When it is not among those that were removed.
        """
        file = self.folder / "removed" / name
        if not _is_name(name) or not file.is_file():
            raise Missing(f"there is no removed shot {name[:80]!r}: it may have been put back already")
        shot_id = name.split(".")[0]
        place = self.folder / f"{shot_id}.json"
        if place.exists():
            kept = self.add(read_shot(file.read_bytes(), name))
            file.unlink()
            return kept
        file.rename(place)
        return self.get(shot_id)

    def _move(self, shot_id: str, by: int, revision: int | None) -> KeptShot:
        with self._turn, self._sessions.begin() as session:
            standing = self.get(shot_id)
            if revision not in (None, standing.revision):
                _, names = self._since(standing, revision or 0)
                raise Conflict(f"Changed meanwhile in another window: {', '.join(names)}. Nothing was undone or redone")
            row = session.get_one(ShotRow, shot_id)
            target = self._neighbour(session, row, by)
            if target is None:
                return standing
            row.head, row.edited = target.number, now()
            shot = read_shot(target.document)
            self._write(shot_id, target.document)
            return self._kept(session, row, shot)

    def _push(self, session: Session, row: ShotRow, document: str, what: str) -> None:
        number, own = RevisionRow.number, RevisionRow.shot_id == row.id
        # No number is given twice, so that a revision tells one state alone.
        newest_ever = session.scalar(select(func.max(number)).where(own)) or row.head
        session.execute(delete(RevisionRow).where(own, number > row.head))
        # Bursts leave gaps in the numbers, so that the oldest one to be kept is looked up.
        newest = select(number).where(own).order_by(number.desc()).offset(KEPT_REVISIONS).limit(1)
        if (oldest := session.scalar(newest)) is not None:
            session.execute(delete(RevisionRow).where(own, number <= oldest))
        row.head, row.edited = max(newest_ever, row.head) + 1, now()
        session.add(RevisionRow(shot_id=row.id, number=row.head, document=document, what=what[:200]))
        session.flush()

    def _kept(self, session: Session, row: ShotRow, shot: Shot) -> KeptShot:
        before, after = (self._neighbour(session, row, by) for by in (-1, 1))
        undo = (self._revision(session, row).what or "the last edit") if before else ""
        redo = (after.what or "the next edit") if after else ""
        return KeptShot(row.id, shot, json.loads(spelled(shot)), row.head, undo, redo, row.edited)

    @staticmethod
    def _neighbour(session: Session, row: ShotRow, by: int) -> RevisionRow | None:
        """The revision before the head or after it; the numbers between have gaps where a burst was made one."""
        number = RevisionRow.number
        beyond, nearest = (number < row.head, number.desc()) if by < 0 else (number > row.head, number.asc())
        wanted = select(RevisionRow).where(RevisionRow.shot_id == row.id, beyond).order_by(nearest).limit(1)
        return session.scalars(wanted).first()

    @staticmethod
    def _says(revision: RevisionRow, shot: Shot) -> bool:
        # An older version may have spelled the same shot in another way.
        return revision.document == spelled(shot) or read_shot(revision.document) == shot

    def _revision(self, session: Session, row: ShotRow) -> RevisionRow:
        return session.get_one(RevisionRow, (row.id, row.head))

    def _read(self, shot_id: str) -> bytes:
        if not _is_name(shot_id):
            raise Missing(f"there is no shot {shot_id[:80]!r}")
        try:
            return (self.folder / f"{shot_id}.json").read_bytes()
        except FileNotFoundError:
            raise Missing(f"there is no shot {shot_id!r}; it may have been removed") from None

    def _write(self, shot_id: str, document: str) -> None:
        write_whole(self.folder / f"{shot_id}.json", document.encode())


def _is_name(text: str) -> bool:
    """Whether a text can be the name of a file in a folder, and of no other."""
    return "/" not in text and "\0" not in text and not text.startswith(".") and len(text.encode()) <= MOST_NAME_BYTES


def _other_title(title: str, taken: set[str]) -> str:
    """A title, with the next number behind it where others have it."""
    base = re.sub(r" \d+$", "", title) if title in taken else title
    number, other = 2, title
    while other in taken:
        other, number = f"{base[:190]} {number}", number + 1
    return other


ALWAYS: Final = {"clock": ("rate", "span"), "picture": ("width", "height", "samples", "background")}
"""What a document says even where it is as usual."""


def spelled(shot: Shot) -> str:
    """The one way in which Vexel writes a shot document: what people read first, and else what is not usual."""
    whole = shot.model_dump(mode="json")
    unusual = shot.model_dump(mode="json", exclude_defaults=True)
    named = {}
    for name, value in whole.items():
        first = {key: value[key] for key in ALWAYS.get(name, ())}
        if name in unusual or first or name == "vexel":
            named[name] = first | unusual.get(name, {}) if isinstance(value, dict) else value
            if isinstance(value, list):
                named[name] = unusual[name]
    return json.dumps(named, indent=2, ensure_ascii=False) + "\n"
