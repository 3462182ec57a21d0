"""A picture as the bytes of a file."""

import struct
import zlib

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.imaging.image_bytes import encoded_image, encoded_png
from vexel.imaging.light import deep_codes

JPEG_QUALITY = 93


def png_bytes(picture: NDArray[np.uint8], *, is_colour: bool = True) -> bytes:
    """Encode RGBA pixels, shape (H, W, 4); a fully opaque picture is written without alpha."""
    opaque = bool((picture[..., 3] == 255).all())
    return encoded_png(picture, opaque=opaque, is_colour=is_colour)


def deep_png_bytes(light: NDArray[np.float32], premultiplied: bool) -> bytes:
    """Encode linear light, premultiplied by alpha, shape (H, W, 4), as sRGB with 16 bits a channel."""
    codes = deep_codes(light, premultiplied)
    opaque = bool((codes[..., 3] == 65535).all())
    return encoded_png(codes, opaque=opaque)


def data_png_bytes(numbers: NDArray[np.float32]) -> bytes:
    """Encode numbers from 0 to 1, shape (H, W, 4), as 16 bits a channel, without any curve."""
    codes = np.rint(np.clip(numbers, 0, 1) * 65535).astype(np.uint16)
    opaque = bool((codes[..., 3] == 65535).all())
    return encoded_png(codes, opaque=opaque, is_colour=False)


def depth_texts(near: float, far: float) -> dict[str, str]:
    """The text chunks that describe a depth file's codes."""
    return {
        "Depth near": f"{near:.9g}",
        "Depth far": f"{far:.9g}",
        "Depth": "distance = near + code / 65535 * (far - near), in the source's units; 65535 is at far or beyond",
    }


def with_text(png: bytes, texts: dict[str, str]) -> bytes:
    """A PNG file with texts in it, after its header (PNG third edition, 11.3.3)."""
    chunks = b""
    for key, text in texts.items():
        body = b"tEXt" + key.encode("latin-1") + b"\0" + text.encode("latin-1")
        chunks += struct.pack(">I", len(body) - 4) + body + struct.pack(">I", zlib.crc32(body))
    header = 8 + 12 + 13
    return png[:header] + chunks + png[header:]


def premultiplied(picture: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Colours times alpha, as codes; shape (H, W, 4)."""
    made = picture.copy()
    alpha = picture[..., 3:].astype(np.uint16)
    made[..., :3] = (picture[..., :3] * alpha + 127) // 255
    return made


def jpeg_bytes(picture: NDArray[np.uint8]) -> bytes:
    """Encode an opaque picture for a passing look: five times as fast as PNG, colours at full resolution."""
    settings = [cv2.IMWRITE_JPEG_QUALITY, JPEG_QUALITY]
    settings += [cv2.IMWRITE_JPEG_SAMPLING_FACTOR, cv2.IMWRITE_JPEG_SAMPLING_FACTOR_444]
    return encoded_image(".jpg", picture, settings, opaque=True)
