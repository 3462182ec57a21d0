"""Media that stay open, and pictures of them, so that the next reel that shows them need not read them."""

import threading
from collections.abc import Callable, Hashable
from contextlib import suppress

from cachetools import LRUCache

from vexel.core.reel.node import Shown
from vexel.disk.changed import changed_at
from vexel.output.job.pictures import Pixels
from vexel.output.reel.draw_frame import Fitted
from vexel.output.reel.media import Media
from vexel.output.reel.open_reel import OpenReel

MOST_KEPT = 64
MOST_BYTES = 1 << 26
"""Of pictures in the size in which they were looked at: 40 of 960 × 540."""


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


class KeptPictures:
    """Frames in the sizes in which they were looked at: after an edit, most of what a picture shows is the same.

    Reading and scaling a frame of 1080p was four fifths of the time until a picture was there.
    """

    def __init__(self) -> None:
        self._kept: LRUCache[Hashable, Pixels] = LRUCache(MOST_BYTES, getsizeof=lambda pixels: pixels.nbytes)
        self._turn = threading.Lock()

    def fitted(self, reel: OpenReel) -> Fitted:
        """Gives the frames of a reel; one whose file has changed is read again."""

        def of(shown: Shown, width: int, height: int) -> Pixels:
            file = None if shown.phase is not None else reel.media[shown.ref].file(shown.frame)
            if file is None:
                return reel.fitted(shown, width, height)
            key = shown, width, height, file, changed_at(file)
            with self._turn:
                kept = self._kept.get(key)
            if kept is None:
                kept = reel.fitted(shown, width, height)
                # Nothing may draw into what the next look shows.
                kept.flags.writeable = False
                with self._turn, suppress(ValueError):
                    # One that is larger than all room is not kept.
                    self._kept[key] = kept
            return kept

        return of
