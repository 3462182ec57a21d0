"""Animated files of one picture.

Encoders write a still in their place, which says neither how long it lasts nor how often it is played.
Structures are those of the WebP container specification and of PNG, third edition.
"""

import struct
import zlib
from fractions import Fraction
from pathlib import Path

_ANIMATED, _ALPHA = 0x02, 0x10
"""Flags of a WebP file's ``VP8X`` chunk."""


def animate_webp(file: Path, size: tuple[int, int], milliseconds: int, plays: int) -> None:
    """Let a still WebP file be an animation of one picture."""
    data = file.read_bytes()
    parts = dict(_webp_chunks(data))
    picture = b"".join(_webp_chunk(kind, parts[kind]) for kind in (b"ALPH", b"VP8 ", b"VP8L") if kind in parts)
    extended = parts.get(b"VP8X", b"\0")[0]
    lossless = parts.get(b"VP8L", b"")
    # The bit for the use of alpha follows both sides, of 14 bits each.
    alpha = bool(extended & _ALPHA) or b"ALPH" in parts or bool(lossless and lossless[4] & 0x10)
    sides = b"".join((side - 1).to_bytes(3, "little") for side in size)
    head = bytes([_ANIMATED | (_ALPHA if alpha else 0), 0, 0, 0]) + sides
    frame = bytes(6) + sides + max(milliseconds, 1).to_bytes(3, "little") + bytes([0x02]) + picture
    body = b"WEBP" + _webp_chunk(b"VP8X", head) + _webp_chunk(b"ANIM", bytes(4) + plays.to_bytes(2, "little"))
    body += _webp_chunk(b"ANMF", frame)
    file.write_bytes(b"RIFF" + len(body).to_bytes(4, "little") + body)


def animate_png(file: Path, delay: Fraction, plays: int) -> None:
    """Make a PNG file an animation of one picture; an animated one does not change."""
    data = file.read_bytes()
    first = data.find(b"IDAT") - 4
    if b"acTL" in data[:first]:
        return
    header = 8 + 25
    size = data[16:24]
    # Both sides of the delay have 16 bits.
    delay = delay.limit_denominator(65535)
    shown = struct.pack(">I", 0) + size + struct.pack(">IIHHBB", 0, 0, delay.numerator, delay.denominator, 0, 0)
    counted = _png_chunk(b"acTL", struct.pack(">II", 1, plays))
    file.write_bytes(data[:header] + counted + data[header:first] + _png_chunk(b"fcTL", shown) + data[first:])


def _webp_chunks(data: bytes) -> list[tuple[bytes, bytes]]:
    at, found = 12, []
    while at + 8 <= len(data):
        size = int.from_bytes(data[at + 4 : at + 8], "little")
        found.append((data[at : at + 4], data[at + 8 : at + 8 + size]))
        at += 8 + size + size % 2
    return found


def _webp_chunk(kind: bytes, body: bytes) -> bytes:
    return kind + len(body).to_bytes(4, "little") + body + bytes(len(body) % 2)


def _png_chunk(kind: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))
