"""Binary STL files: corners of faces, and the colours that many programs write into their attributes.

The format has 16 bits a face without a meaning. Two ways of telling a colour by them are in use, both with 5 bits a
channel; see "STL (file format)", Wikipedia, section "Color in binary STL".
"""

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

HEAD_BYTES, FACE_BYTES = 84, 50
_MARK = b"COLOR="
_USED = 0x8000
_UNCOLOURED = (207, 198, 184, 255)
"""Of a face without a colour among others that have one: the stage's own."""


@dataclass(frozen=True)
class BinaryStl:
    """A file, read.

    Attributes
    ----------
    corners : ndarray, shape (F, 3, 3), float32
    colours : ndarray, shape (F, 4), uint8, or None
        sRGB with alpha of each face; None where no face has one.
    """

    corners: NDArray[np.float32]
    colours: NDArray[np.uint8] | None


def read_binary_stl(file: Path) -> BinaryStl | None:
    """Read a binary STL file; None for one that is text."""
    with file.open("rb") as stream:
        head = stream.read(HEAD_BYTES)
        count = int.from_bytes(head[80:HEAD_BYTES], "little")
        is_text = head[:5].lower() == b"solid" and b"\0" not in head
        if is_text or file.stat().st_size < HEAD_BYTES + FACE_BYTES * count:
            return None
        held = np.frombuffer(
            stream.read(FACE_BYTES * count), [("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")]
        )
    return BinaryStl(np.ascontiguousarray(held["corners"]), face_colours(head[:80], held["attribute"]))


def face_colours(head: bytes, attributes: NDArray[np.uint16]) -> NDArray[np.uint8] | None:
    """Colours of faces by their attributes, shape (F, 4); None where no face has one.

    Parameters
    ----------
    head : bytes
        The first 80 of the file. With ``COLOR=`` and four bytes it sets the colour of the whole, and red is in
        the lowest bits, of faces whose highest bit is 0. Else blue is, of faces whose highest bit is 1.
    attributes : ndarray, shape (F,), uint16
    """
    used = (attributes & _USED) != 0
    low, middle, high = (np.rint((attributes >> shift & 31) * (255 / 31)).astype(np.uint8) for shift in (0, 5, 10))
    opaque = np.full_like(low, 255)
    at = head.find(_MARK)
    if at >= 0 and len(head) >= at + len(_MARK) + 4:
        whole = np.frombuffer(head, np.uint8, 4, at + len(_MARK))
        own = np.stack([low, middle, high, opaque], axis=1)
        # Where no face says anything, none is meant to be black.
        return np.where((used | ~attributes.any())[:, None], whole, own)
    if not used.any():
        return None
    own = np.stack([high, middle, low, opaque], axis=1)
    return np.where(used[:, None], own, np.array(_UNCOLOURED, np.uint8))
