"""Rows of a ledger as they come: appended to a file beside it, so that a killed program loses none.

The ledger is one JSON document and is written whole. While a program records, each row is a line of the journal, which
is read with the ledger until the recording is closed. The open journal is the lock of its folder.
"""

import errno
import fcntl
import json
import os
from pathlib import Path
from typing import Any

from vexel.core.errors import Failure, Mistake

JOURNAL = ".take.rows"


class RowJournal:
    """A journal, open for one writer.

    Parameters
    ----------
    folder : Path
        There already.

    Raises
    ------
    Mistake
        When another program records into the folder.
    Failure
        When its disk has no locks.
    OSError
        When the folder cannot be written.
    """

    def __init__(self, folder: Path) -> None:
        self._file = folder / JOURNAL
        self._lines = self._locked()
        while not self._is_at_its_place():
            # The one before removed it between its opening and its locking.
            os.close(self._lines)
            self._lines = self._locked()

    def _locked(self) -> int:
        lines = os.open(self._file, os.O_CREAT | os.O_RDWR | os.O_APPEND | os.O_CLOEXEC, 0o666)
        try:
            fcntl.flock(lines, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            os.close(lines)
            folder = self._file.parent
            if isinstance(error, BlockingIOError):
                raise Mistake(f"another program records into {folder}: end it first, or name another folder") from None
            raise Failure(
                f"{folder} is on a disk without locks ({error.strerror}), so that two programs could record into it at "
                "once: name a folder on a local disk"
            ) from None
        return lines

    def _is_at_its_place(self) -> bool:
        try:
            there = self._file.stat()
        except FileNotFoundError:
            return False
        held = os.fstat(self._lines)
        return (there.st_dev, there.st_ino) == (held.st_dev, held.st_ino)

    def begin(self, recording: str) -> None:
        """Remove all rows, and begin those of a recording with this identifier."""
        os.ftruncate(self._lines, 0)
        self.add({"recording": recording})

    def add(self, row: dict[str, Any]) -> None:
        """Append a row.

        Raises
        ------
        OSError
            When the disk is full; the rows before stay.
        """
        line, before = json.dumps(row).encode() + b"\n", os.fstat(self._lines).st_size
        if os.write(self._lines, line) < len(line):
            os.ftruncate(self._lines, before)
            raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    def leave(self, whole: bool) -> None:
        """Let others record; where the ledger holds all rows, or there are none, nothing stays."""
        if whole or os.fstat(self._lines).st_size == 0:
            self._file.unlink(missing_ok=True)
        os.close(self._lines)


def journal_rows(folder: Path, recording: str) -> list[dict[str, Any]]:
    """Rows of a recording that its journal holds; none where there is none, or another's."""
    try:
        lines = (folder / JOURNAL).read_bytes().split(b"\n")
    except OSError:
        return []
    rows: list[dict[str, Any]] = []
    for line in lines[:-1]:  # what follows the last end of a line was cut off
        try:
            rows.append(json.loads(line))
        except ValueError:
            break
    if not rows or rows[0] != {"recording": recording}:
        return []
    return rows[1:]
