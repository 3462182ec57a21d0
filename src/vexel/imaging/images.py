"""Image files: what their headers say, and their pixels."""

import io
from dataclasses import dataclass, field
from functools import lru_cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms, ImageOps, UnidentifiedImageError
from PIL.TiffImagePlugin import TiffImageFile

from vexel.core.errors import SourceError
from vexel.imaging.codes import as_codes, upright
from vexel.imaging.exr_layers import exr_header, exr_light
from vexel.imaging.float_images import RADIANCE, float_light, radiance_light, radiance_size
from vexel.imaging.light import Picture, light_of_codes
from vexel.imaging.tiff_files import TiffKind, tiff_kind, tiff_pixels
from vexel.imaging.transfer import encoded_light

IMAGES = (".png", ".jpg", ".jpeg", ".tif", ".tiff", ".webp", ".exr", ".hdr")
DEEP = (".png", ".tif", ".tiff")
"""Endings of files that may have more than 8 bits a channel."""
MAX_SIDE = 16384
_ORIENTATION, _BITS_PER_SAMPLE = 0x0112, 258
_USUAL_GAMMA = 1 / 2.2
SRGB, NEARLY_SRGB = 2, 16
"""Codes by which a profile may differ from sRGB to count as such, and one that is named so."""
_LOOKED_AT = 4096
"""Bytes within which a PNG file stores its orientation."""
_PNG_CHANNELS = {0: "grey", 2: "colour", 3: "palette", 4: "grey with alpha", 6: "colour with alpha"}


# A file's faults are reported by its reader; OpenCV would write them to standard error too.
cv2.utils.logging.setLogLevel(cv2.utils.logging.LOG_LEVEL_SILENT)


class TooManyPixels(SourceError):
    """A picture that would take gigabytes of memory."""


@dataclass(frozen=True)
class Header:
    """The header of an image file: size in pixels, and depth and channels in words.

    Attributes
    ----------
    width, height : int
    depth : str
    alpha : bool
        Whether it has room for transparency, used or not.
    deep : bool
        Whether it is finer than 8 bits a channel.
    """

    width: int
    height: int
    depth: str
    alpha: bool = field(default=False, compare=False)
    deep: bool = field(default=False, compare=False)


def header_of(file: Path) -> Header:
    """Read an image file's header alone.

    Raises
    ------
    SourceError
        When it is no image, or one too large to be read.
    """
    try:
        with file.open("rb") as stream:
            head = stream.read(_LOOKED_AT)
    except OSError as error:
        raise SourceError(f"{file.name} cannot be read: {error.strerror}") from None
    if head.startswith(b"\x89PNG\r\n\x1a\n") and len(head) >= 26:
        width, height = int.from_bytes(head[16:20], "big"), int.from_bytes(head[20:24], "big")
        if b"eXIf" in head and image_metadata(file).orientation > 4:
            width, height = height, width
        # A clear colour is stored before the pixels, whose chunk is IDAT.
        alpha = head[25] in (4, 6) or b"tRNS" in head.partition(b"IDAT")[0]
        words = f"{head[24]} bit {_PNG_CHANNELS.get(head[25], 'colour')}"
        found = Header(width, height, words, alpha, head[24] > 8)
    elif head.startswith(b"v/1\x01"):
        width, height, words, alpha = exr_header(file)
        found = Header(width, height, words, alpha, True)
    elif head.startswith(RADIANCE):
        found = Header(*radiance_size(file, head), "Radiance RGB", False, True)
    else:
        found = _other_header(file)
    if max(found.width, found.height) > MAX_SIDE:
        raise TooManyPixels(
            f"{file.name} is {found.width:,} × {found.height:,}; a picture has at most {MAX_SIDE:,} pixels a side: "
            "make it smaller"
        )
    return found


def picture_in(file: Path, layer: str = "") -> Picture:
    """The picture in an image file; one of more than 8 bits keeps them.

    EXR, Radiance HDR and TIFF of floats are read as linear light. Where a
    colour profile other than sRGB is embedded, colours are converted to sRGB,
    with 8 bits.

    Parameters
    ----------
    file : Path
    layer : str
        Of a layered EXR; see `exr_light`.

    Raises
    ------
    SourceError
        When it is damaged, cut short or too large.
    """
    header_of(file)
    if file.suffix.lower() == ".exr":
        return exr_light(file, layer)
    if file.suffix.lower() == ".hdr":
        return radiance_light(file)
    Image.MAX_IMAGE_PIXELS = None  # the header's own bound holds
    try:
        with Image.open(file) as image:
            if file.suffix.lower() in DEEP and not profile_of(image):
                deep = _deep_light(file, _orientation(image))
                if deep is not None:
                    return deep
            return np.array(_in_srgb(ImageOps.exif_transpose(image), file.name).convert("RGBA"))
    except (OSError, SyntaxError, ValueError) as error:
        if (tiff := tiff_kind(file)) is not None and tiff.bits > 8:
            return _tiff_light(file, tiff)
        raise SourceError(f"{file.name} is damaged or cut short ({error}): export or copy it again") from None


@dataclass(frozen=True)
class ImageMetadata:
    """How an image file is meant to be shown: orientation (1 to 8, Exif), and its colour profile if not sRGB."""

    orientation: int = 1
    profile: str = ""


def image_metadata(file: Path) -> ImageMetadata:
    """Read the metadata of an image file; of one that Pillow cannot open, nothing."""
    try:
        with Image.open(file) as image:
            return ImageMetadata(_orientation(image), profile_of(image))
    except (UnidentifiedImageError, Image.DecompressionBombError, OSError, SyntaxError, ValueError):
        return ImageMetadata()


def _orientation(image: Image.Image) -> int:
    # Asked of a PNG file that tells none before its pixels, Pillow would read them all.
    untold = image.format == "PNG" and "exif" not in image.info
    told = 1 if untold else image.getexif().get(_ORIENTATION, 1)
    return told if told in range(1, 9) else 1


def profile_of(image: Image.Image) -> str:
    """Name of the colour profile in an image, or its gamma, where it is another than that of sRGB."""
    data = image.info.get("icc_profile")
    if not data:
        gamma = _gamma_of(image)
        return f"gamma {gamma:.3g}" if gamma else ""
    try:
        name = ImageCms.getProfileDescription(ImageCms.ImageCmsProfile(io.BytesIO(data))).strip()
    except (ImageCms.PyCMSError, OSError):
        return ""
    return "" if _is_srgb(data, "srgb" in name.lower()) else name or "unnamed"


@lru_cache(32)
def _is_srgb(data: bytes, named: bool) -> bool:
    """Whether a profile converts colours to what they are already; one that is named so, nearly.

    Profiles of one name hold different curves: "Linear sRGB" has no curve, and others compress out-of-gamut colours.
    """
    steps = np.linspace(0, 255, 9).round().astype(np.uint8)
    swatches = np.stack(np.meshgrid(steps, steps, steps), axis=-1).reshape(27, 27, 3)
    try:
        held = ImageCms.ImageCmsProfile(io.BytesIO(data))
        made = ImageCms.profileToProfile(
            Image.fromarray(swatches), held, ImageCms.createProfile("sRGB"), outputMode="RGB"
        )
    except (ImageCms.PyCMSError, OSError):
        return False  # of greys, or of inks
    apart = np.abs(np.asarray(made, np.int16) - swatches).max()
    return bool(apart <= (NEARLY_SRGB if named else SRGB))


def _gamma_of(image: Image.Image) -> float:
    """The exponent of a PNG file's codes, where it says another than that of most displays; else 0."""
    told = image.info.get("gamma")
    # An sRGB chunk is more exact (PNG third edition, 4.3).
    if not told or "srgb" in image.info or abs(float(told) - _USUAL_GAMMA) < 0.02:
        return 0.0
    return float(told)


def _in_srgb(image: Image.Image, name: str) -> Image.Image:
    if not profile_of(image):
        return image
    if (gamma := _gamma_of(image)) and not image.info.get("icc_profile"):
        table = np.rint(255 * encoded_light((np.arange(256) / 255) ** (1 / gamma))).astype(int).tolist()
        bands = image.convert("RGBA" if image.has_transparency_data else "RGB")
        return bands.point(table * 3 + (list(range(256)) if bands.mode == "RGBA" else []))
    held = ImageCms.ImageCmsProfile(io.BytesIO(image.info["icc_profile"]))
    alpha = image.getchannel("A") if image.mode in ("RGBA", "LA") else None
    plain = image if image.mode in ("RGB", "L", "CMYK") else image.convert("RGB")
    try:
        converted = ImageCms.profileToProfile(plain, held, ImageCms.createProfile("sRGB"), outputMode="RGB")
    except ImageCms.PyCMSError as error:
        raise SourceError(f"the colour profile in {name} cannot be used ({error}): export it as sRGB") from None
    if alpha is not None and converted is not None:
        converted.putalpha(alpha)
    return converted or image


def _other_header(file: Path) -> Header:
    try:
        with Image.open(file) as image:
            # Of TIFF, Pillow returns the upright size.
            turned = _orientation(image) > 4 and image.format != "TIFF"
            width, height = image.size[::-1] if turned else image.size
            bits = image.tag_v2.get(_BITS_PER_SAMPLE, 8) if isinstance(image, TiffImageFile) else 8
            deep = max(bits if isinstance(bits, tuple) else (bits,)) > 8
            return Header(width, height, image.mode, image.has_transparency_data or "a" in image.mode, deep)
    except Image.DecompressionBombError as error:
        raise SourceError(f"{file.name} is too large: {error}") from None
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError):
        if (tiff := tiff_kind(file)) is not None:
            turned = tiff.orientation > 4
            width, height = (tiff.height, tiff.width) if turned else (tiff.width, tiff.height)
            return Header(width, height, tiff.words, tiff.alpha, tiff.bits > 8)
        empty = file.stat().st_size == 0
        what = "is empty (0 bytes)" if empty else "does not hold a picture that Vexel reads"
        raise SourceError(f"{file.name} {what}: export or copy it again") from None


def _deep_light(file: Path, orientation: int) -> NDArray[np.float32] | None:
    """A picture of 16 bits, or of floats, as light; None for one of 8 bits."""
    is_png = file.suffix.lower() == ".png"
    # OpenCV itself turns TIFF, but cannot turn it by 90°, nor read half floats.
    codes = cv2.imread(str(file), cv2.IMREAD_UNCHANGED) if is_png or orientation <= 4 else None
    if codes is None and not is_png and (tiff := tiff_kind(file)) is not None and tiff.bits > 8:
        return _tiff_light(file, tiff)
    if codes is None or codes.dtype == np.uint8 or codes.ndim not in (2, 3):
        return None
    if codes.dtype.kind == "f":
        return float_light(codes)
    codes = as_codes(codes)
    if is_png:
        codes = upright(codes, orientation)
    return _light_of(codes)


def _tiff_light(file: Path, tiff: TiffKind) -> NDArray[np.float32]:
    """A TIFF file of 16 bits or of floats that OpenCV does not read, as light."""
    pixels = upright(tiff_pixels(file), tiff.orientation)
    # Channels are read as OpenCV has them, blue first.
    pixels = pixels if pixels.ndim == 2 else pixels[..., [2, 1, 0, *range(3, pixels.shape[2])]]
    return float_light(pixels) if pixels.dtype.kind == "f" else _light_of(as_codes(pixels))


def _light_of(codes: NDArray[Any]) -> NDArray[np.float32]:
    if codes.ndim == 2:
        codes = cv2.cvtColor(codes, cv2.COLOR_GRAY2BGR)
    if codes.shape[2] == 3:
        codes = np.dstack([codes, np.full(codes.shape[:2], 65535, np.uint16)])
    return light_of_codes(codes[..., [2, 1, 0, 3]])
