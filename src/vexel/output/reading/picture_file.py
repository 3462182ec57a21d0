"""Reader of image files: Vexel's frames, and external images as a viewer shows them."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.checks.source_sentences import source_sentence
from vexel.core.errors import Failure, SourceError
from vexel.disk.finished import Finished, is_whole
from vexel.imaging.codes import as_codes, to_bytes
from vexel.imaging.compositing import over
from vexel.imaging.image_bytes import encoded_image, encoded_png
from vexel.imaging.images import IMAGES
from vexel.imaging.resize import resized
from vexel.output.reading.png_reader import read_png

THUMBNAIL_SIDE = 240
READABLE = (*IMAGES, ".bmp")
"""Endings of image files that a folder of frames may hold."""


@dataclass(frozen=True)
class PictureKind:
    """What is known of a picture without its pixels."""

    height: int
    width: int
    clear: bool = False
    deep: bool = False


class DamagedFrame(Failure):
    """A frame is no longer what was made; `file` is its place."""

    def __init__(self, file: Path) -> None:
        super().__init__(
            f"{file} is no longer the frame that was made: it is set aside, and a resumed capture makes it again"
        )
        self.file = file

    def __reduce__(self) -> tuple[type, tuple[Path]]:
        return type(self), (self.file,)


def read_picture(file: Path, known: Finished | None = None, deep: bool = False) -> NDArray[Any]:
    """Pixels of an image file as RGB or RGBA, of 8 bits.

    Parameters
    ----------
    known : Finished, optional
        What the file was when it was made.
    deep : bool
        Keep 16 bits a channel where the file is finer than 8.

    Raises
    ------
    DamagedFrame
        When it is not what it was.
    Failure
        When it is missing, or cannot be read.
    """
    if known is not None and file.exists() and not is_whole(file, known, deep=True):
        raise DamagedFrame(file)
    if known is None and file.exists():
        _refuse_huge(file)
    if file.suffix.lower() == ".exr" and file.exists():
        return _of_exr(file, deep)
    pixels: NDArray[Any] | None = read_png(file.read_bytes()) if known is not None and file.exists() else None
    if pixels is None:
        pixels = _of_elsewhere(file, deep)
    if pixels is None:
        if not file.exists():
            raise Failure(f"{file} is missing: capture it again with --resume")
        raise Failure(f"{file} is damaged and cannot be read: capture or export it again")
    if pixels.dtype == np.uint16 and not deep:
        pixels = to_bytes(pixels)
    return pixels


def _refuse_huge(file: Path) -> None:
    """Refuse a picture that would take gigabytes of memory, before a byte of it is decoded."""
    from vexel.core.errors import SourceError
    from vexel.imaging.images import TooManyPixels, header_of

    try:
        header_of(file)
    except TooManyPixels as error:
        raise Failure(str(error)) from None
    except SourceError:
        # Its other faults are reported by its reader.
        return


def _of_elsewhere(file: Path, deep: bool) -> NDArray[Any] | None:
    """Pixels of an image file, upright and converted to sRGB; None where it cannot be read.

    Raises
    ------
    Failure
        When its numbers are no codes, or its colour profile cannot be used.
    """
    # By what reads stills as a source, so that both show the same.
    from vexel.core.errors import SourceError
    from vexel.imaging.images import ImageMetadata, image_metadata, picture_in

    pixels = cv2.imread(str(file), cv2.IMREAD_UNCHANGED) if image_metadata(file) == ImageMetadata() else None
    if pixels is None or pixels.dtype.kind == "f":
        try:
            shown = picture_in(file)
        except SourceError:
            return None
        codes = _of_light(np.clip(shown, 0, 1), deep) if shown.dtype == np.float32 else shown
        return codes if kind_of(codes, clear=False).clear else np.ascontiguousarray(codes[..., :3])
    try:
        pixels = as_codes(pixels)
    except ValueError as error:
        raise Failure(f"{file} cannot be read, since {error}: export it as one of these") from None
    if pixels.ndim == 2:
        return np.asarray(cv2.cvtColor(pixels, cv2.COLOR_GRAY2RGB))
    return np.asarray(cv2.cvtColor(pixels, cv2.COLOR_BGRA2RGBA if pixels.shape[2] == 4 else cv2.COLOR_BGR2RGB))


def said_of(file: Path) -> tuple[str, ...]:
    """How an external image file differs from what pictures can hold, and how it is converted."""
    from vexel.sources.pictures.sequence_report import oddities_of

    return tuple(source_sentence(finding) for finding in oddities_of(file))


def kind_of(pixels: NDArray[Any], clear: bool) -> PictureKind:
    """What kind of picture pixels are; `clear` says that they are meant to have transparency, or else they may."""
    height, width, channels = pixels.shape
    holes = channels == 4 and (clear or bool((pixels[..., 3] < np.iinfo(pixels.dtype).max).any()))
    return PictureKind(height, width, holes, pixels.dtype == np.uint16)


def png_of(file: Path) -> bytes:
    """A frame's file as 8-bit PNG, with alpha only where it is used."""
    picture = read_picture(file)
    return encoded_png(picture, opaque=not kind_of(picture, clear=False).clear)


def thumbnail(file: Path) -> bytes:
    """A frame's file as a small JPEG, over mid grey where it is clear."""
    picture = read_picture(file)
    scale = min(THUMBNAIL_SIDE / max(picture.shape[:2]), 1)
    size = [max(round(side * scale), 1) for side in picture.shape[1::-1]]
    small = resized(picture, (size[0], size[1]), cv2.INTER_AREA)
    small = over(small, (119, 119, 119)) if small.shape[2] == 4 else small
    return encoded_image(".jpg", small, [cv2.IMWRITE_JPEG_QUALITY, 85])


def exr_numbers(file: Path) -> NDArray[np.float32]:
    """The unchanged numbers in an OpenEXR file, shape (H, W, C): light that may exceed 1, depths, or codes.

    Raises
    ------
    Failure
        When it cannot be read.
    """
    from vexel.imaging.exr_layers import exr_light
    from vexel.stage.exr import read_exr

    try:
        try:
            channels = read_exr(file)
            found = next(channels[name] for name in ("Z", "codes", "RGBA") if name in channels)
        except ValueError:
            found = exr_light(file)
    except (SourceError, RuntimeError, OSError, KeyError, StopIteration) as error:
        raise Failure(f"{file} is damaged and cannot be read ({error}): capture or export it again") from None
    return np.asarray(found, np.float32).reshape(*found.shape[:2], -1)


def _of_exr(file: Path, deep: bool) -> NDArray[Any]:
    """Pixels of an OpenEXR file as RGBA, from linear light premultiplied by alpha; depths as greys."""
    from vexel.stage.exr import read_exr

    try:
        channels = read_exr(file)
    except ValueError:
        from vexel.imaging.exr_layers import exr_light

        return _of_light(np.clip(exr_light(file), 0, 1), deep)
    except (RuntimeError, OSError, KeyError) as error:
        raise Failure(f"{file} is damaged and cannot be read ({error}): capture or export it again") from None
    if "Z" in channels:
        depths = channels["Z"]
        seen = depths[np.isfinite(depths)]
        near, far = (float(seen.min()), float(seen.max())) if seen.size else (0.0, 1.0)
        grey = np.where(np.isfinite(depths), (depths - near) / max(far - near, 1e-30), 1)
        return np.asarray(cv2.cvtColor(_quantised(grey, deep), cv2.COLOR_GRAY2RGB))
    if "codes" in channels:
        return _quantised(channels["codes"], deep)
    return _of_light(np.ascontiguousarray(np.clip(channels["RGBA"].astype(np.float32), 0, 1)), deep)


def _of_light(light: NDArray[Any], deep: bool) -> NDArray[Any]:
    from vexel.imaging.light import deep_codes, encoded

    return deep_codes(light) if deep else encoded(light)


def _quantised(values: NDArray[Any], deep: bool) -> NDArray[Any]:
    most, kind = (65535, np.uint16) if deep else (255, np.uint8)
    return np.asarray(np.rint(most * np.clip(values, 0, 1)).astype(kind))
