"""Image files: what their headers say, and their pixels."""

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageOps, UnidentifiedImageError

from vexel.sources.protocols import SourceError

IMAGES = (".png", ".jpg", ".jpeg", ".tif", ".tiff", ".webp", ".exr")
MAX_SIDE = 16384
_PNG_CHANNELS = {0: "grey", 2: "colour", 3: "palette", 4: "grey with alpha", 6: "colour with alpha"}


@dataclass(frozen=True)
class Header:
    """What an image file says of itself: size in pixels, and depth and channels in words."""

    width: int
    height: int
    depth: str


def header_of(file: Path) -> Header:
    """Read an image file's header alone.

    Raises
    ------
    SourceError
        When it is no image, or one too large to be read.
    """
    try:
        with file.open("rb") as stream:
            head = stream.read(26)
    except OSError as error:
        raise SourceError(f"{file.name} cannot be read: {error.strerror}") from None
    if head.startswith(b"\x89PNG\r\n\x1a\n") and len(head) == 26:
        width, height = int.from_bytes(head[16:20], "big"), int.from_bytes(head[20:24], "big")
        found = Header(width, height, f"{head[24]} bit {_PNG_CHANNELS.get(head[25], 'colour')}")
    elif head.startswith(b"v/1\x01"):
        found = _exr_header(file)
    else:
        found = _other_header(file)
    if max(found.width, found.height) > MAX_SIDE:
        raise SourceError(
            f"{file.name} is {found.width:,} × {found.height:,}; a picture has at most {MAX_SIDE:,} pixels a side: "
            "make it smaller"
        )
    return found


def pixels_of(file: Path) -> NDArray[np.uint8]:
    """The pixels of an image file: shape (H, W, 4), uint8, sRGB with straight alpha.

    Deeper pictures are rounded to 8 bit; EXR is read as linear light (IEC
    61966-2-1 gives the curve) with premultiplied alpha, as its specification says.

    Raises
    ------
    SourceError
        When it is damaged, cut short or too large.
    """
    header_of(file)
    if file.suffix.lower() == ".exr":
        return _exr_pixels(file)
    Image.MAX_IMAGE_PIXELS = None  # the header's own bound holds
    try:
        with Image.open(file) as image:
            upright = ImageOps.exif_transpose(image)
            if upright.mode.startswith("I") or upright.mode == "F":
                return _deep_grey(np.asarray(upright))
            return np.array(upright.convert("RGBA"))
    except (OSError, SyntaxError, ValueError) as error:
        raise SourceError(f"{file.name} is damaged or cut short ({error}): export or copy it again") from None


def _other_header(file: Path) -> Header:
    try:
        with Image.open(file) as image:
            turned = image.getexif().get(274, 1) > 4
            width, height = image.size[::-1] if turned else image.size
            return Header(width, height, image.mode)
    except Image.DecompressionBombError as error:
        raise SourceError(f"{file.name} is too large: {error}") from None
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError):
        empty = file.stat().st_size == 0
        what = "is empty (0 bytes)" if empty else "does not hold a picture that Vexel reads"
        raise SourceError(f"{file.name} {what}: export or copy it again") from None


def _deep_grey(array: NDArray[np.generic]) -> NDArray[np.uint8]:
    grey = array.astype(np.float64)
    if array.dtype.kind in "iu":
        grey /= 65535
    pixels = np.full((*array.shape, 4), 255, np.uint8)
    pixels[..., :3] = np.rint(np.clip(grey, 0, 1) * 255).astype(np.uint8)[..., None]
    return pixels


def _exr_header(file: Path) -> Header:
    import OpenEXR

    try:
        with OpenEXR.File(str(file), header_only=True) as exr:
            low, high = exr.header()["dataWindow"]
            names = "".join(channel.name for channel in exr.header()["channels"])
    except (RuntimeError, OSError, KeyError) as error:
        raise SourceError(f"{file.name} is damaged ({error}): export or copy it again") from None
    width, height = (int(b) - int(a) + 1 for a, b in zip(low, high, strict=True))
    return Header(width, height, f"EXR {names}")


def _exr_pixels(file: Path) -> NDArray[np.uint8]:
    import OpenEXR

    try:
        with OpenEXR.File(str(file), separate_channels=True) as exr:
            held = {name: np.asarray(channel.pixels, np.float32) for name, channel in exr.channels().items()}
    except (RuntimeError, OSError) as error:
        raise SourceError(f"{file.name} is damaged or cut short ({error}): export or copy it again") from None
    names = ("R", "G", "B") if "R" in held else ("Y", "Y", "Y")
    if names[0] not in held:
        raise SourceError(
            f"{file.name} has no channels R, G, B or Y, but {', '.join(held)}: export one of them as R, G, B"
        )
    linear = np.stack([held[name] for name in names], axis=-1)
    alpha = np.clip(held.get("A", np.ones(linear.shape[:2], np.float32)), 0, 1)[..., None]
    light = np.clip(np.divide(linear, alpha, out=np.zeros_like(linear), where=alpha > 0), 0, 1)
    code = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)
    return np.asarray(np.rint(np.concatenate([code, alpha], axis=-1) * 255), np.uint8)
