"""Records in files: put into PNG, GIF, WebP and JPEG, and found in any file.

Other containers take them as the comment that FFmpeg writes, and pages as an element.
"""

import json
import struct
import zlib
from pathlib import Path

from pydantic import ValidationError

from vexel.output.origin.record import MARK, Origin

NEAR_BYTES = 8 << 20
"""Records are looked for this far from either end of a file."""
MOST_BYTES = 8 << 20
"""A record that is longer is none of ours."""
_KEYWORD = b"Comment"
"""Of PNG text (PNG third edition, 11.3.3.1)."""
_SEGMENT = 65_533
"""Bytes of a segment of JPEG."""
_XMP_FLAG = 0x04
"""In ``VP8X`` of a WebP file (WebP container specification)."""
_BLOCK = 255
"""Bytes of a data sub-block (GIF89a, 15)."""


def with_record(data: bytes, text: str) -> bytes:
    """An image file that carries a record; a WebP file without extended header, and other kinds, are unchanged."""
    if data.startswith(b"\xff\xd8\xff\xe0") and len(text) <= _SEGMENT:
        return _in_jpeg(data, text)
    if data.startswith(b"\x89PNG"):
        return _in_png(data, text)
    if data.startswith((b"GIF87a", b"GIF89a")):
        return _in_gif(data, text)
    return _in_webp(data, text) if data[:4] == b"RIFF" and data[8:12] == b"WEBP" else data


def _in_png(data: bytes, text: str) -> bytes:
    header = 8 + 25
    body = _KEYWORD + b"\0" + text.encode("ascii")
    chunk = struct.pack(">I", len(body)) + b"tEXt" + body + struct.pack(">I", zlib.crc32(b"tEXt" + body))
    return data[:header] + chunk + data[header:]


def _in_jpeg(data: bytes, text: str) -> bytes:
    """As a comment after the JFIF header (ITU-T T.81, B.2.4.5)."""
    at = 4 + int.from_bytes(data[4:6], "big")
    body = text.encode("ascii")
    return data[:at] + b"\xff\xfe" + (len(body) + 2).to_bytes(2, "big") + body + data[at:]


def _in_gif(data: bytes, text: str) -> bytes:
    """After the global colour table (GIF89a, 24: Comment Extension)."""
    flags = data[10]
    at = 13 + (3 << ((flags & 7) + 1) if flags & 0x80 else 0)
    plain = text.encode("ascii")
    parts = (plain[n : n + _BLOCK] for n in range(0, len(plain), _BLOCK))
    blocks = b"".join(bytes([len(part)]) + part for part in parts)
    return data[:at] + b"\x21\xfe" + blocks + b"\0" + data[at:]


def _in_webp(data: bytes, text: str) -> bytes:
    """As XMP (WebP container specification; ISO 16684-1)."""
    if data[12:16] != b"VP8X":
        return data
    packet = (
        '<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">'
        '<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:description><rdf:Alt>'
        f'<rdf:li xml:lang="x-default">{text}</rdf:li></rdf:Alt></dc:description></rdf:Description></rdf:RDF>'
        "</x:xmpmeta>"
    ).encode("ascii")
    chunk = b"XMP " + len(packet).to_bytes(4, "little") + packet + bytes(len(packet) % 2)
    whole = bytearray(data + chunk)
    whole[20] |= _XMP_FLAG
    whole[4:8] = (len(whole) - 8).to_bytes(4, "little")
    return bytes(whole)


def record_in(file: Path) -> Origin | None:
    """The record that a file carries; None where there is none that can be read.

    Parameters
    ----------
    file : Path
        Of any kind, from anywhere: at most `NEAR_BYTES` from either end are looked at.
    """
    size = file.stat().st_size
    with file.open("rb") as stream:
        data = stream.read(NEAR_BYTES)
        if size > NEAR_BYTES:
            stream.seek(max(size - NEAR_BYTES, NEAR_BYTES))
            data += b"\0" + stream.read(NEAR_BYTES)
    if data.startswith((b"GIF87a", b"GIF89a")):
        data = _gif_comments(data)
    mark = f"{MARK}{{".encode()
    at = data.find(mark)
    while at >= 0:
        text = data[at + len(MARK) : at + MOST_BYTES].decode("ascii", "replace")
        try:
            value, _ = json.JSONDecoder().raw_decode(text)
            return Origin.model_validate(value)
        except (ValueError, ValidationError, RecursionError):
            # Something that looks like one.
            at = data.find(mark, at + 1)
    return None


def _gif_comments(data: bytes) -> bytes:
    """The texts of comments that follow right after the header of a GIF file."""
    flags = data[10] if len(data) > 10 else 0
    at = 13 + (3 << ((flags & 7) + 1) if flags & 0x80 else 0)
    found = b""
    while data[at : at + 1] == b"\x21":
        is_comment, at = data[at + 1 : at + 2] == b"\xfe", at + 2
        while at < len(data) and data[at]:
            if is_comment:
                found += data[at + 1 : at + 1 + data[at]]
            at += 1 + data[at]
        at += 1
        found += b"\0"
    return found
