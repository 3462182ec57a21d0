"""What a disk or a database refuses, as a sentence with the cure."""

import errno
import os
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
_CURES = {
    errno.EACCES: "change its permissions, or choose another place",
    errno.EPERM: "change its permissions, or choose another place",
    errno.EROFS: "choose a place that can be written",
    errno.ENOSPC: "free some space, then run the same command again",
    errno.EDQUOT: "free some space, then run the same command again",
    errno.ENAMETOOLONG: "choose a shorter name",
    errno.ELOOP: "its symbolic links lead in a circle",
    errno.EIO: "the disk failed: copy what matters to another one",
    errno.ENOLCK: "this disk has no locks: choose a local one",
}
_BUSY = (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED, sqlite3.SQLITE_PROTOCOL)
_DAMAGED = (sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB)


def os_sentence(error: OSError) -> str:
    """What the system refused, about which file, and what to do."""
    name = error.filename if error.filename2 is None else error.filename2
    which = f"{os.fsdecode(name)}: " if isinstance(name, str | bytes) else ""
    return which + refusal(error)


def refusal(error: OSError) -> str:
    """What the system refused, and what to do."""
    cure = _CURES.get(error.errno or 0, "")
    return f"{error.strerror or error}" + (f"; {cure}" if cure else "")


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
        if code in _BUSY:
            return f"Another program holds the database of {folder}: end that, then try again."
        number = _OF_SQLITE.get(code)
    else:
        number = error.errno if isinstance(error, OSError) else None
    if number in _FULL:
        return f"The disk that holds {folder} is full. Free some space, then continue: all finished work is kept."
    if number in _CLOSED:
        return f"{folder} cannot be written. Fix its permissions, then continue: all finished work is kept."
    if number == errno.EIO:
        return f"The disk that holds {folder} failed or is full. Fix that, then continue: all finished work is kept."
    return ""
