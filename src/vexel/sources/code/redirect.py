"""Gives code the copies of files that it declares to read beyond its own folder, in place of the files themselves.

Python's own functions for files are wrapped; libraries that open a file in native code are not reached. So a place
that changes while frames are made does no harm where Python opens it, and ends the work where Python was not seen to.
"""

import builtins
import io
import os
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, suppress
from functools import partial, update_wrapper
from pathlib import Path
from typing import Any

from vexel.core.errors import SourceError
from vexel.core.evaluate.source_facts import OutsideAt
from vexel.sources.content_copy import sha256
from vexel.sources.outside_files import files_of

_FUNCTIONS = ((builtins, "open"), (io, "open"), *((os, name) for name in (
    "open", "stat", "lstat", "access", "listdir", "scandir",
)))  # fmt: skip
_places: dict[str, OutsideAt] = {}
_opened: set[str] = set()
"""Files that Python opened since they are redirected; one that is only listed may be opened by a library."""
_installed = False


def redirect(outside: Sequence[OutsideAt]) -> None:
    """Give code these copies, and no others, from now on."""
    if outside:
        _install()
    _places.clear()
    _opened.clear()
    _places.update((one.place, one) for one in outside)


def is_copy(path: str) -> bool:
    """Whether a path is that of a copy, or of a file in it."""
    return any(is_within(path, str(one.copy)) for one in _places.values())


def is_within(path: str, place: str) -> bool:
    """Whether a path is that of a file or folder, or of something in it."""
    return path == place or path.startswith(f"{place}{os.sep}")


def check_unchanged() -> None:
    """Refuse a frame that may have been made of something else than what was planned.

    Raises
    ------
    SourceError
        When a place changed, and code may read it without Python.
    """
    named = [one for one in _places.values() if Path(one.name).is_absolute() or one.name.startswith("~")]
    with _as_it_is():
        changed = [file for one in named for file in _changed(one)]
    if changed:
        raise SourceError(
            f"{changed[0]} changed since the shot was planned, and the code may read it with a library that opens "
            "files itself: capture the shot again, put the file back, or declare only the files that are read"
        )


def _changed(one: OutsideAt) -> Iterator[Path]:
    """Files of a place that Python did not open, and that are not what was copied."""
    place = Path(one.place)
    for inner in files_of(place):
        file, copy = place / inner, one.copy / inner
        if str(file) not in _opened and not (copy.is_file() and sha256(copy) == sha256(file)):
            yield file


@contextmanager
def _as_it_is() -> Iterator[None]:
    """Redirect nothing meanwhile."""
    places = dict(_places)
    _places.clear()
    try:
        yield
    finally:
        _places.update(places)


def _sent(path: Any, opens: bool) -> Any:
    """A path, or that of the copy in its place."""
    if not _places or not isinstance(path, str | bytes | os.PathLike):
        return path
    whole = os.path.normpath(os.path.join(os.getcwd(), os.fsdecode(path)))  # noqa: PTH109, PTH118
    for place, one in _places.items():
        if opens and is_within(whole, str(one.copy)):
            # By a path that a listing gave.
            _opened.add(f"{place}{whole[len(str(one.copy)) :]}")
        if is_within(whole, place):
            if opens:
                _opened.add(whole)
            copy = f"{one.copy}{whole[len(place) :]}"
            return os.fsencode(copy) if isinstance(os.fspath(path), bytes) else copy
    return path


def _install() -> None:
    global _installed  # noqa: PLW0603 (Python's own functions are wrapped once a process)
    if _installed:
        return
    _installed = True
    for module, name in _FUNCTIONS:
        _wrap(module, name)
    with suppress(ImportError, AttributeError):
        # NumPy's readers of text have remembered the function that opens files.
        from numpy.lib import _datasource

        _datasource._file_openers._file_openers[None] = io.open  # type: ignore[attr-defined]


def _wrap(module: Any, name: str) -> None:
    usual = getattr(module, name)

    def sent(*given: Any, **named: Any) -> Any:
        opens = name == "open"
        if given:
            return usual(_sent(given[0], opens), *given[1:], **named)
        return usual(**{key: _sent(value, opens) if key in ("file", "path") else value for key, value in named.items()})

    # No function, which a class would take for a method; named as the usual one, since libraries read that.
    setattr(module, name, update_wrapper(partial(sent), usual))
