"""Settings of a project, which travel with its folder."""

import hashlib
import json
from pathlib import Path

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from vexel.core.errors import Failure, Mistake
from vexel.core.validation_message import validation_message
from vexel.disk.disk_errors import refusal
from vexel.disk.room import Room, room_of
from vexel.disk.write import write_whole

NAME = "settings.json"
MOST_BYTES = 100_000


class Settings(BaseModel):
    """Settings of a project.

    Attributes
    ----------
    on_end : list of str
        A command that runs when a capture ends, fails or pauses: a program and
        its arguments; empty for none.
    keep_free_mb : float or None
        Megabytes of the disk that captures leave free; None for as set up.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    on_end: list[str] = Field(default=[], max_length=50)
    keep_free_mb: float | None = Field(default=None, ge=0, le=1e9, allow_inf_nan=False)

    @property
    def digest(self) -> str:
        """Of the command, for the consent that it may run."""
        return hashlib.sha256(json.dumps(["on_end", self.on_end]).encode()).hexdigest()


def read_settings(home: Path) -> Settings:
    """The settings of a project; the usual ones where there is no file.

    Raises
    ------
    Mistake
        When the file is wrong.
    """
    file = home / NAME
    try:
        if not file.is_file():
            return Settings()
        with file.open("rb") as opened:
            return Settings.model_validate_json(opened.read(MOST_BYTES))
    except OSError as error:
        raise Mistake(f"{file} cannot be read: {error.strerror}") from None
    except ValidationError as error:
        raise Mistake(f"{file}: {validation_message(error, Settings)}") from None


def project_room(home: Path) -> Room:
    """The disk of a project, with what its settings leave free."""
    return room_of(home, read_settings(home).keep_free_mb)


def write_settings(home: Path, settings: Settings) -> None:
    """Save the settings of a project.

    Raises
    ------
    Failure
        When the file cannot be written.
    """
    try:
        write_whole(home / NAME, settings.model_dump_json(indent=2).encode())
    except OSError as error:
        raise Failure(f"{home / NAME} cannot be written: {refusal(error)}") from None
