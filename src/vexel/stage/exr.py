"""OpenEXR files: linear light in half floats, distances in whole ones."""

import tempfile
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
from numpy.typing import NDArray

HEADER = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}


def exr_bytes(channels: dict[str, NDArray[Any]]) -> bytes:
    """A file with channels: ``RGBA``, shape (H, W, 4), float16, or ``Z``, shape (H, W), float32."""
    with tempfile.NamedTemporaryFile(suffix=".exr") as file:
        with OpenEXR.File(HEADER, {name: np.ascontiguousarray(values) for name, values in channels.items()}) as made:
            made.write(file.name)
        return Path(file.name).read_bytes()


def read_exr(file: Path) -> dict[str, NDArray[Any]]:
    """Channels of a file; colours without alpha get a full one.

    Raises
    ------
    RuntimeError, ValueError
        When it is no OpenEXR file, or has no colours and no depths.
    """
    with OpenEXR.File(str(file)) as read:
        channels = {name: np.array(channel.pixels) for name, channel in read.channels().items()}
    if "RGB" in channels:
        colours = channels["RGB"]
        channels["RGBA"] = np.concatenate([colours, np.ones_like(colours[..., :1])], axis=2)
    if not {"RGBA", "Z"} & set(channels):
        raise ValueError(f"it holds {', '.join(channels) or 'nothing'}, and no colours")
    return channels
