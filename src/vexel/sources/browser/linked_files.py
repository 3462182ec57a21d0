"""Files that a page draws on: all of its own folder, or what its texts name."""

import re
from collections.abc import Iterator
from pathlib import Path

from vexel.core.errors import Mistake

TEXTS = (".html", ".htm", ".svg", ".css", ".js", ".mjs", ".json")
MAX_FILES = 5000
MAX_BYTES = 1024**3
_NAMED = re.compile(rb"""["'(=\s]([\w@%./ -]{1,200}\.[A-Za-z0-9]{1,6})(?:[?#][^"')\s]*)?["')\s>]""")


def linked_files(file: Path) -> Iterator[Path]:
    """Files beside a page.

    A page named index.html has its folder to itself; any other is taken to
    need what its own text names, and what those texts name in turn.

    Raises
    ------
    Mistake
        When that is more than a page may be.
    """
    if file.suffix.lower() == ".zip":
        return
    found = _all(file.parent) if file.stem.lower() == "index" else _named(file)
    count = total = 0
    for path in found:
        count, total = count + 1, total + path.stat().st_size
        if count > MAX_FILES or total > MAX_BYTES:
            raise Mistake(
                f"the folder of {file.name} holds more than the {MAX_FILES:,} files or {MAX_BYTES // 1024**2:,} MB "
                "that a page may have: put the page into a folder of its own"
            )
        yield path


def _all(folder: Path) -> Iterator[Path]:
    return (path for path in folder.rglob("*") if path.is_file() and not path.name.startswith("."))


def _named(file: Path) -> Iterator[Path]:
    seen, waiting = {file}, [file]
    while waiting:
        text = waiting.pop()
        for name in {match.decode("utf-8", "replace") for match in _NAMED.findall(text.read_bytes())}:
            for base in (text.parent, file.parent):
                path = (base / name.lstrip("/")).resolve()
                if path in seen or not path.is_relative_to(file.parent.resolve()) or not path.is_file():
                    continue
                seen.add(path)
                yield path
                if path.suffix.lower() in TEXTS:
                    waiting.append(path)
