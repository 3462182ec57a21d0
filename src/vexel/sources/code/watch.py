"""What a program reads beside its own files: files elsewhere, the environment, the network, programs and the clock.

Python reports most such calls to audit hooks (PEP 578); the clock and the system's random numbers are functions that
are wrapped. What libraries read for themselves, such as fonts, does not count. Of what native code reads, only the
absolute paths in the program's texts are known.
"""

import ast
import os
import random
import sys
import tempfile
import time
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from functools import partial, update_wrapper
from pathlib import Path
from typing import Any

from vexel.sources.code.named_files import asks_for_the_time, places_in
from vexel.sources.code.redirect import is_copy

MOST = 100
"""Readings that are remembered of a program."""
Reading = tuple[str, str]
"""Of what kind, one of file, folder, environment, network, program, clock, entropy; and its name."""
_HOME = Path.home()
_SYSTEM = ("/usr/", "/lib/", "/lib64/", "/bin/", "/etc/", "/proc/", "/sys/", "/dev/", "/var/cache/", "/var/lib/")
_WRITES = os.O_WRONLY | os.O_CREAT | os.O_TRUNC
_FOLDERS = ("os.listdir", "os.scandir")
_PROGRAMS = ("subprocess.Popen", "os.system", "os.exec", "os.posix_spawn")
_NETWORK = ("socket.connect", "socket.getaddrinfo", "socket.sendto")
_watching: list["Watch"] = []
"""The program that runs now, last; hooks cannot be removed, so there is one for the whole process."""


class Watch:
    """Remembers what a program reads while it runs.

    Parameters
    ----------
    folder : Path
        The program's own, in which it may read.
    """

    def __init__(self, folder: Path) -> None:
        self._own = f"{folder.resolve()}{os.sep}"
        self._passed = (
            self._own, f"{Path(sys.prefix).resolve()}{os.sep}", f"{Path(sys.base_prefix).resolve()}{os.sep}",
            f"{Path(__file__).resolve().parents[3]}{os.sep}", f"{Path(tempfile.gettempdir()).resolve()}{os.sep}",
            *(f"{_HOME / name}{os.sep}" for name in (".cache", ".config", ".fonts", ".local", ".matplotlib", ".pyenv")),
            *_SYSTEM,
        )  # fmt: skip
        self._seen: dict[Reading, None] = {}

    @property
    def readings(self) -> list[Reading]:
        """What it read, in the order in which it did first."""
        return list(self._seen)

    @contextmanager
    def watching(self) -> Iterator[None]:
        """Take note of what is read meanwhile."""
        _install()
        _watching.append(self)
        try:
            yield
        finally:
            _watching.pop()

    def note(self, kind: str, name: str) -> None:
        """Remember a reading."""
        if len(self._seen) < MOST:
            self._seen[kind, name] = None

    def note_path(self, kind: str, path: Any) -> None:
        """Record that a file or a folder was read, if it belongs to neither the source nor a library."""
        if not isinstance(path, (str, bytes, os.PathLike)):
            return
        # Only spelled out: looking it up would be reported too.
        whole = os.path.normpath(os.path.join(os.getcwd(), os.fsdecode(path)))  # noqa: PTH109, PTH118
        known = f"{whole}{os.sep}".startswith(self._passed) or "site-packages" in whole or is_copy(whole)
        if not known:
            self.note(kind, whole)

    def note_texts(self, trees: Iterable[ast.Module]) -> None:
        """Remember what the program's text tells: absolute paths of files that are there, and calls of dates."""
        for tree in trees:
            if asks_for_the_time(tree):
                self.note("clock", "")
            for text in places_in(tree):
                place = Path(text).expanduser()
                with suppress(OSError):
                    if place.is_file():
                        self.note_path("file", place)

    def is_behind(self, depth: int = 2) -> bool:
        """Whether the program itself, or a library for it, asks; not for the name of a temporary file."""
        frame, own = sys._getframe(depth), False
        while frame is not None:
            name = frame.f_code.co_filename
            if name.endswith("tempfile.py"):
                return False
            own = own or name.startswith(self._own)
            frame = frame.f_back  # type: ignore[assignment]
        return own

    def is_own_code(self, depth: int = 2) -> bool:
        """Whether the program itself asks, and not a library that it uses."""
        frame = sys._getframe(depth)
        while frame is not None:
            name = frame.f_code.co_filename
            if not name.endswith(("os.py", "_collections_abc.py")) and not name.startswith("<frozen"):
                return name.startswith(self._own)
            frame = frame.f_back  # type: ignore[assignment]
        return False


_installed = False


def _install() -> None:
    global _installed  # noqa: PLW0603 (an audit hook is installed once a process)
    if _installed:
        return
    _installed = True
    sys.addaudithook(_heard)
    variables: Any = type(os.environ)
    read = variables.__getitem__

    def watched(self: Any, key: Any) -> Any:
        if _watching and self is os.environ and _watching[-1].is_own_code():
            _watching[-1].note("environment", str(key))
        return read(self, key)

    variables.__getitem__ = watched
    for name, usual in _CLOCKS.items():
        _wrap(time, name, usual)
    for module, name in ((os, "urandom"), (random, "_urandom")):
        _wrap(module, name, None)


_CLOCKS = {"time": 0, "time_ns": 0, "localtime": 0, "gmtime": 0, "ctime": 0, "asctime": 0, "strftime": 1}
"""Functions that return the present time where they are given at most this number of arguments."""


def _wrap(module: Any, name: str, usual: int | None) -> None:
    """Report calls of a function: of the clock, or of the system's random numbers where `usual` is None."""
    asked = getattr(module, name)

    def watched(*given: Any) -> Any:
        if _watching:
            watch = _watching[-1]
            if usual is None and watch.is_behind():
                watch.note("entropy", "")
            elif usual is not None and len(given) <= usual and watch.is_own_code():
                watch.note("clock", "")
        return asked(*given)

    # No function, which a class would take for a method; named as the usual one, since libraries read that.
    setattr(module, name, update_wrapper(partial(watched), asked))


def _heard(event: str, given: tuple[Any, ...]) -> None:
    if not _watching:
        return
    watch = _watching[-1]
    if event == "open":
        path, mode, flags = (*given, None, 0)[:3]
        writes = (isinstance(mode, str) and "r" not in mode and "+" not in mode) or (mode is None and flags & _WRITES)
        if not writes:
            watch.note_path("file", path)
    elif event in _FOLDERS:
        watch.note_path("folder", given[0])
    elif event in _NETWORK:
        watch.note("network", "")
    elif event in _PROGRAMS:
        watch.note("program", str(given[0])[:100])
