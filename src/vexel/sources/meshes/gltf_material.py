"""Materials of glTF 2.0, as far as the stage draws them, and what of them is left out."""

import io
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from vexel.sources.meshes.gltf_scene import GltfScene
from vexel.sources.pictures.mixing import encoded, light_of


@dataclass(frozen=True)
class Material:
    """How a surface looks.

    Attributes
    ----------
    factor : (float, float, float, float)
        Linear light by which all colours are multiplied, and opacity.
    image : ndarray or None
        Colours by texture coordinates, shape (H, W, 4), sRGB.
    coordinates : int
        Which set of texture coordinates it takes.
    cutoff : float
        What is less opaque is not there; 0 where all is.
    blends : bool
        Whether its opacity counts.
    left_out : tuple of str
        What the material says and the stage does not draw.
    """

    factor: tuple[float, float, float, float] = (1.0, 1.0, 1.0, 1.0)
    image: NDArray[np.uint8] | None = None
    coordinates: int = 0
    cutoff: float = 0.0
    blends: bool = False
    left_out: tuple[str, ...] = ()


_NOT_DRAWN = {
    "normalTexture": "normal maps", "occlusionTexture": "occlusion maps", "emissiveTexture": "emission",
    "metallicRoughnessTexture": "metalness and roughness",
}  # fmt: skip


def read_material(scene: GltfScene, number: int | None) -> Material:
    """A material by its number; the specification's own where a surface has none."""
    if number is None:
        return Material()
    held = scene.document["materials"][number]
    look = held.get("pbrMetallicRoughness", {})
    mode = held.get("alphaMode", "OPAQUE")
    left = [words for name, words in _NOT_DRAWN.items() if name in held or name in look]
    if look.get("metallicFactor", 1.0) > 0.1 and "baseColorTexture" not in look:
        left.append("metalness and roughness")
    if any(held.get("emissiveFactor", ())):
        left.append("emission")
    left += [f"the extension {name}" for name in held.get("extensions", {}) if name != "KHR_materials_unlit"]
    image, coordinates = None, 0
    if (texture := look.get("baseColorTexture")) is not None:
        image, coordinates = _image(scene, texture["index"]), int(texture.get("texCoord", 0))
        left += [f"the extension {name}" for name in texture.get("extensions", {})]
    factor = look.get("baseColorFactor", (1.0, 1.0, 1.0, 1.0))
    return Material(
        (factor[0], factor[1], factor[2], factor[3]),
        image,
        coordinates,
        float(held.get("alphaCutoff", 0.5)) if mode == "MASK" else 0.0,
        mode == "BLEND",
        tuple(dict.fromkeys(left)),
    )


def _image(scene: GltfScene, texture: int) -> NDArray[np.uint8]:
    item = scene.document["images"][scene.document["textures"][texture]["source"]]
    with Image.open(io.BytesIO(scene.bytes_of(item))) as image:
        return np.array(image.convert("RGBA"))


def tinted(image: NDArray[np.uint8], factor: tuple[float, ...]) -> NDArray[np.uint8]:
    """A texture times a factor, which counts in linear light (glTF 2.0, section 3.9.2)."""
    if tuple(factor) == (1.0, 1.0, 1.0, 1.0):
        return image
    light = light_of(image)
    alpha = light[..., 3:].copy()
    light *= np.array([*factor[:3], 1.0], np.float32)
    light[..., :3] /= np.maximum(alpha, 1e-6)
    opaque = np.concatenate([np.clip(light[..., :3], 0, 1), np.ones_like(alpha)], axis=2)
    codes = encoded(opaque)
    codes[..., 3] = np.rint(np.clip(alpha[..., 0] * factor[3], 0, 1) * 255)
    return codes


def srgb(linear: NDArray[np.floating[Any]]) -> NDArray[np.uint8]:
    """Linear colours from 0 to 1 as sRGB codes (IEC 61966-2-1)."""
    light = np.clip(linear, 0, 1)
    codes = np.where(light <= 0.0031308, light * 12.92, 1.055 * light ** (1 / 2.4) - 0.055)
    return np.asarray(np.rint(codes * 255), np.uint8)
