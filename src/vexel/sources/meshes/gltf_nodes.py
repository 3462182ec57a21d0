"""Nodes of glTF 2.0: what an animation drives of them, whether they are seen, and how often their mesh is repeated."""

import re
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from vexel.core.errors import Mistake
from vexel.sources.meshes.gltf_scene import Channels, GltfScene

Array = NDArray[np.float64]
DRIVEN = ("translation", "rotation", "scale", "weights")
VISIBLE = "visible"
INSTANCING, VISIBILITY, POINTER = "EXT_mesh_gpu_instancing", "KHR_node_visibility", "KHR_animation_pointer"
PLACES = ("TRANSLATION", "ROTATION", "SCALE")
MOST_POINTS = 20_000_000
"""Points of all instances of a mesh."""


def channels_of(animation: dict[str, Any], left: dict[str, None]) -> dict[int, Channels]:
    """Samplers of an animation by node and by what they move.

    Parameters
    ----------
    animation : dict
    left : dict of str
        Takes what the animation drives and is not drawn.
    """
    found: dict[int, Channels] = {}
    for channel in animation["channels"]:
        node, path = _target(channel["target"], left)
        if node is not None:
            found.setdefault(node, {})[path] = animation["samplers"][channel["sampler"]]
    return found


def _target(target: dict[str, Any], left: dict[str, None]) -> tuple[int | None, str]:
    if target["path"] != "pointer":
        return (target.get("node"), target["path"]) if target["path"] in DRIVEN else (None, "")
    pointer = str(target.get("extensions", {}).get(POINTER, {}).get("pointer", ""))
    if match := re.fullmatch(rf"/nodes/(\d+)/({'|'.join(DRIVEN)}|extensions/{VISIBILITY}/{VISIBLE})", pointer):
        return int(match[1]), match[2].rpartition("/")[2]
    if not pointer.startswith("/cameras/"):
        left[f"the animation of {pointer or 'nothing that it names'}"] = None
    return None, ""


def is_visible(scene: GltfScene, node: int, channels: dict[int, Channels], times: Array) -> bool:
    """Whether a node and all those above it are seen at a time (KHR_node_visibility); `times` of shape (1,)."""
    return all(_own_visibility(scene, above, channels, times) for above in scene.chain(node))


def _own_visibility(scene: GltfScene, node: int, channels: dict[int, Channels], times: Array) -> bool:
    if (sampler := channels.get(node, {}).get(VISIBLE)) is not None:
        return bool(scene.sampled({**sampler, "interpolation": "STEP"}, times)[0, 0] > 0)
    return visible_at_rest(scene, node)


def visible_at_rest(scene: GltfScene, node: int) -> bool:
    """Whether a node itself is visible without an animation, whether or not its parents are."""
    held = scene.nodes[node].get("extensions", {}).get(VISIBILITY, {})
    return bool(held.get(VISIBLE, True))


def instances_of(scene: GltfScene, node: int, left: dict[str, None]) -> Array | None:
    """Places of a node's instances relative to it, shape (K, 4, 4); None where its mesh is there once.

    Raises
    ------
    ValueError
        When the attributes have different lengths.
    """
    held = scene.nodes[node].get("extensions", {}).get(INSTANCING)
    if held is None:
        return None
    given = {name: scene.values(number) for name, number in held.get("attributes", {}).items()}
    if len({len(values) for values in given.values()}) != 1:
        raise ValueError(f"the instances of node {node} have attributes of different lengths, or none")
    left |= {f"the instance attribute {name}": None for name in given if name not in PLACES}
    count = len(next(iter(given.values())))
    places = np.tile(np.eye(4), (count, 1, 1))
    if "ROTATION" in given:
        places[:, :3, :3] = Rotation.from_quat(given["ROTATION"]).as_matrix()
    if "SCALE" in given:
        places[:, :3, :3] *= given["SCALE"][:, None, :]
    if "TRANSLATION" in given:
        places[:, :3, 3] = given["TRANSLATION"]
    return places


def check_count(points: int, instances: int, name: str) -> None:
    """Refuse instances that would fill the memory.

    Raises
    ------
    Mistake
        Naming the mesh.
    """
    if points * instances > MOST_POINTS:
        raise Mistake(
            f"{name} is repeated {instances:,} times, {points * instances:,} points in all; Vexel draws up to "
            f"{MOST_POINTS:,}: export fewer instances, or a simpler mesh"
        )
