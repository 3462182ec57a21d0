"""PNG bytes of a picture."""

import cv2
import numpy as np
from numpy.typing import NDArray

LEVEL = 1
"""zlib level; higher levels cost more than the frame itself and save a few per cent."""


def png_bytes(picture: NDArray[np.uint8]) -> bytes:
    """Encode RGBA pixels, shape (H, W, 4); a fully opaque picture is written without alpha."""
    opaque = bool((picture[..., 3] == 255).all())
    code = cv2.COLOR_RGBA2BGR if opaque else cv2.COLOR_RGBA2BGRA
    done, data = cv2.imencode(".png", cv2.cvtColor(picture, code), [cv2.IMWRITE_PNG_COMPRESSION, LEVEL])
    if not done:
        raise OSError("the picture could not be encoded as PNG")
    return data.tobytes()
