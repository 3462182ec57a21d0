"""That an MP4 video is a panorama, written for headsets and players: Spherical Video V2 (an open specification).

Its boxes are in the description of the video: ``st3d`` describes how a frame holds
two eyes' pictures, ``sv3d`` that it is equirectangular, and what it covers.
"""

import shutil
import struct
from pathlib import Path

from vexel.core.camera.panorama import Eyes, Panorama
from vexel.core.errors import Failure
from vexel.disk.write import arriving
from vexel.output.mp4.boxes import INTO_VIDEO, boxes_of_file, with_more, within

_EYES: tuple[Eyes, ...] = ("one", "top-bottom", "left-right")
"""In the order of their numbers."""
_QUARTER = 1 << 30
"""A quarter of the width, in parts of 2^32: what half a sphere leaves off on either side."""


def mark_as_panorama(file: Path, panorama: Panorama) -> None:
    """Mark a file whose index is at its front as a panorama.

    Raises
    ------
    Failure
        When the file has no index there.
    """
    index = next((box for box in boxes_of_file(file) if box.kind in (b"moov", b"mdat")), None)
    if index is None or index.kind != b"moov":
        raise Failure(f"{file.name} cannot be marked as a panorama: its index (moov) is not at the front")
    with arriving(file) as marked, file.open("rb") as whole, marked.open("wb") as written:
        written.write(whole.read(index.start - index.head))
        written.write(with_more(whole.read(index.end - index.start + index.head), _boxes(panorama)))
        shutil.copyfileobj(whole, written, 1 << 20)


def panorama_of(file: Path) -> Panorama | None:
    """The panorama that an MP4 file declares; None where it declares none."""
    index = next((box for box in boxes_of_file(file) if box.kind == b"moov"), None)
    if index is None:
        return None
    with file.open("rb") as stream:
        stream.seek(index.start - index.head)
        data = stream.read(index.end - index.start + index.head)
    covered = within(data, (*INTO_VIDEO, b"sv3d", b"proj", b"equi"))
    if not covered:
        return None
    *_, left, right = struct.unpack_from(">5I", data, covered[-1].start)
    eyes = within(data, (*INTO_VIDEO, b"st3d"))
    number = data[eyes[-1].start + 4] if eyes else 0
    half = left >= _QUARTER and right >= _QUARTER
    return Panorama("half" if half else "sphere", _EYES[number] if number < len(_EYES) else "one")


def _boxes(panorama: Panorama) -> bytes:
    aside = _QUARTER if panorama.covers == "half" else 0
    made_by = _full(b"svhd", b"Vexel\0")
    turned = _full(b"prhd", struct.pack(">3i", 0, 0, 0))
    covers = _full(b"equi", struct.pack(">4I", 0, 0, aside, aside))
    sphere = _box(b"sv3d", made_by + _box(b"proj", turned + covers))
    return _full(b"st3d", bytes([_EYES.index(panorama.eyes)])) + sphere


def _box(kind: bytes, content: bytes) -> bytes:
    return struct.pack(">I4s", 8 + len(content), kind) + content


def _full(kind: bytes, content: bytes) -> bytes:
    """A box with a version and flags, all 0."""
    return _box(kind, bytes(4) + content)
