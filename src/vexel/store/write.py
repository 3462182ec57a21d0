"""Writing a file so that it is there whole or not at all."""

import os
import secrets
from pathlib import Path


def write_whole(path: Path, data: bytes, mode: int | None = None) -> None:
    """Write to a temporary name beside `path`, flush to the disk, then rename; `mode` says who may read it.

    Raises
    ------
    OSError
        When the folder cannot be written or the disk is full; nothing is left behind.
    """
    # Of its own for every call: two threads may write the same file, and the later one counts.
    temporary = path.with_name(f".{path.name}.{os.getpid()}.{secrets.token_hex(4)}.part")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with temporary.open("wb") as file:
            if mode is not None:
                os.fchmod(file.fileno(), mode)
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        temporary.rename(path)
    except OSError:
        temporary.unlink(missing_ok=True)
        raise
