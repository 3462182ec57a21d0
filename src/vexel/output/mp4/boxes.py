"""Boxes of an MP4 file (ISO/IEC 14496-12): where they are, and one more put into them."""

import struct
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

import numpy as np

INTO_VIDEO = (b"moov", b"trak", b"mdia", b"minf", b"stbl", b"stsd", b"avc1")
"""The way to the description of a video's samples."""
_FIELDS = {b"stsd": 8, b"avc1": 78}
"""Bytes of a box's own before the boxes in it."""
_OFFSETS = {b"stco": ">u4", b"co64": ">u8"}


class Box(NamedTuple):
    """Where a box's content is, from its first byte to after its last, and how long its head is before that."""

    kind: bytes
    start: int
    end: int
    head: int


def boxes_of_file(file: Path) -> Iterator[Box]:
    """The outermost boxes of a file, up to the first that is invalid."""
    size = file.stat().st_size
    with file.open("rb") as stream:
        at = 0
        while at + 8 <= size:
            stream.seek(at)
            box = _box(stream.read(16), at, size)
            if box is None:
                return
            yield box
            at = box.end


def boxes(data: bytes, start: int, end: int) -> Iterator[Box]:
    """Boxes in a part of a file."""
    at = start
    while at + 8 <= end:
        box = _box(data[at : at + 16], at, end)
        if box is None:
            return
        yield box
        at = box.end


def within(data: bytes, way: tuple[bytes, ...], start: int = 0, end: int | None = None) -> list[Box]:
    """The boxes along a way inward, the outermost first; fewer where it ends early."""
    end = len(data) if end is None else end
    if not way:
        return []
    for box in boxes(data, start, end):
        if box.kind == way[0]:
            inner = within(data, way[1:], box.start + _FIELDS.get(box.kind, 0), box.end)
            if len(inner) == len(way) - 1:
                return [box, *inner]
    return []


def with_more(data: bytes, added: bytes) -> bytes:
    """The index of a file, before its media, with boxes added to the description of its video.

    Parameters
    ----------
    data : bytes
        A ``moov`` box.

    Raises
    ------
    ValueError
        When it describes no video.
    """
    way = within(data, INTO_VIDEO)
    if not way:
        raise ValueError("no description of a video")
    grown = bytearray(data)
    for box in way:
        size = box.end - box.start + box.head + len(added)
        form, at = (">Q", box.start - 8) if box.head == 16 else (">I", box.start - box.head)
        struct.pack_into(form, grown, at, size)
    grown[way[-1].end : way[-1].end] = added
    # The media come after the index, and so they move.
    whole = bytes(grown)
    for trak in (box for box in boxes(whole, way[0].start, len(whole)) if box.kind == b"trak"):
        for kind, form in _OFFSETS.items():
            for table in within(whole, (b"mdia", b"minf", b"stbl", kind), trak.start, trak.end)[-1:]:
                (count,) = struct.unpack_from(">I", whole, table.start + 4)
                # A view of `grown`, not a copy: adding to it writes into the file's bytes.
                places = np.frombuffer(grown, form, count, table.start + 8)
                places += len(added)
    return bytes(grown)


def _box(head: bytes, at: int, end: int) -> Box | None:
    size, kind = struct.unpack(">I4s", head[:8])
    length = 8
    # A size of 1 means that the real one follows in 64 bits, 0 that the box extends to the end.
    if size == 1 and len(head) >= 16:
        (size,), length = struct.unpack(">Q", head[8:16]), 16
    elif size == 0:
        size = end - at
    if size < length or at + size > end:
        return None
    return Box(kind, at + length, at + size, length)
