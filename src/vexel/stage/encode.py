"""A picture as the bytes of a file."""

import cv2
import numpy as np
from numpy.typing import NDArray

PNG_LEVEL = 1
"""zlib level; higher levels cost more than the frame itself and save a few per cent."""

JPEG_QUALITY = 93


def png_bytes(picture: NDArray[np.uint8]) -> bytes:
    """Encode RGBA pixels, shape (H, W, 4); a fully opaque picture is written without alpha."""
    opaque = bool((picture[..., 3] == 255).all())
    code = cv2.COLOR_RGBA2BGR if opaque else cv2.COLOR_RGBA2BGRA
    done, data = cv2.imencode(".png", cv2.cvtColor(picture, code), [cv2.IMWRITE_PNG_COMPRESSION, PNG_LEVEL])
    if not done:
        raise OSError("the picture could not be encoded as PNG")
    return data.tobytes()


def grey_png_bytes(codes: NDArray[np.uint16]) -> bytes:
    """Encode codes of 16 bits, shape (H, W), as a grey picture."""
    done, data = cv2.imencode(".png", codes, [cv2.IMWRITE_PNG_COMPRESSION, PNG_LEVEL])
    if not done:
        raise OSError("the picture could not be encoded as PNG")
    return data.tobytes()


def jpeg_bytes(picture: NDArray[np.uint8]) -> bytes:
    """Encode an opaque picture for a passing look: five times as fast as PNG, colours at full resolution."""
    settings = [cv2.IMWRITE_JPEG_QUALITY, JPEG_QUALITY]
    settings += [cv2.IMWRITE_JPEG_SAMPLING_FACTOR, cv2.IMWRITE_JPEG_SAMPLING_FACTOR_444]
    done, data = cv2.imencode(".jpg", cv2.cvtColor(picture, cv2.COLOR_RGBA2BGR), settings)
    if not done:
        raise OSError("the picture could not be encoded as JPEG")
    return data.tobytes()
