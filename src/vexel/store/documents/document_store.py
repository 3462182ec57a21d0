"""A store of documents of one kind: a JSON file each, with a history for undo and redo."""

import json
import os
import re
import stat
import threading
from collections.abc import Callable, Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Generic, TypeVar

from sqlalchemy.orm import Session, sessionmaker

from vexel.core.document_text import MOST_BYTES
from vexel.core.errors import Conflict, Missing, Mistake, VexelError
from vexel.core.merge_patch import clashes, difference
from vexel.core.wording import slug
from vexel.disk.write import write_whole
from vexel.store.documents.history import History, Standing
from vexel.store.tables import DocumentRow, RevisionRow, now

MOST_NAME_BYTES = 200
MOST_KNOWN = 16
"""Documents that stay in memory while their files do not change: a user works with few at a time."""
Made = tuple[dict[str, Any], str]
"""A merge patch and what it does, for undo."""


D = TypeVar("D", bound=Any)
"""A document: frozen, with a title, and made of JSON values."""


@dataclass(frozen=True)
class DocumentKind(Generic[D]):
    """What a store holds.

    Attributes
    ----------
    word : str
        For people, such as ``value``.
    read : callable
        A document of its text, and a name for errors.
    spell : callable
        The one way in which Vexel writes it.
    edited : callable
        A document with a merge patch applied.
    history : History
        Where its states are kept.
    check : callable
        Refuses what is valid and yet cannot be worked with; called before anything is saved.
    """

    word: str
    read: Callable[[str | bytes, str], D]
    spell: Callable[[D], str]
    edited: Callable[[D, dict[str, Any]], D]
    history: History
    check: Callable[[D], object] = lambda value: None


@dataclass(frozen=True)
class Kept(Generic[D]):
    """A document as it stands.

    Attributes
    ----------
    id : str
        Name of its file without ``.json``.
    value : D
    revision : int
    undo, redo : str
        Names of the edits that undo and redo would change; empty when there is none.
    edited : str
    """

    id: str
    value: D
    revision: int
    undo: str
    redo: str
    edited: str


class Listed(Generic[D]):
    """Documents as a list shows them, without what undo and redo would do."""

    def __init__(self, store: "DocumentStore[D]", rows: Mapping[str, Standing]) -> None:
        self._store, self._rows = store, rows

    def get(self, document_id: str) -> Kept[D]:
        """See `DocumentStore.get`; `undo` and `redo` are not told."""
        row = self._rows.get(document_id)
        text = self._store.text_of(document_id)
        value = self._store.read(document_id, text)
        if row is None or (row.document.encode() != text and row.document != self._store.kind.spell(value)):
            # An edit made outside, which joins the history.
            return self._store.get(document_id)
        return Kept(document_id, value, row.head, "", "", row.edited)


class DocumentStore(Generic[D]):
    """All documents of one kind. The file is the truth; an edit made outside joins the history."""

    def __init__(self, folder: Path, sessions: sessionmaker[Session], kind: DocumentKind[D]) -> None:
        self.folder = folder
        self.kind, self._history = kind, kind.history
        self._sessions = sessions
        self._turn = threading.RLock()
        self._bursts: dict[str, tuple[int, str]] = {}
        self._known: dict[str, tuple[tuple[int, ...], Kept[D]]] = {}

    def ids(self) -> list[str]:
        """Names of all documents, by file name, also of those that cannot be read."""
        return sorted(name for name in self._names() if _is_name(name))

    def has(self, document_id: str) -> bool:
        """Whether there is a document of this name, even one that cannot be read."""
        return _is_name(document_id) and (self.folder / f"{document_id}.json").is_file()

    def listed(self) -> "Listed[D]":
        """Documents for a list: their rows are asked for once for all of them."""
        with self._turn, self._sessions.begin() as session:
            rows = self._history.all_standing(session)
            new = {}
            for document_id in self.ids():
                if document_id not in rows:
                    # A faulty document is reported in its own line.
                    with suppress(Exception):
                        new[document_id] = self.kind.spell(self.value(document_id))
            if new:
                self._history.begin_all(session, new)
                rows = self._history.all_standing(session)
            return Listed(self, rows)

    def stamp(self, document_id: str) -> tuple[int, ...] | None:
        """Changes with a document's file or its revision; None where it is unknown."""
        try:
            found = (self.folder / f"{document_id}.json").stat()
        except (OSError, ValueError):
            return None
        return found.st_mtime_ns, found.st_size, found.st_ino

    def nameless(self) -> list[str]:
        """Names of files that no address can hold, spelled so that people recognise them."""
        odd = (name for name in self._names() if not _is_name(name))
        return sorted(os.fsencode(name).decode("utf-8", "replace") for name in odd)

    def _names(self) -> Iterator[str]:
        for path in self.folder.glob("[!.]*.json"):
            yield path.stem

    def value(self, document_id: str) -> D:
        """A document as its file states it now, without its history.

        Raises
        ------
        Mistake
            When there is none, or its file is no valid document.
        """
        return self.read(document_id, self.text_of(document_id))

    def read(self, document_id: str, text: bytes) -> D:
        """A document of its text; see `value`."""
        return self.kind.read(text, f"{self.folder.name}/{document_id}.json")

    def get(self, document_id: str) -> Kept[D]:
        """A document as its file states it now, with its history.

        Raises
        ------
        Mistake
            When there is none, or its file is no valid document.
        """
        # Read in turn: a file that is read before an edit and compared after it would look edited from outside.
        with self._turn:
            stamp = self.stamp(document_id)
            known = self._known.get(document_id)
            if known is not None and stamp is not None and known[0] == stamp:
                return known[1]
            found = self._read_with_history(document_id)
            self._known.pop(document_id, None)
            if stamp is not None and stamp == self.stamp(document_id):
                self._known[document_id] = (stamp, found)
                while len(self._known) > MOST_KNOWN:
                    del self._known[next(iter(self._known))]
            return found

    def _read_with_history(self, document_id: str) -> Kept[D]:
        with self._sessions.begin() as session:
            value = self.value(document_id)
            row = self._history.row(session, document_id)
            if row is None:
                row = self._history.begin(session, document_id, self.kind.spell(value))
            elif not self._says(self._history.standing(session, row), value):
                self._history.push(session, row, self.kind.spell(value), "the edit made outside Vexel")
            return self._kept(session, row, value)

    def titles(self) -> set[str]:
        """Titles of all shots whose documents can be read."""
        titles = set()
        for document_id in self.ids():
            with suppress(VexelError):
                titles.add(self.value(document_id).title)
        return titles

    def add(self, value: D) -> Kept[D]:
        """Add a new document to the store, with a unique title, under a name made from it."""
        # One at a time, so that each of several new shots gets a unique name.
        with self._turn:
            self.kind.check(value)
            value = value.model_copy(update={"title": _other_title(value.title, self.titles())})
            base, taken, number = slug(value.title), set(self.ids()), 2
            document_id = base
            while document_id in taken:
                document_id, number = f"{base}-{number}", number + 1
            with self._sessions.begin() as session:
                # A file of this name may have been removed by hand; its history goes with it.
                self._history.forget(session, document_id)
            self._write(document_id, self.kind.spell(value))
            return self.get(document_id)

    def edit(
        self, document_id: str, patch: dict[str, Any], what: str, burst: str = "", revision: int | None = None
    ) -> Kept[D]:
        """Apply a merge patch (RFC 7396) to the full document, and save.

        Parameters
        ----------
        revision : int, optional
            That the edit was made from. Where others have edited the document since,
            both edits stand if they differ in place.
        burst : str
            Edits one after another that bear the same word, such as the steps of
            a held key, are taken back by one undo. An empty word joins nothing.

        Raises
        ------
        Mistake
            When the patched document would be wrong; nothing is changed then.
        Conflict
            When another edit since `revision` changed the same.
        """
        with self._turn:
            before = self.get(document_id)
            self._refuse_stale(before, patch, revision)
            value = self.kind.edited(before.value, patch)
            if value == before.value:
                return before
            self.kind.check(value)
            with self._sessions.begin() as session:
                row = self._row(session, document_id)
                goes_on = burst != "" and self._bursts.get(document_id) == (row.head, burst)
                text = self.kind.spell(value)
                self._history.push(session, row, text, what, instead=goes_on)
                self._bursts[document_id] = (row.head, burst)
                self._write(document_id, text)
                kept = self._kept(session, row, value)
            if (stamp := self.stamp(document_id)) is not None:
                self._known[document_id] = (stamp, kept)
            return kept

    def change(self, document_id: str, make: Callable[[D], Made]) -> Kept[D]:
        """Edit a document by a patch that is worked out from it, such as one that adds to a list.

        It is recalculated where another edit came between.
        """
        while True:
            before = self.get(document_id)
            patch, what = make(before.value)
            with self._turn:
                if self.get(document_id).revision == before.revision:
                    return self.edit(document_id, patch, what)

    def _refuse_stale(self, now: Kept[D], patch: dict[str, Any], revision: int | None) -> None:
        """Refuse a patch of an older revision that clashes with what came after it."""
        if revision is None or revision == now.revision:
            return
        base, names = self._since(now, revision)
        theirs = difference(base.model_dump(mode="json"), now.value.model_dump(mode="json"))
        if places := clashes(patch, theirs):
            raise Conflict(
                f"Changed in another window: {', '.join(names)}. This edit was not saved",
                tuple(sorted(places)),
            )

    def _since(self, now: Kept[D], revision: int) -> tuple[D, list[str]]:
        """The document at a revision, or the newest one before it, and the names of all edits since."""
        with self._sessions() as session:
            text, names = self._history.since(session, now.id, revision, now.revision)
        named = list(dict.fromkeys(name or "something" for name in names))
        return self.kind.read(text, ""), named[-3:] or ["an undone edit"]

    def earlier(self, document_id: str, most: int) -> Iterator[dict[str, Any]]:
        """States of a document before the one it has now, the latest first."""
        with self._sessions() as session:
            documents = self._history.earlier(session, document_id, most)
        yield from map(json.loads, documents)

    def undo(self, document_id: str, revision: int | None = None) -> Kept[D]:
        """Take back the last edit, if it is still that of a revision; nothing happens when there is none."""
        return self._move(document_id, -1, revision)

    def redo(self, document_id: str, revision: int | None = None) -> Kept[D]:
        """Redo the edit that was undone last; see `undo`."""
        return self._move(document_id, +1, revision)

    def remove(self, document_id: str) -> str:
        """Take a document off the store: its file goes to ``removed``, takes and files stay.

        Returns
        -------
        str
            Name of the file there, for `restore`.
        """
        file = self.folder / f"{document_id}.json"
        if not _is_name(document_id) or not os.path.lexists(file):
            raise Missing(f"there is no {self.kind.word} {document_id[:80]!r}; it may have been removed")
        grave = self.folder / "removed"
        grave.mkdir(exist_ok=True)
        with self._turn:
            stem, number = f"{document_id}.{now().replace(':', '')}", 2
            name = f"{stem}.json"
            while (grave / name).exists():
                name, number = f"{stem}.{number}.json", number + 1
            try:
                file.rename(grave / name)
            except FileNotFoundError:
                raise Missing(f"there is no {self.kind.word} {document_id!r}; it may have been removed") from None
        return name

    def restore(self, name: str) -> Kept[D]:
        """Put a document that was removed back, with its history where no other has taken its name.

        Raises
        ------
        Mistake
            When it is not among those that were removed.
        """
        file = self.folder / "removed" / name
        if not _is_name(name) or not file.is_file():
            raise Missing(f"there is no removed {self.kind.word} {name[:80]!r}: it may have been restored already")
        document_id = name.split(".", maxsplit=1)[0]
        place = self.folder / f"{document_id}.json"
        if place.exists():
            kept = self.add(self.kind.read(file.read_bytes(), name))
            file.unlink()
            return kept
        file.rename(place)
        return self.get(document_id)

    def _move(self, document_id: str, by: int, revision: int | None) -> Kept[D]:
        with self._turn, self._sessions.begin() as session:
            standing = self.get(document_id)
            if revision not in (None, standing.revision):
                _, names = self._since(standing, revision or 0)
                raise Conflict(f"Changed in another window: {', '.join(names)}. Nothing was undone or redone")
            row = self._row(session, document_id)
            target = self._history.neighbour(session, row, by)
            if target is None:
                return standing
            row.head, row.edited = target.number, now()
            value = self.kind.read(target.document, "")
            self._write(document_id, target.document)
            return self._kept(session, row, value)

    def _kept(self, session: Session, row: DocumentRow, value: D) -> Kept[D]:
        before, after = (self._history.neighbour(session, row, by) for by in (-1, 1))
        undo = (self._history.standing(session, row).what or "the last edit") if before else ""
        redo = (after.what or "the next edit") if after else ""
        return Kept(row.id, value, row.head, undo, redo, row.edited)

    def _row(self, session: Session, document_id: str) -> DocumentRow:
        row = self._history.row(session, document_id)
        assert row is not None, "get() gives every document a row"
        return row

    def _says(self, revision: RevisionRow, value: D) -> bool:
        # A file that was written by hand may spell the same value in another way.
        return revision.document == self.kind.spell(value) or self.kind.read(revision.document, "") == value

    def text_of(self, document_id: str) -> bytes:
        """The bytes of a document's file.

        Raises
        ------
        Mistake
            When there is none, or it cannot be one.
        """
        if not _is_name(document_id):
            raise Missing(f"there is no {self.kind.word} {document_id[:80]!r}")
        file = self.folder / f"{document_id}.json"
        try:
            if stat.S_ISREG((found := file.stat()).st_mode) and found.st_size <= MOST_BYTES:
                return file.read_bytes()
        except FileNotFoundError:
            raise Missing(f"there is no {self.kind.word} {document_id!r}; it may have been removed") from None
        except (OSError, ValueError) as error:
            reason = getattr(error, "strerror", None) or error
            raise Mistake(f"{self.folder.name}/{file.name} cannot be read ({reason}): fix it, or remove it") from None
        if not file.is_file():
            raise Mistake(f"{self.folder.name}/{file.name} is not a file: rename or remove it")
        raise Mistake(
            f"{self.folder.name}/{file.name} has {found.st_size / 1e6:,.0f} MB, more than the "
            f"{MOST_BYTES // 1_000_000} MB that a document may have"
        )

    def text(self, document_id: str) -> bytes:
        """The bytes of a document's file, valid or not.

        Raises
        ------
        Mistake
            When it cannot be read at all.
        """
        if _is_name(document_id) and (self.folder / f"{document_id}.json").is_symlink():
            # The author of the project chose where it leads, and not the user who opens it.
            raise Mistake(f"{document_id}.json is a link: open the file that it leads to")
        return self.text_of(document_id)

    def _write(self, document_id: str, document: str) -> None:
        write_whole(self.folder / f"{document_id}.json", document.encode())


def _is_name(text: str) -> bool:
    """Whether a text can be the name of a file in a folder, and of no other."""
    try:
        size = len(text.encode())
    except UnicodeEncodeError:
        return False
    return "/" not in text and "\0" not in text and not text.startswith(".") and 0 < size <= MOST_NAME_BYTES


def _other_title(title: str, taken: set[str]) -> str:
    """A title, with the next number behind it where others have it."""
    base = re.sub(r" \d+$", "", title) if title in taken else title
    number, other = 2, title
    while other in taken:
        other, number = f"{base[:190]} {number}", number + 1
    return other
