"""The user's request to stop, which every phase of the work checks."""

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from vexel.core.errors import Stopped


class Stop:
    """Asked for once, from any thread or signal handler."""

    def __init__(self) -> None:
        self._asked = threading.Event()
        # Reentrant, since a signal may come while the same thread is in here.
        self._lock = threading.RLock()
        self._ends: list[Callable[[], object]] = []

    @property
    def asked(self) -> bool:
        """Whether it was asked for."""
        return self._asked.is_set()

    def ask(self) -> None:
        """Ask for the end, and cut short what cannot look for itself."""
        self._asked.set()
        with self._lock:
            ends = list(self._ends)
        for end in ends:
            end()

    def check(self) -> None:
        """Return, or raise when a stop was requested.

        Raises
        ------
        Stopped
        """
        if self.asked:
            raise Stopped

    @contextmanager
    def cutting(self, end: Callable[[], object]) -> Iterator[None]:
        """Call `end` when the stop comes during the block, or came before it."""
        with self._lock:
            self._ends.append(end)
        try:
            if self.asked:
                end()
            yield
        finally:
            with self._lock:
                self._ends.remove(end)


class Pause:
    """Asked for and ended at any time, from any thread: no new frame is begun meanwhile."""

    def __init__(self) -> None:
        self._asked = threading.Event()

    @property
    def asked(self) -> bool:
        """Whether the work pauses, or is about to."""
        return self._asked.is_set()

    def ask(self) -> None:
        """Pause once the running frames are done."""
        self._asked.set()

    def end(self) -> None:
        """Continue."""
        self._asked.clear()
