"""One server a project: a lock that goes with its process, however that ends."""

import fcntl
import json
import os
from pathlib import Path

from vexel.core.errors import Failure

NAME = ".server"


class HomeLock:
    """Holds a project's folder for this process.

    Parameters
    ----------
    home : Path
    address : str
        The address of this server, for others who want the project too.

    Raises
    ------
    Failure
        When another server has it, or its disk has no locks.
    """

    def __init__(self, home: Path, address: str) -> None:
        file = home / NAME
        try:
            home.mkdir(parents=True, exist_ok=True)
            self._held = os.open(file, os.O_CREAT | os.O_RDWR | os.O_CLOEXEC, 0o600)
        except OSError as error:
            raise Failure(f"{file} cannot be written: {error.strerror}") from None
        try:
            fcntl.flock(self._held, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            owner = _told(file)
            os.close(self._held)
            if not isinstance(error, BlockingIOError):
                raise Failure(
                    f"{home} is on a disk without locks ({error.strerror}), so that two servers could write to it "
                    "at once: move the project to a local disk, or choose another folder with --home"
                ) from None
            raise Failure(
                f"{home} is open already, in {owner}: use that, end it first, or choose another folder with --home"
            ) from None
        os.ftruncate(self._held, 0)
        os.pwrite(self._held, json.dumps({"process": os.getpid(), "address": address}).encode(), 0)

    def release(self) -> None:
        """Let others have it."""
        os.close(self._held)


def _told(file: Path) -> str:
    try:
        who = json.loads(file.read_bytes())
        return f"the Vexel of process {int(who['process'])} at {who['address']}"
    except (OSError, ValueError, KeyError, TypeError):
        return "another Vexel"
