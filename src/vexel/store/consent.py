"""Which projects and which code the user trusts, kept outside all projects.

A project that was made here runs its own code. A received one runs none
until the user has reviewed its files and trusts them; that is remembered by
their content, so that it is asked again when the content changes.
"""

import fcntl
import json
import os
import secrets
import threading
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from vexel.core.errors import Failure
from vexel.disk.write import write_whole
from vexel.store.user_files import person_folder

IDENTITY = ".project"
"""In a project's folder: its name among the projects that were made on this machine."""
_MARKS = (IDENTITY, "vexel.db")
_DOCUMENTS = ("shots", "reels")
_FOLDERS = (*_DOCUMENTS, "sources", "copies", "recipes", "frames", "outputs", "glances")


class Unseen(Failure):
    """Imported code that the user has not trusted yet.

    Attributes
    ----------
    files : tuple of Path
        What would run, the main file first.
    digest : str
        Of their content.
    """

    def __init__(self, files: tuple[Path, ...], digest: str) -> None:
        names = ", ".join(file.name for file in files[:4]) + (" and more" if len(files) > 4 else "")
        super().__init__(
            f"{names} came with a project that you received and has not been run: "
            "review its code and trust it first, in Vexel or with vexel trust"
        )
        self.files, self.digest = files, digest


class Consent:
    """What of one project may run.

    Parameters
    ----------
    home : Path
        The project's folder.
    trusted : bool
        Whether the user has trusted all of it, without being asked.
    """

    def __init__(self, home: Path, *, trusted: bool = False) -> None:
        self.home = home.resolve()
        self._book = _Book()
        self.own = trusted or self._book.knows(home)
        self._lock = threading.Lock()
        self._trusted = self._book.trusted()

    def allows(self, digest: str) -> bool:
        """Whether code of this content may run."""
        return self.own or digest in self._trusted

    def trust(self, digests: Iterable[str]) -> None:
        """Let code of this content run, as the user has reviewed it."""
        digests = set(digests)
        with self._lock:
            if not digests <= self._trusted:
                self._trusted |= digests
                self._book.trust(digests)


def is_new(home: Path) -> bool:
    """Whether nothing of a project is in a folder yet."""
    return not any((home / name).exists() for name in (*_MARKS, *_FOLDERS))


def homes_of(path: Path) -> list[Path]:
    """Folders of all projects that contain a file, by its path and by the target of its links.

    A folder counts as a project's by what it looks like, since one that was unpacked by another program bears no mark.
    """
    # By both: the path may be in a project where the target is not.
    named, real = Path(os.path.abspath(path)), path.resolve()  # noqa: PTH100
    return list(
        dict.fromkeys(home.resolve() for place in (named, real) for home in place.parents if _is_home(home, place))
    )


def _is_home(folder: Path, path: Path) -> bool:
    if any((folder / name).exists() for name in _MARKS):
        return True
    within = path.relative_to(folder).parts[0]
    if within in _DOCUMENTS:
        return True
    return within in _FOLDERS and any(next((folder / name).glob("*.json"), None) for name in _DOCUMENTS)


def make_own(home: Path) -> None:
    """Record that a project was made here, by this user."""
    _Book().add(home)


class _Book:
    """The user's file of own projects and trusted code; without it, nothing is remembered."""

    def __init__(self) -> None:
        self._file = person_folder() / "consent.json"

    def knows(self, home: Path) -> bool:
        """Whether a project was made here, and is still the same folder: a copy of it may hold other things."""
        try:
            identity = (home / IDENTITY).read_text()
        except (OSError, UnicodeDecodeError):
            return False
        return bool(identity) and self._read()["projects"].get(identity) == _place(home)

    def add(self, home: Path) -> None:
        """A project that was made here."""
        identity = secrets.token_urlsafe(24)
        try:
            home.mkdir(parents=True, exist_ok=True)
            write_whole(home / IDENTITY, identity.encode(), mode=0o600)
            with self._changed() as record:
                record["projects"][identity] = _place(home)
        except OSError as error:
            raise Failure(f"{error.filename or home} cannot be written: {error.strerror}") from None

    def trusted(self) -> set[str]:
        """Digests of code that the user trusts, in any project."""
        return set(self._read()["agreed"])

    def trust(self, digests: Iterable[str]) -> None:
        """Remember some more."""
        try:
            with self._changed() as record:
                record["agreed"] = sorted({*record["agreed"], *digests})
        except OSError as error:
            raise Failure(f"{self._file} cannot be written, so this would be forgotten: {error.strerror}") from None

    @contextmanager
    def _changed(self) -> Iterator[dict[str, Any]]:
        self._file.parent.mkdir(parents=True, exist_ok=True)
        with (self._file.parent / ".lock").open("w") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            record = self._read()
            yield record
            write_whole(self._file, json.dumps(record, indent=1).encode(), mode=0o600)

    def _read(self) -> dict[str, Any]:
        try:
            record = json.loads(self._file.read_bytes())
            return {"projects": dict(record["projects"]), "agreed": [str(digest) for digest in record["agreed"]]}
        except (OSError, ValueError, KeyError, TypeError):
            return {"projects": {}, "agreed": []}


def _place(home: Path) -> list[int]:
    stat = home.stat()
    return [stat.st_dev, stat.st_ino]
