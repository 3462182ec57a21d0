"""Media that stay open, so that the next reel that shows them need not open them."""

import threading
from collections.abc import Callable, Hashable

from cachetools import LRUCache

from vexel.output.reel.media import Media

MOST_KEPT = 64


class KeptMedia:
    """Opens media once, by what tells them from others."""

    def __init__(self) -> None:
        self._open: LRUCache[Hashable, Media] = LRUCache(MOST_KEPT)
        self._turn = threading.Lock()

    def of(self, key: Hashable, make: Callable[[], Media]) -> Media:
        """The media of a key, opened where they are not open yet."""
        with self._turn:
            kept = self._open.get(key)
        if kept is None:
            # Two that want the same at once open it twice, which is sooner than waiting for what others want.
            kept = make()
            with self._turn:
                self._open[key] = kept
        return kept
