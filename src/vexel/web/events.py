"""News of the server for all open pages: as server-sent events, or to be asked for."""

import json
import threading
import time
from collections import deque
from typing import Any

from vexel.web.connections import Stream

HEARTBEAT_SECONDS = 10.0
KEPT = 500
"""So much news is kept for pages that ask for it now and then."""


class Events:
    """Hands every piece of news to every listener."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._listeners: set[Stream] = set()
        self._news: deque[tuple[int, str]] = deque(maxlen=KEPT)
        self._count = 0
        # A number of one server means nothing to the next.
        self._epoch = time.time_ns()
        self._closed = threading.Event()
        threading.Thread(target=self._keep_alive, daemon=True).start()

    def tell(self, kind: str, **news: Any) -> None:
        """Tell all listeners; one who does not keep up is let go, and asks anew when it comes back."""
        text = json.dumps({"kind": kind, **news})
        with self._lock:
            self._count += 1
            self._news.append((self._count, text))
        self._send(f"id: {self._epoch}-{self._count}\ndata: {text}\n\n".encode())

    def listen(self, stream: Stream) -> None:
        """Tell this page too, from now on."""
        with self._lock:
            self._listeners.add(stream)

    def since(self, mark: str) -> tuple[str, list[dict[str, Any]], bool]:
        """News since a mark, for a page that asks.

        Returns
        -------
        str
            The mark to ask with the next time.
        list of dict
        bool
            Whether something is missing between, so that all must be asked anew.
        """
        with self._lock:
            now = f"{self._epoch}-{self._count}"
            epoch, _, number = mark.partition("-")
            if epoch != str(self._epoch) or not number.isdecimal():
                return now, [], bool(mark)
            new = [json.loads(text) for at, text in self._news if at > int(number)]
            return now, new, len(new) < self._count - int(number)

    def close(self) -> None:
        """Let all listeners go."""
        self._closed.set()
        with self._lock:
            listeners, self._listeners = self._listeners, set()
        for listener in listeners:
            listener.close()

    def _send(self, data: bytes) -> None:
        with self._lock:
            listeners = list(self._listeners)
        gone = {listener for listener in listeners if not listener.send(data)}
        if gone:
            with self._lock:
                self._listeners -= gone

    def _keep_alive(self) -> None:
        """A heartbeat, by which a page and the server notice that the other is gone."""
        while not self._closed.wait(HEARTBEAT_SECONDS):
            self._send(b": still here\n\n")
