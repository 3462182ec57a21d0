"""OpenEXR files: linear light in half floats, distances in whole ones."""

import tempfile
from collections.abc import Mapping
from pathlib import Path
from types import MappingProxyType
from typing import Any

import numpy as np
import OpenEXR
from numpy.typing import NDArray

from vexel.imaging.exr_window import in_display_window

HEADER = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}


def exr_bytes(channels: dict[str, NDArray[Any]], attributes: Mapping[str, float | str] = MappingProxyType({})) -> bytes:
    """A file with channels: ``RGBA``, shape (H, W, 4), or others by name, shape (H, W); of float16 or float32.

    Parameters
    ----------
    channels : dict of str to ndarray
    attributes : mapping of str to float or str
        Of its header.
    """
    with tempfile.NamedTemporaryFile(suffix=".exr") as file:
        with OpenEXR.File(
            HEADER | dict(attributes), {name: np.ascontiguousarray(values) for name, values in channels.items()}
        ) as made:
            made.write(file.name)
        return Path(file.name).read_bytes()


def raw_channels(file: Path) -> dict[str, NDArray[Any]]:
    """Every channel of a file by its name, shape (H, W).

    Raises
    ------
    RuntimeError
        When it is no OpenEXR file.
    """
    with OpenEXR.File(str(file), separate_channels=True) as read:
        return {name: np.array(channel.pixels) for name, channel in read.channels().items()}


def read_exr(file: Path) -> dict[str, NDArray[Any]]:
    """Channels of a file; colours without alpha get a full one.

    Raises
    ------
    RuntimeError, ValueError
        When it is no OpenEXR file, or has no colours, depths or normals.
    """
    with OpenEXR.File(str(file)) as read:
        channels = {
            name: in_display_window(np.array(channel.pixels), read.header(), np.inf if name == "Z" else 0.0)
            for name, channel in read.channels().items()
        }
    if "RGB" in channels:
        colours = channels["RGB"]
        channels["RGBA"] = np.concatenate([colours, np.ones_like(colours[..., :1])], axis=2)
    if "N.X" in channels:
        normals = np.stack([channels[f"N.{axis}"] for axis in "XYZ"] + [np.ones_like(channels["N.X"])], axis=2)
        # Seen as the pass of normals is: red to the right, green up, blue to the viewer.
        channels["codes"] = 0.5 * normals + 0.5
    if not {"RGBA", "Z", "codes"} & set(channels):
        raise ValueError(f"it holds {', '.join(channels) or 'nothing'}, and no colours")
    return channels
