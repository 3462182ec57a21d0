"""Images of floating-point numbers, which are linear light: Radiance HDR, and TIFF of floats."""

import re
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import SourceError

RADIANCE = (b"#?RADIANCE", b"#?RGBE")
_HEAD_BYTES = 8192


def radiance_size(file: Path, head: bytes) -> tuple[int, int]:
    """Width and height of a Radiance picture (Ward, "Real Pixels", Graphics Gems II, 1991).

    Raises
    ------
    SourceError
        When it holds none, or is of a kind that is not read.
    """
    text, found, rest = head.partition(b"\n\n")
    size = re.match(rb"([-+][XY]) (\d+) ([-+][XY]) (\d+)\n", rest)
    if not found or size is None:
        raise SourceError(f"{file.name} is damaged: its header has no size; export or copy it again")
    if b"xyze" in text:
        raise SourceError(f"{file.name} has colours in XYZ, which Vexel does not read: export it in RGB")
    if (size[1], size[3]) != (b"-Y", b"+X"):
        raise SourceError(f"{file.name} is stored turned or mirrored, which Vexel does not read: export it upright")
    return int(size[4]), int(size[2])


def radiance_light(file: Path) -> NDArray[np.float32]:
    """A Radiance picture as linear light, shape (H, W, 4).

    Raises
    ------
    SourceError
        When it is damaged.
    """
    with file.open("rb") as stream:
        width, height = radiance_size(file, stream.read(_HEAD_BYTES))
    pixels = cv2.imread(str(file), cv2.IMREAD_UNCHANGED)
    if pixels is None or pixels.shape != (height, width, 3):
        raise SourceError(f"{file.name} is damaged or cut short: export or copy it again")
    return float_light(pixels)


def float_light(pixels: NDArray[np.floating]) -> NDArray[np.float32]:
    """Floats as OpenCV reads them, grey or blue, green, red and alpha, as linear light premultiplied by alpha."""
    values = np.nan_to_num(pixels.astype(np.float32), nan=0.0)
    if values.ndim == 2:
        values = np.repeat(values[..., None], 3, axis=2)
    alpha = np.clip(values[..., 3:], 0, 1) if values.shape[2] == 4 else np.ones_like(values[..., :1])
    return np.concatenate([values[..., 2::-1] * alpha, alpha], axis=2)
