"""News of the server for all open pages: as server-sent events, or to be asked for."""

import threading
import time
from collections import deque

from vexel.web.connections import Stream
from vexel.web.schemas.news import News

HEARTBEAT_SECONDS = 10.0
KEPT = 500
"""At most this many pieces of news are kept for pages that poll."""


class Events:
    """Hands every piece of news to every listener."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._listeners: set[Stream] = set()
        self._news: deque[tuple[int, News]] = deque(maxlen=KEPT)
        self._count = 0
        # A number of one server means nothing to the next.
        self._epoch = time.time_ns()
        self._closed = threading.Event()
        threading.Thread(target=self._keep_alive, daemon=True).start()

    def send(self, news: News) -> None:
        """Send news to all listeners; one who does not keep up is let go, and asks anew when it comes back."""
        text = news.model_dump_json()
        with self._lock:
            self._count += 1
            self._news.append((self._count, news))
        self._pass_on(f"id: {self._epoch}-{self._count}\ndata: {text}\n\n".encode())

    def listen(self, stream: Stream) -> None:
        """Send news to this page too, from now on."""
        with self._lock:
            self._listeners.add(stream)

    def since(self, mark: str) -> tuple[str, list[News], bool]:
        """News since a mark, for a page that asks.

        Returns
        -------
        str
            The mark to ask with the next time.
        list of News
        bool
            Whether something is missing between, so that all must be asked anew.
        """
        with self._lock:
            now = f"{self._epoch}-{self._count}"
            epoch, _, number = mark.partition("-")
            if epoch != str(self._epoch) or not number.isdecimal():
                return now, [], bool(mark)
            new = [news for at, news in self._news if at > int(number)]
            return now, new, len(new) < self._count - int(number)

    def close(self) -> None:
        """Let all listeners go."""
        self._closed.set()
        with self._lock:
            listeners, self._listeners = self._listeners, set()
        for listener in listeners:
            listener.close()

    def _pass_on(self, data: bytes) -> None:
        with self._lock:
            listeners = list(self._listeners)
        gone = {listener for listener in listeners if not listener.send(data)}
        if gone:
            with self._lock:
                self._listeners -= gone

    def _keep_alive(self) -> None:
        """A heartbeat, by which a page and the server notice that the other is gone."""
        while not self._closed.wait(HEARTBEAT_SECONDS):
            self._pass_on(b": still here\n\n")
