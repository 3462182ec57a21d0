"""Textures of glTF 2.0: their images, how they repeat at their edges, and how their coordinates are transformed."""

import io
from collections.abc import Mapping
from dataclasses import dataclass
from math import ceil, cos, floor, sin
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from vexel.imaging.codes import to_bytes
from vexel.sources.meshes.gltf_scene import GltfScene

Array = NDArray[np.float64]
CLAMP, MIRROR, REPEAT = 33071, 33648, 10497
NEAREST = 9728
IMAGE_EXTENSIONS = ("EXT_texture_webp", "EXT_texture_avif")
"""Extensions of a texture that name an image which Pillow reads."""
MOST_SIDE = 16_384
"""Pixels along the side of a texture that was repeated to take the place of a wrap mode."""


@dataclass(frozen=True)
class Texture:
    """A picture on a surface.

    Attributes
    ----------
    image : ndarray, shape (H, W, 4), uint8
        sRGB with straight alpha, the top row first.
    coordinates : int
        Which set of texture coordinates it takes.
    wrap : (int, int)
        What continues it outside, across and down: `CLAMP`, `MIRROR` or `REPEAT`.
    filters : bool
        Whether texels are blended with their neighbours.
    transform : ndarray, shape (2, 3)
        Of texture coordinates (KHR_texture_transform).
    """

    image: NDArray[np.uint8]
    coordinates: int
    wrap: tuple[int, int]
    filters: bool
    transform: Array


def read_texture(scene: GltfScene, info: Mapping[str, Any]) -> Texture:
    """The texture that a material names."""
    held = scene.document["textures"][info["index"]]
    extensions = held.get("extensions", {})
    source = next((extensions[name]["source"] for name in IMAGE_EXTENSIONS if name in extensions), held.get("source"))
    if source is None:
        raise ValueError(f"texture {info['index']} names no image that can be read")
    sampler = scene.document["samplers"][held["sampler"]] if "sampler" in held else {}
    moved = info.get("extensions", {}).get("KHR_texture_transform", {})
    return Texture(
        _image(scene, source),
        int(moved.get("texCoord", info.get("texCoord", 0))),
        (sampler.get("wrapS", REPEAT), sampler.get("wrapT", REPEAT)),
        sampler.get("magFilter") != NEAREST,
        _transform(moved),
    )


def _image(scene: GltfScene, number: int) -> NDArray[np.uint8]:
    with Image.open(io.BytesIO(scene.bytes_of(scene.document["images"][number]))) as image:
        if image.mode.startswith("I"):
            # 16 bits a pixel, which Pillow would cut off at 255.
            grey = to_bytes(np.asarray(image).astype(np.uint16))
            return np.dstack([grey, grey, grey, np.full_like(grey, 255)])
        return np.array(image.convert("RGBA"))


def _transform(held: Mapping[str, Any]) -> Array:
    """Translation times rotation times scale, as the extension's specification states it."""
    turn = float(held.get("rotation", 0.0))
    (x, y), (wide, high) = held.get("offset", (0.0, 0.0)), held.get("scale", (1.0, 1.0))
    return np.array([[cos(turn) * wide, sin(turn) * high, x], [-sin(turn) * wide, cos(turn) * high, y]])


def placed(texture: Texture, uv: Array) -> tuple[NDArray[np.uint8], Array, bool] | None:
    """A texture's image and coordinates, so that one rule continues it on all sides.

    Renderers know one rule for both axes. A mirrored image is doubled; one that
    is clamped along one axis only is repeated along the other as often as the
    coordinates ask for.

    Parameters
    ----------
    texture : Texture
    uv : ndarray, shape (N, 2)
        From the top left, as the file has them.

    Returns
    -------
    image : ndarray, shape (H, W, 4)
    uv : ndarray, shape (N, 2)
    clamps : bool
        Whether its edge continues outside; else it repeats.
        None where it would be repeated too often.
    """
    image, uv = texture.image, uv @ texture.transform[:, :2].T + texture.transform[:, 2]
    wraps = list(texture.wrap)
    for axis, mode in enumerate(texture.wrap):
        if mode == MIRROR:
            image = np.concatenate([image, np.flip(image, 1 - axis)], axis=1 - axis)
            uv[:, axis] /= 2
            wraps[axis] = REPEAT
    if wraps[0] == wraps[1]:
        return image, uv, wraps[0] == CLAMP
    axis = wraps.index(REPEAT)
    low, high = floor(uv[:, axis].min()), ceil(uv[:, axis].max())
    times = max(high - low, 1)
    if times * image.shape[1 - axis] > MOST_SIDE:
        return None
    uv[:, axis] = (uv[:, axis] - low) / times
    return np.concatenate([image] * times, axis=1 - axis), uv, True
