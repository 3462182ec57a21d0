"""Files of this machine's user, outside all projects, which no project can provide."""

import hashlib
import hmac
import os
import secrets
from collections.abc import Iterable
from functools import cache
from pathlib import Path

from vexel.disk.write import write_whole

KEY_BYTES = 32
SECRETS = (".session", ".push")
"""Files of a project that let a browser in, and programs that send frames."""


def person_folder() -> Path:
    """The folder for it, by the XDG Base Directory Specification."""
    base = os.environ.get("XDG_STATE_HOME") or Path("~/.local/state").expanduser()
    return Path(base) / "vexel"


def sealing_key(purpose: str) -> bytes:
    """A key for one purpose, which only this user's processes can compute.

    A valid seal proves that the content was written here. Where the user's folder cannot be
    written, the key lasts as long as this process.
    """
    return hmac.new(_secret(person_folder()), purpose.encode(), hashlib.sha256).digest()


def secrets_of(homes: Iterable[Path] = ()) -> tuple[str, ...]:
    """Files and folders that no source code may read: this user's, and those of some projects."""
    return str(person_folder()), *(str(home / name) for home in homes for name in SECRETS)


@cache
def _secret(folder: Path) -> bytes:
    file = folder / "secret"
    try:
        kept = file.read_bytes()
    except OSError:
        kept = b""
    if len(kept) == KEY_BYTES:
        return kept
    made = secrets.token_bytes(KEY_BYTES)
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        write_whole(file, made, mode=0o600)
        # Of two processes that made one at the same time, the later one stands.
        return file.read_bytes()
    except OSError:
        return made
