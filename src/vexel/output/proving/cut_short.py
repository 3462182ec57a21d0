"""Whether a video file ends before it says that it ends, by the sizes that its container declares.

Counts of frames and lengths are no measure of that: an edit list leaves frames
out, and sound may last longer than the last picture.
"""

from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO

EBML, SEGMENT = 0x1A45DFA3, 0x18538067
"""Elements of Matroska and WebM; RFC 8794 and RFC 9559."""


def is_cut_short(file: Path) -> bool:
    """Whether bytes are missing at the end; False where the container does not tell.

    Known are ISO base media files (MP4, MOV), Matroska and WebM, RIFF (AVI), and GIF.

    Raises
    ------
    OSError
    """
    size = file.stat().st_size
    with file.open("rb") as stream:
        head = stream.read(12)
        return next((tell(stream, size) for mark, tell in _TELLERS if mark(head)), False)


def _boxes_end(stream: BinaryIO, size: int) -> bool:
    """Of boxes one after another, the last one ends after the file (ISO/IEC 14496-12, 4.2)."""
    at = 0
    while at < size:
        stream.seek(at)
        head = stream.read(16)
        length = int.from_bytes(head[:4], "big")
        if length == 1:
            length = int.from_bytes(head[8:16], "big")
        if length == 0 or not head[4:8].isascii():
            # To the end, however far that is; or no box, but what somebody hung on.
            return False
        if length < 8:
            return False
        at += length
    return at > size


def _segment_ends(stream: BinaryIO, size: int) -> bool:
    """Of the EBML header and the segment, the latter ends after the file; one that was streamed says no length."""
    at = 0
    for _ in range(4):
        stream.seek(at)
        data = stream.read(12)
        identity, used = _number(data, keep_mark=True)
        length, more = _number(data[used:], keep_mark=False)
        if not used or not more or length == (1 << 7 * more) - 1:
            return False
        at += used + more + length
        if identity == SEGMENT:
            return at > size
    return False


def _number(data: bytes, *, keep_mark: bool) -> tuple[int, int]:
    """A number of variable length and how many bytes it takes (RFC 8794, section 4)."""
    if not data or not data[0]:
        return 0, 0
    used = 9 - data[0].bit_length()
    value = int.from_bytes(data[:used], "big")
    return (value if keep_mark else value & ((1 << 7 * used) - 1)), used


def _lists_end(stream: BinaryIO, size: int) -> bool:
    """Of RIFF lists one after another, the last one ends after the file."""
    at = 0
    while at + 8 <= size:
        stream.seek(at)
        head = stream.read(8)
        if head[:4] != b"RIFF":
            return False
        length = int.from_bytes(head[4:], "little")
        at += 8 + length + length % 2
    # A list of odd length may leave its last, empty byte out.
    return at > size + 1


def _has_no_trailer(stream: BinaryIO, size: int) -> bool:
    """The last block is not the trailer (GIF89a, section 27)."""
    stream.seek(-min(size, 16), 2)
    return not stream.read().rstrip(b"\0").endswith(b";")


_TELLERS: tuple[tuple[Callable[[bytes], bool], Callable[[BinaryIO, int], bool]], ...] = (
    (lambda head: head[4:8] in (b"ftyp", b"moov", b"mdat", b"free", b"wide", b"skip"), _boxes_end),
    (lambda head: head[:4] == EBML.to_bytes(4, "big"), _segment_ends),
    (lambda head: head[:4] == b"RIFF", _lists_end),
    (lambda head: head[:4] == b"GIF8", _has_no_trailer),
)
