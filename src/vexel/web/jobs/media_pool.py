"""The media processes of a server: a few that answer what the screen asks for, and one for each long job."""

import threading
from collections import deque
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from fractions import Fraction
from pathlib import Path
from typing import Any

from vexel.core.errors import Mistake
from vexel.disk.changed import changed_at
from vexel.output.bounded.media_orders import KEPT_REELS
from vexel.output.reel.beside import Beside
from vexel.store.user_files import secrets_of
from vexel.web.jobs.media_process import MediaProcess
from vexel.workers.bounded_process import ProcessEnded
from vexel.workers.bounds.isolation import Reach
from vexel.workers.bounds.limits import compile_limits, view_limits

MOST_ASKED = 3
"""Processes for the screen: a question that takes long must not delay others."""


class MediaPool:
    """Lends media processes.

    Parameters
    ----------
    home : Path
        The project's folder, whose secrets no media process sees.
    """

    def __init__(self, home: Path) -> None:
        self._hidden = secrets_of([home])
        self._idle: list[MediaProcess] = []
        self._lent: set[MediaProcess] = set()
        self._tickets: dict[str, MediaProcess] = {}
        self._held: dict[MediaProcess, deque[int]] = {}
        self._free = threading.Condition()
        self._closed = False

    @contextmanager
    def asked(self, token: int = 0) -> Iterator[MediaProcess]:
        """A process for a short question, which writes nothing.

        Parameters
        ----------
        token : int
            Of a reel: a process that holds it already is taken where one is idle.
        """
        with self._free:
            self._free.wait_for(lambda: self._closed or self._idle or len(self._held) < MOST_ASKED)
            process = self._taken(token)
            if token not in self._held[process]:
                self._held[process].append(token)
        try:
            yield process
        finally:
            with self._free:
                self._lent.discard(process)
                self._idle.append(process)
                self._free.notify()

    @contextmanager
    def apart(self, *writes: Path, ticket: str = "") -> Iterator[MediaProcess]:
        """A process for a long job alone, which is ended with it.

        Parameters
        ----------
        *writes : Path
            Folders that it may write into.
        ticket : str
            By which `call_off` finds it.
        """
        process = MediaProcess(compile_limits(), reach=Reach(tuple(map(str, writes)), self._hidden))
        with self._free:
            if self._closed:
                raise ProcessEnded("the server is closing")
            self._lent.add(process)
            if ticket:
                self._tickets[ticket] = process
        try:
            yield process
        finally:
            with self._free:
                self._lent.discard(process)
                self._tickets.pop(ticket, None)
            process.end()

    def call_off(self, ticket: str) -> None:
        """End the process of a ticket in the middle of its work; nothing happens where there is none any more."""
        with self._free:
            process = self._tickets.get(ticket)
        if process is not None:
            process.cut()

    def close(self) -> None:
        """End all, also in the midst of their work."""
        with self._free:
            self._closed = True
            going, idle = list(self._lent), self._idle
            self._idle = []
            self._free.notify_all()
        for process in going:
            process.cut()
        for process in idle:
            process.end()

    def _taken(self, token: int) -> MediaProcess:
        if self._closed:
            raise ProcessEnded("the server is closing")
        if self._idle:
            # The one that was used last has most in its memory.
            process = next((one for one in self._idle if token in self._held[one]), self._idle[-1])
            self._idle.remove(process)
        else:
            process = MediaProcess(view_limits(), reach=Reach(hidden=self._hidden))
            self._held[process] = deque(maxlen=KEPT_REELS)
        self._lent.add(process)
        return process


class BesideReels(Beside):
    """What is known of images and sounds that reels name, asked of a media process once for each change of a file."""

    def __init__(self, pool: MediaPool, folder: Path) -> None:
        super().__init__(folder)
        self._pool = pool
        self._known: dict[tuple[str, Path], tuple[int, Any]] = {}

    def shows_image(self, name: str) -> bool:
        """See `Beside.shows_image`."""
        return bool(self._once("image", self.folder / name, lambda process: process.shows_image(self.folder, name)))

    def seconds(self, file: Path) -> Fraction:
        """See `Beside.seconds`."""

        def asked(process: MediaProcess) -> Fraction | str:
            length = process.sound_length(file)
            return length.trouble if length.seconds is None else length.seconds

        found = self._once("sound", file, asked)
        if isinstance(found, Fraction):
            return found
        raise Mistake(str(found))

    def _once(self, what: str, file: Path, ask: Callable[[MediaProcess], Any]) -> Any:
        changed = changed_at(file)
        kept = self._known.get((what, file))
        if kept is None or kept[0] != changed:
            with self._pool.asked() as process:
                kept = self._known[what, file] = changed, ask(process)
        return kept[1]
