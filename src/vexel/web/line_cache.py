"""Lines of a list, kept for as long as nothing that they were made of changes."""

import threading
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

from cachetools import LRUCache

L = TypeVar("L")
MOST = 5000


class KeptLines(Generic[L]):
    """Lines by the names of what they show."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._kept: LRUCache[str, tuple[Hashable, L]] = LRUCache(MOST)

    def line(self, name: str, stamp: Hashable, make: Callable[[], L]) -> L:
        """The line of a name, made again where the stamp is another one.

        Parameters
        ----------
        stamp : hashable
            All that decides the line; None where that cannot be known.
        """
        with self._lock:
            kept = self._kept.get(name)
        if kept is not None and stamp is not None and kept[0] == stamp:
            return kept[1]
        made = make()
        with self._lock:
            self._kept[name] = (stamp, made)
        return made
