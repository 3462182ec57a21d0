"""News of the server for all open pages: as server-sent events, or to be asked for."""

import threading
import time
from collections import deque
from collections.abc import Callable, Iterator
from queue import Empty, SimpleQueue

from vexel.core.errors import Failure
from vexel.web.schemas.news import News

HEARTBEAT_SECONDS = 1.0
"""Seconds without news after which the server sends a heartbeat, and notices a closed page."""
MOST_STREAMS = 64
"""Most streams of news: one for each browser, shared by its tabs. Each holds a thread of the server."""
KEPT = 500
"""At most this many pieces of news are kept for pages that poll, and for one that is slow to take them."""

Listener = SimpleQueue[bytes]


class Events:
    """Hands every piece of news to every listener."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._listeners: set[Listener] = set()
        # With those that were let go, until their threads have ended.
        self._streams = 0
        self._news: deque[tuple[int, News]] = deque(maxlen=KEPT)
        self._count = 0
        # A number of one server means nothing to the next.
        self._epoch = time.time_ns()
        self._closed = False

    def send(self, news: News) -> None:
        """Send news to all listeners; one who does not keep up is disconnected, and asks for all when it reconnects."""
        text = news.model_dump_json()
        with self._lock:
            self._count += 1
            self._news.append((self._count, news))
            data = f"id: {self._epoch}-{self._count}\ndata: {text}\n\n".encode()
            self._listeners = {listener for listener in self._listeners if listener.qsize() < KEPT}
            for listener in self._listeners:
                listener.put(data)

    def listen(self, gone: Callable[[], bool]) -> Iterator[bytes]:
        """News from now on, as server-sent events.

        Parameters
        ----------
        gone : callable
            Whether the page is closed.

        Raises
        ------
        Failure
            When as many listen as can.
        """
        if self._streams >= MOST_STREAMS:
            raise Failure(f"{MOST_STREAMS} browsers receive news already: close one, or request it at /api/news")
        return self._told(gone)

    def _told(self, gone: Callable[[], bool]) -> Iterator[bytes]:
        mine = Listener()
        with self._lock:
            self._listeners.add(mine)
            self._streams += 1
        try:
            yield b"retry: 1000\n\n"
            while not gone() and not self._closed and mine in self._listeners:
                try:
                    yield mine.get(timeout=HEARTBEAT_SECONDS)
                except Empty:
                    yield b"event: heartbeat\ndata:\n\n"
        finally:
            with self._lock:
                self._listeners.discard(mine)
                self._streams -= 1

    def since(self, mark: str) -> tuple[str, list[News], bool]:
        """News since a mark, for a page that asks.

        Returns
        -------
        str
            The mark to ask with the next time.
        list of News
        bool
            Whether news in between is missing, so that everything must be requested again.
        """
        with self._lock:
            now = f"{self._epoch}-{self._count}"
            epoch, _, number = mark.partition("-")
            if epoch != str(self._epoch) or not number.isdecimal():
                return now, [], bool(mark)
            new = [news for at, news in self._news if at > int(number)]
            return now, new, len(new) < self._count - int(number)

    def close(self) -> None:
        """Let all listeners go; takes no lock, so that a signal may ask for it."""
        self._closed = True
        for listener in list(self._listeners):
            listener.put(b"")
