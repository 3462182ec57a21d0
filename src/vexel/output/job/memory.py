"""Memory of a compile: frames that are kept for another round, and what the allocator does between pictures."""

import ctypes
import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from vexel.output.job.pictures import Pixels

ROOM_SHARE, MOST_ROOM = 4, 1 << 30
"""Of the free memory, and bytes at most, that frames are kept in for another round."""
_TRIM_THRESHOLD, _MMAP_THRESHOLD, _PERTURB, _ARENA_MAX = -1, -3, -6, -8
"""Numbers of glibc's mallopt."""
_ZEROS = 255
"""New memory is filled with the complement of this byte (mallopt(3))."""


class KeptFrames:
    """Frames that were read, for the next round; so many as there is room for."""

    def __init__(self) -> None:
        self._room = room(ROOM_SHARE, MOST_ROOM)
        self._frames: dict[int, Pixels] = {}

    def frame(self, position: int, read: Callable[[], Pixels], again: bool) -> Pixels:
        """A frame, read only if it is not kept; `again` marks one that may be needed once more."""
        pixels = self._frames.get(position)
        if pixels is None:
            pixels = read()
            if again and pixels.nbytes <= self._room:
                self._room -= pixels.nbytes
                self._frames[position] = pixels
        return pixels


def room(share: int, most: int) -> int:
    """Bytes for pictures: 1/`share` of the free memory, and `most` at most."""
    try:
        pages, size = os.sysconf("SC_AVPHYS_PAGES"), os.sysconf("SC_PAGE_SIZE")
    except (ValueError, OSError):
        return 0
    return min(pages * size // share, most)


@contextmanager
def memory_reused() -> Iterator[None]:
    """Let what a picture took serve the next one, and give it back at the end.

    By default glibc gives memory of that size back to the system, which clears each page before it gives it again:
    half of all that the system does for a compile. Other libraries keep their setting.
    """
    libc = _libc()
    if libc is None:
        yield
        return
    libc.mallopt(_MMAP_THRESHOLD, 1 << 25)
    libc.mallopt(_TRIM_THRESHOLD, 1 << 30)
    # Else each thread keeps its own.
    libc.mallopt(_ARENA_MAX, os.cpu_count() or 1)
    try:
        yield
    finally:
        libc.malloc_trim(0)


@contextmanager
def memory_zeroed() -> Iterator[None]:
    """Let memory that is allocated in a block hold zeros.

    libx264's look-ahead compares costs that it has not set: of pictures of less than some 500 × 300 the same frames
    gave other bytes of a file now and then, where their memory had served others before. Debian's ffmpeg does so too,
    with MALLOC_PERTURB_ at 1, 50 and 255.
    """
    libc = _libc()
    if libc is None:
        yield
        return
    libc.mallopt(_PERTURB, _ZEROS)
    try:
        yield
    finally:
        libc.mallopt(_PERTURB, 0)


def _libc() -> Any:
    """The C library, where it has glibc's settings of the allocator."""
    libc: Any = ctypes.CDLL(None) if os.name == "posix" else None
    return libc if hasattr(libc, "mallopt") and hasattr(libc, "malloc_trim") else None
