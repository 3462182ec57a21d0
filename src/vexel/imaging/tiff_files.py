"""TIFF files of kinds that image libraries for 8 bits do not open: floats of several channels, and of 16 bits."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import SourceError

_MARKS = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")
_ORIENTATION = 274


@dataclass(frozen=True)
class TiffKind:
    """What the header of a file states of its first picture.

    Attributes
    ----------
    width, height : int
        Before it is turned.
    words : str
        Its numbers and channels, such as ``float32 RGB``.
    bits : int
        Of a channel.
    alpha : bool
    orientation : int
        1 to 8, as Exif counts.
    """

    width: int
    height: int
    words: str
    bits: int
    alpha: bool
    orientation: int


def tiff_kind(file: Path) -> TiffKind | None:
    """The kind of a TIFF file; None for what is none, or is damaged, or has channels that are no colours."""
    with file.open("rb") as stream:
        if stream.read(4) not in _MARKS:
            return None
    from tifffile import TiffFile, TiffFileError

    try:
        with TiffFile(file) as tiff:
            page = tiff.pages.first
            dtype, channels = page.dtype, int(page.samplesperpixel)
            if dtype is None or channels not in (1, 3, 4):
                return None
            told = page.tags.get(_ORIENTATION)
            words = f"{dtype.name} {'grey' if channels == 1 else 'RGB' if channels == 3 else 'RGBA'}"
            return TiffKind(
                int(page.imagewidth), int(page.imagelength), words, 8 * dtype.itemsize, channels == 4,
                int(told.value) if told is not None else 1,
            )  # fmt: skip
    except (TiffFileError, ValueError, KeyError, IndexError, OSError, TypeError, AttributeError):
        return None


def tiff_pixels(file: Path) -> NDArray[Any]:
    """Numbers of the first picture, shape (H, W) or (H, W, C), red first, unchanged.

    Raises
    ------
    SourceError
        When its data is damaged, or packed in a way that is not read.
    """
    from tifffile import TiffFile, TiffFileError

    try:
        with TiffFile(file) as tiff:
            page = tiff.pages.first
            pixels = np.asarray(page.asarray())
    except (TiffFileError, ValueError, KeyError, IndexError, OSError) as error:
        raise SourceError(
            f"{file.name} cannot be read ({str(error).splitlines()[0]}): export it uncompressed, or as OpenEXR"
        ) from None
    # Channels one plane after another.
    return np.moveaxis(pixels, 0, 2) if pixels.ndim == 3 and pixels.shape[2] > 4 >= pixels.shape[0] else pixels
