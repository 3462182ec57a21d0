"""Materials of glTF 2.0, as far as the stage draws them, and their ignored parts."""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.imaging.light import encoded, light_of
from vexel.imaging.transfer import encoded_light
from vexel.sources.meshes.gltf_scene import GltfScene
from vexel.sources.meshes.gltf_texture import IMAGE_EXTENSIONS, Texture, read_texture


@dataclass(frozen=True)
class Material:
    """How a surface looks.

    Attributes
    ----------
    factor : (float, float, float, float)
        Linear light by which all colours are multiplied, and opacity.
    texture : Texture or None
        Its image includes the factor.
    cutoff : float
        What is less opaque is not there; 0 where all is.
    blends : bool
        Whether its opacity counts.
    lit : bool
        Whether light falls on it (KHR_materials_unlit).
    left_out : tuple of str
        What the material says and the stage does not draw.
    """

    factor: tuple[float, float, float, float] = (1.0, 1.0, 1.0, 1.0)
    texture: Texture | None = None
    cutoff: float = 0.0
    blends: bool = False
    lit: bool = True
    left_out: tuple[str, ...] = ()


UNLIT = "KHR_materials_unlit"
DRAWN = frozenset(
    {"KHR_mesh_quantization", UNLIT, "KHR_texture_transform", "KHR_animation_pointer", "KHR_node_visibility",
     "EXT_mesh_gpu_instancing", *IMAGE_EXTENSIONS}
)  # fmt: skip
"""Extensions that are drawn; a file that requires another one cannot be shown."""
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
    lit = UNLIT not in held.get("extensions", {})
    if lit and look.get("metallicFactor", 1.0) > 0.1 and "baseColorTexture" not in look:
        left.append("metalness and roughness")
    if any(held.get("emissiveFactor", ())):
        left.append("emission")
    left += [f"the extension {name}" for name in held.get("extensions", {}) if name not in DRAWN]
    red, green, blue, alpha = factor = look.get("baseColorFactor", (1.0, 1.0, 1.0, 1.0))
    texture = None
    if (info := look.get("baseColorTexture")) is not None:
        texture = read_texture(scene, info)
        texture = replace(texture, image=tinted(texture.image, factor))
        left += [f"the extension {name}" for name in info.get("extensions", {}) if name not in DRAWN]
    return Material(
        (red, green, blue, alpha),
        texture,
        float(held.get("alphaCutoff", 0.5)) if mode == "MASK" else 0.0,
        mode == "BLEND",
        lit,
        tuple(dict.fromkeys(left)),
    )


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
    return np.asarray(np.rint(encoded_light(np.clip(linear, 0, 1)) * 255), np.uint8)
