"""News of the server for all open pages, as server-sent events."""

import json
import queue
import threading
from collections.abc import Iterator
from typing import Any

HEARTBEAT_SECONDS = 10.0
BACKLOG = 200


class Bulletin:
    """Hands every piece of news to every listener."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._listeners: set[queue.Queue[str]] = set()

    def tell(self, kind: str, **news: Any) -> None:
        """Tell all listeners; one who does not keep up misses news, and asks anew anyway."""
        text = f"data: {json.dumps({'kind': kind, **news})}\n\n"
        with self._lock:
            for listener in self._listeners:
                try:
                    listener.put_nowait(text)
                except queue.Full:
                    continue

    def listen(self) -> Iterator[str]:
        """Events for one page, with a heartbeat so that a closed page is noticed."""
        mine: queue.Queue[str] = queue.Queue(BACKLOG)
        with self._lock:
            self._listeners.add(mine)
        try:
            yield "retry: 1000\n\n"
            while True:
                try:
                    yield mine.get(timeout=HEARTBEAT_SECONDS)
                except queue.Empty:
                    yield ": still here\n\n"
        finally:
            with self._lock:
                self._listeners.discard(mine)
