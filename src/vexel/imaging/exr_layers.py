"""OpenEXR files as pictures: their layers by name, and one of them as linear light."""

from collections.abc import Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import SourceError
from vexel.core.wording import nearest_name
from vexel.imaging.exr_window import in_display_window, shown_size

if TYPE_CHECKING:
    from collections.abc import Iterator

    import OpenEXR

COLOURS = (("R", "G", "B"), ("r", "g", "b"), ("X", "Y", "Z"), ("x", "y", "z"), ("Y",), ("Z",))
"""Channels that make a picture, the usual ones first; one alone is grey."""


@dataclass(frozen=True)
class Layer:
    """Channels of one name before their last dot, or of one part.

    Attributes
    ----------
    name : str
        Empty for that without a name in the first part, which most programs show.
    part : int
    prefix : str
        What is before the channels' own names, with its dot.
    channels : tuple of str
        Their own names.
    """

    name: str
    part: int
    prefix: str
    channels: tuple[str, ...]

    @property
    def colours(self) -> tuple[str, ...]:
        """Names of the channels that make its picture: three, or one; a single channel of any name alone."""
        found = next((names for names in COLOURS if set(names) <= set(self.channels)), ())
        rest = [name for name in self.channels if name not in ("A", "a")]
        return found or (tuple(rest) if len(rest) == 1 else ())


def layers_of(headers: list[Mapping[str, Any]]) -> list[Layer]:
    """Layers that hold a picture, by the headers of a file's parts.

    See "Technical Introduction to OpenEXR", Academy Software Foundation: layers are named by dots within the names
    of channels, or are separate parts with a name.
    """
    found: list[Layer] = []
    for part, header in enumerate(headers):
        by_prefix: dict[str, list[str]] = {}
        for channel in header["channels"]:
            prefix, dot, own = channel.name.rpartition(".")
            by_prefix.setdefault(prefix + dot, []).append(own)
        for prefix, channels in by_prefix.items():
            name = prefix.rstrip(".") or (str(header.get("name", "")) if part else "")
            found.append(Layer(name, part, prefix, tuple(channels)))
    return [layer for layer in found if layer.colours]


def exr_layers(file: Path) -> list[Layer]:
    """Layers of a file that hold a picture.

    Raises
    ------
    SourceError
        When it is damaged.
    """
    with _opened(file, header_only=True) as exr:
        return layers_of(_headers(exr))


def exr_header(file: Path) -> tuple[int, int, str, bool]:
    """Width, height, what its channels are in words, and whether it has alpha.

    Raises
    ------
    SourceError
        When it is damaged.
    """
    with _opened(file, header_only=True) as exr:
        width, height = shown_size(exr.header())
        names = "".join(channel.name for channel in exr.header()["channels"] if "." not in channel.name)
        more = len([layer for layer in layers_of(_headers(exr)) if layer.name])
        layers = f"{more} layer{'' if more == 1 else 's'}" if more else ""
        return width, height, " ".join(word for word in ("EXR", names, layers) if word), "A" in names


def exr_light(file: Path, layer: str = "") -> NDArray[np.float32]:
    """A layer as linear light with premultiplied alpha, shape (H, W, 4), as OpenEXR's specification says.

    Parameters
    ----------
    file : Path
    layer : str
        Its name; empty takes the one without a name, or else the first.

    Raises
    ------
    SourceError
        When it is damaged or cut short, or has no such layer, or none that is a picture.
    """
    with _opened(file) as exr:
        chosen = chosen_layer(layers_of(_headers(exr)), layer, file.name)
        header, channels = exr.header(chosen.part), exr.channels(chosen.part)
        held = {
            name: in_display_window(np.asarray(channels[chosen.prefix + name].pixels, np.float32), header)
            for name in chosen.channels
        }
    names = chosen.colours if len(chosen.colours) == 3 else chosen.colours * 3
    linear = np.stack([held[name] for name in names], axis=-1)
    opaque = np.ones(linear.shape[:2], np.float32)
    alpha = np.clip(held.get("A", held.get("a", opaque)), 0, 1)[..., None]
    return np.concatenate([linear, alpha], axis=-1)


def chosen_layer(layers: list[Layer], name: str, file: str) -> Layer:
    """The layer of a name; see `exr_light`.

    Raises
    ------
    SourceError
        When there is none.
    """
    if not layers:
        raise SourceError(f"{file} has no channels that make a picture: export it with R, G and B, or Y")
    if not name:
        return next((layer for layer in layers if not layer.name), layers[0])
    chosen = next((layer for layer in layers if layer.name == name), None)
    if chosen is None:
        names = [layer.name for layer in layers if layer.name]
        raise SourceError(f"{file} has no layer {name!r}; {nearest_name(name, names) if names else 'it has one only'}")
    return chosen


def _headers(exr: "OpenEXR.File") -> list[Mapping[str, Any]]:
    return [part.header for part in exr.parts]


@contextmanager
def _opened(file: Path, header_only: bool = False) -> "Iterator[OpenEXR.File]":
    import OpenEXR

    try:
        with OpenEXR.File(str(file), separate_channels=True, header_only=header_only) as exr:
            yield exr
    except (RuntimeError, OSError, KeyError) as error:
        raise SourceError(f"{file.name} is damaged or cut short ({error}): export or copy it again") from None
