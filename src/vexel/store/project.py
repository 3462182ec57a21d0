"""A project: one folder with shots, sources, frames, files and a database."""

import re
import secrets
from pathlib import Path

from alembic.util.exc import CommandError
from sqlalchemy.exc import DatabaseError

from vexel.core.errors import Failure
from vexel.disk.scratch import sweep_parts
from vexel.disk.write import write_whole
from vexel.store.database import open_database
from vexel.store.documents.reels import ReelStore
from vexel.store.documents.shots import ShotStore
from vexel.store.facts_cache import FactsTable
from vexel.store.folder_take import unwritable
from vexel.store.frames import FrameStore
from vexel.store.outputs import OutputStore
from vexel.store.recipes import RecipeStore
from vexel.store.reviews.figures import FigureStore
from vexel.store.reviews.notes import NoteStore
from vexel.store.takes import Ledger
from vexel.store.texts import TextStore
from vexel.store.user_files import SECRETS

SESSION, PUSH = SECRETS
SECRET_BYTES = 32
SECRET_LETTERS = 43
"""Length of the secret's bytes in URL-safe base64."""


class Project:
    """Everything that is kept, opened.

    Parameters
    ----------
    home : Path
        Made when it is not there.

    Raises
    ------
    Failure
        When the folder cannot be written.
    """

    def __init__(self, home: Path) -> None:
        self.home = home.absolute()
        self.sources = self.home / "sources"
        self.copies = self.home / "copies"
        self.files = self.home / "outputs"
        self.glances = self.home / "glances"
        self.reviewed = self.home / "reviewed"
        try:
            for folder in (
                self.home / "shots",
                self.home / "reels",
                self.sources,
                self.copies,
                self.files,
                self.glances,
            ):
                folder.mkdir(parents=True, exist_ok=True)
            sessions = open_database(self.home / "vexel.db")
        except OSError as error:
            raise unwritable(self.home, error) from None
        except (DatabaseError, CommandError) as error:
            raise Failure(
                f"{self.home / 'vexel.db'} cannot be opened ({_why(error)}): put a copy of it back, or move it away, "
                "and the project starts with its shots and no runs"
            ) from None
        self.sessions = sessions
        self.shots = ShotStore(self.home / "shots", sessions)
        self.reels = ReelStore(self.home / "reels", sessions)
        self.ledger = Ledger(FrameStore(self.home / "frames", sessions), sessions)
        self.outputs = OutputStore(sessions)
        self.recipes = RecipeStore(self.home / "recipes")
        self.facts = FactsTable(sessions)
        self.texts = TextStore(self.home, sessions)
        self.figures = FigureStore(sessions)
        self.notes = NoteStore(sessions)

    def sweep(self) -> None:
        """Delete what killed processes left unfinished."""
        for name in ("shots", "reels", "frames"):
            sweep_parts(self.home / name)
        for folder in (self.sources, self.copies, self.files, self.glances):
            sweep_parts(folder)

    def secret(self) -> str:
        """The session secret, kept so that an open browser outlives a restart."""
        return self._kept_secret(SESSION)

    def renew_secrets(self) -> None:
        """Make new ones, which nobody who had the project before can know."""
        for name in (SESSION, PUSH):
            (self.home / name).unlink(missing_ok=True)

    def push_key(self) -> str:
        """What programs that hand over frames must know."""
        return self._kept_secret(PUSH)

    def _kept_secret(self, name: str) -> str:
        file = self.home / name
        try:
            kept = file.read_text()
        except (OSError, UnicodeDecodeError):
            kept = ""
        # One that was cut short, by a full disk or a power cut, would be guessed, and is replaced.
        if re.fullmatch(rf"[\w-]{{{SECRET_LETTERS}}}", kept):
            return kept
        secret = secrets.token_urlsafe(SECRET_BYTES)
        try:
            write_whole(file, secret.encode(), mode=0o600)
        except OSError as error:
            raise Failure(f"{file} cannot be kept: {error.strerror}") from None
        return secret


def _why(error: Exception) -> str:
    """The short reason of a database's error."""
    if isinstance(error, CommandError):
        return "its tables are of a newer version of Vexel, or of one from before 30 November 2026"
    return str(getattr(error, "orig", None) or error).splitlines()[0]
