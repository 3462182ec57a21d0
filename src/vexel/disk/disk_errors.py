"""What a disk or a database refuses, as a sentence with the cure."""

import errno
import sqlite3
from pathlib import Path

_FULL = (errno.ENOSPC, errno.EDQUOT)
_CLOSED = (errno.EACCES, errno.EPERM, errno.EROFS)
_OF_SQLITE = {
    sqlite3.SQLITE_FULL: errno.ENOSPC,
    sqlite3.SQLITE_IOERR: errno.EIO,
    sqlite3.SQLITE_READONLY: errno.EROFS,
    sqlite3.SQLITE_CANTOPEN: errno.EACCES,
    sqlite3.SQLITE_PERM: errno.EACCES,
}
_DAMAGED = (sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB)


def disk_trouble(error: BaseException, folder: Path) -> str:
    """Why a folder takes no more files, and the cure; empty where the error is of another sort.

    Parameters
    ----------
    folder : Path
        That was to be written, or that holds the database.
    """
    # SQLAlchemy wraps what SQLite raises. It is not imported: stage processes start faster without it.
    cause = getattr(error, "orig", error)
    if isinstance(cause, sqlite3.Error):
        # The low byte is the code itself, the others say more about it.
        code = getattr(cause, "sqlite_errorcode", 0) & 0xFF
        if code in _DAMAGED:
            return f"The database of {folder} is damaged: put a copy of vexel.db back, or move it away."
        number = _OF_SQLITE.get(code)
    else:
        number = error.errno if isinstance(error, OSError) else None
    if number in _FULL:
        return f"The disk that holds {folder} is full. Free some space, then go on: all that is finished is kept."
    if number in _CLOSED:
        return f"{folder} cannot be written. Mend its permissions, then go on: all that is finished is kept."
    if number == errno.EIO:
        return f"The disk that holds {folder} failed or is full. Mend that, then go on: all that is finished is kept."
    return ""
