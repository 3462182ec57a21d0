"""Meshes of a glTF 2.0 file at any time of its animation: nodes, shapes and skins (sections 3.6, 3.7 and 3.11)."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
import pyvista as pv
from numpy.typing import NDArray

from vexel.core.errors import Mistake
from vexel.core.wording import nearest_name
from vexel.sources.meshes.coordinates import compact
from vexel.sources.meshes.gltf_material import DRAWN, Material, read_material, srgb
from vexel.sources.meshes.gltf_nodes import VISIBLE, channels_of, check_count, instances_of, is_visible, visible_at_rest
from vexel.sources.meshes.gltf_scene import GltfScene
from vexel.sources.meshes.gltf_texture import placed
from vexel.sources.meshes.parts import Part

Array = NDArray[np.float64]
TRIANGLES, STRIP, FAN = 4, 5, 6
INVISIBLE = frozenset({"KHR_xmp_json_ld", "KHR_xmp", "EXT_meshopt_compression"})
"""Extensions that change nothing of what is drawn where a file can be read without them."""


@dataclass(frozen=True)
class Surface:
    """Triangles of one material on a node, at rest.

    Attributes
    ----------
    node : int
    points : ndarray, shape (N, 3)
    normals : ndarray, shape (N, 3), or None
    shapes : tuple of ndarray, shape (N, 3)
        By how much each shape moves the points.
    joints, weights : ndarray, shape (N, J), or None
        Which joints of the node's skin move a point, and how much.
    instances : ndarray, shape (K, 4, 4), or None
        Where it is repeated, relative to the node.
    part : Part
        Its look, with its points at rest, once for each instance.
    """

    node: int
    points: Array
    normals: Array | None
    shapes: tuple[Array, ...]
    joints: NDArray[np.int64] | None
    weights: Array | None
    instances: Array | None
    part: Part


class GltfModel:
    """A file's meshes, with one of its animations.

    Parameters
    ----------
    file : Path
    animation : str
        Its name; empty takes the first one.

    Attributes
    ----------
    animations : list of str
    seconds : float
        How long the animation lasts; 0 where there is none.
    left_out : tuple of str
        What the file says and is not drawn.

    Raises
    ------
    ValueError, KeyError, IndexError
        When the file is damaged.
    Mistake
        When it has no such animation, or needs what is not read.
    """

    def __init__(self, file: Path, animation: str = "") -> None:
        self._scene = scene = GltfScene(file)
        required = [name for name in scene.document.get("extensionsRequired", []) if name not in DRAWN]
        if required:
            raise Mistake(f"{file.name} needs {', '.join(required)}, which Vexel does not read: export it without")
        held = scene.document.get("animations", [])
        self.animations = [str(one.get("name") or f"animation {n}") for n, one in enumerate(held, start=1)]
        if animation and animation not in self.animations:
            known = nearest_name(animation, self.animations) if self.animations else "it has none"
            raise Mistake(f"source.animation: {file.name} has no animation {animation!r}; {known}")
        left: dict[str, None] = {}
        used = scene.document.get("extensionsUsed", [])
        left |= {f"the extension {name}": None for name in used if name not in DRAWN | INVISIBLE}
        chosen = held[self.animations.index(animation) if animation else 0] if held else {"channels": []}
        self._channels = channels_of(chosen, left)
        samplers = [sampler for channels in self._channels.values() for sampler in channels.values()]
        self._begin = min((float(scene.values(s["input"])[0, 0]) for s in samplers), default=0.0)
        self.seconds = max((float(scene.values(s["input"])[-1, 0]) for s in samplers), default=0.0)
        self._materials: dict[int | None, Material] = {}
        self._surfaces = [surface for node in self._shown_nodes() for surface in self._read(node, left)]
        for material in self._materials.values():
            left |= dict.fromkeys(material.left_out)
        self.left_out = tuple(left)

    def parts_at(self, seconds: float) -> list[Part]:
        """Parts at a time of the animation."""
        times = np.array([seconds])
        places = {node: self._global(node, times) for node in range(len(self._scene.nodes))}
        parts = [self._moved(surface, places, times) for surface in self._surfaces]
        seen = [is_visible(self._scene, surface.node, self._channels, times) for surface in self._surfaces]
        # What is not seen for a while stays a part, so that the subject keeps its extent.
        return [part if shown else replace(part, opacity=0.0) for part, shown in zip(parts, seen, strict=True)]

    @property
    def loops(self) -> bool:
        """Whether the animation ends as it began."""
        first, last = (self.parts_at(at) for at in (self._begin, self.seconds))
        size = max(float(part.mesh.length) for part in first)
        return all(
            np.abs(np.asarray(a.mesh.points) - np.asarray(b.mesh.points)).max(initial=0) < 1e-3 * size
            for a, b in zip(first, last, strict=True)
        )

    def _shown_nodes(self) -> Iterator[int]:
        """Nodes of the file's scene that carry a mesh."""
        document = self._scene.document
        scenes = document.get("scenes")
        roots = scenes[document.get("scene", 0)].get("nodes", []) if scenes else range(len(self._scene.nodes))
        waiting, seen = list(roots), set()
        while waiting:
            node = waiting.pop(0)
            if node in seen:
                continue
            seen.add(node)
            if not self._is_ever_seen(node):
                continue
            waiting.extend(self._scene.nodes[node].get("children", []))
            if "mesh" in self._scene.nodes[node]:
                yield node

    def _is_ever_seen(self, node: int) -> bool:
        """Whether a node is seen at rest, or its visibility is animated."""
        return VISIBLE in self._channels.get(node, {}) or visible_at_rest(self._scene, node)

    def _read(self, node: int, left: dict[str, None]) -> Iterator[Surface]:
        held = self._scene.nodes[node]
        mesh = self._scene.document["meshes"][held["mesh"]]
        name = str(held.get("name") or mesh.get("name") or f"node {node}")
        instances = instances_of(self._scene, node, left)
        for number, primitive in enumerate(mesh["primitives"]):
            if primitive.get("mode", TRIANGLES) not in (TRIANGLES, STRIP, FAN):
                left["points and lines"] = None
                continue
            several = f" {number + 1}" if len(mesh["primitives"]) > 1 else ""
            surface = self._surface(node, primitive, left)
            if instances is not None:
                check_count(len(surface.points), len(instances), name)
                surface = replace(surface, instances=instances, part=_repeated(surface.part, len(instances)))
            yield replace(surface, part=replace(surface.part, name=f"{name}{several}"))

    def _surface(self, node: int, primitive: dict[str, Any], left: dict[str, None]) -> Surface:
        values, given = self._scene.values, primitive["attributes"]
        points = values(given["POSITION"])
        triangles = _triangles(primitive, len(points), values)
        if triangles.size and triangles.max() >= len(points):
            raise ValueError(f"a face uses vertex {triangles.max():,} of {len(points):,}")
        number = primitive.get("material")
        if number not in self._materials:
            self._materials[number] = read_material(self._scene, number)
        material = self._materials[number]
        colours = values(given["COLOR_0"]) if "COLOR_0" in given else None
        uv = None
        if material.texture is not None:
            coordinates = given.get(f"TEXCOORD_{material.texture.coordinates}")
            uv = values(coordinates)[:, :2] if coordinates is not None else None
            if uv is None:
                left["a texture of a surface without texture coordinates"] = None
        mesh = pv.PolyData.from_regular_faces(points, triangles)
        joints = [values(given[key]) for key in sorted(given) if key.startswith("JOINTS_")]
        weights = [values(given[key]) for key in sorted(given) if key.startswith("WEIGHTS_")]
        return Surface(
            node,
            points,
            values(given["NORMAL"]) if "NORMAL" in given else None,
            tuple(values(shape["POSITION"]) for shape in primitive.get("targets", []) if "POSITION" in shape),
            np.concatenate(joints, axis=1).astype(np.int64) if joints else None,
            np.concatenate(weights, axis=1) if weights else None,
            None,
            replace(_looking(mesh, material, colours, uv, left), lit=material.lit),
        )

    def _moved(self, surface: Surface, places: dict[int, Array], times: Array) -> Part:
        points, normals = surface.points, surface.normals
        if surface.shapes:
            for weight, shape in zip(self._weights(surface.node, times), surface.shapes, strict=False):
                points = points + weight * shape
            normals = None  # They must be calculated from the morphed shape.
        skin = self._scene.nodes[surface.node].get("skin")
        if skin is not None and surface.joints is not None and surface.weights is not None:
            by_joint = self._joints(skin, places)
            # A skin follows its joints and ignores its own node (glTF 2.0, section 3.7.3.3).
            sums = np.maximum(surface.weights.sum(axis=1, keepdims=True), 1e-12)
            place = np.einsum("nj,njab->nab", surface.weights / sums, by_joint[surface.joints])
            points = np.einsum("nab,nb->na", place[:, :3, :3], points) + place[:, :3, 3]
            normals = None if normals is None else np.einsum("nab,nb->na", place[:, :3, :3], normals)
        else:
            matrices = places[surface.node] @ (np.eye(4)[None] if surface.instances is None else surface.instances)
            points = (points @ matrices[:, :3, :3].swapaxes(1, 2) + matrices[:, None, :3, 3]).reshape(-1, 3)
            if normals is not None:
                # Normals turn by the inverse transpose, so that an uneven scale leaves them upright.
                normals = (normals @ np.linalg.pinv(matrices[:, :3, :3])).reshape(-1, 3)
        mesh = surface.part.mesh.copy(deep=False)
        # New points: a shallow copy shares them with its original.
        mesh.SetPoints(pv.vtk_points(compact(points)))
        if normals is not None:
            mesh.point_data["Normals"] = (
                normals / np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-30)
            ).astype(np.float32)
        return replace(surface.part, mesh=mesh, rigid=not self._channels)

    def _weights(self, node: int, times: Array) -> Array:
        held = self._scene.nodes[node]
        if "weights" in self._channels.get(node, {}):
            driven: Array = self._scene.sampled(self._channels[node]["weights"], times)[0]
            return driven
        return np.array(held.get("weights") or self._scene.document["meshes"][held["mesh"]].get("weights") or [])

    def _joints(self, skin: int, places: dict[int, Array]) -> Array:
        held = self._scene.document["skins"][skin]
        count = len(held["joints"])
        if "inverseBindMatrices" in held:
            inverse = self._scene.values(held["inverseBindMatrices"]).reshape(-1, 4, 4).swapaxes(1, 2)
        else:
            inverse = np.tile(np.eye(4), (count, 1, 1))
        return np.stack([places[joint] @ inverse[n] for n, joint in enumerate(held["joints"])])

    def _global(self, node: int, times: Array) -> Array:
        matrix = np.eye(4)
        for number in self._scene.chain(node):
            turns, move, scale = self._scene.local(number, self._channels.get(number, {}), times)
            own = np.eye(4)
            own[:3, :3], own[:3, 3] = turns[0] * scale[0], move[0]
            matrix = own @ matrix
        return matrix


def _triangles(primitive: dict[str, Any], count: int, values: Any) -> NDArray[np.int64]:
    corners = values(primitive["indices"])[:, 0].astype(np.int64) if "indices" in primitive else np.arange(count)
    mode = primitive.get("mode", TRIANGLES)
    if mode == STRIP:
        strip = np.stack([corners[:-2], corners[1:-1], corners[2:]], axis=1)
        strip[1::2] = strip[1::2, [1, 0, 2]]
        return strip
    if mode == FAN:
        return np.stack([np.full(len(corners) - 2, corners[0]), corners[1:-1], corners[2:]], axis=1)
    return corners[: len(corners) // 3 * 3].reshape(-1, 3)


def _looking(
    mesh: pv.PolyData, material: Material, colours: Array | None, uv: Array | None, left: dict[str, None]
) -> Part:
    """A part that looks as its material says: a texture times colours of its points, or one colour."""
    opacity = material.factor[3] if material.blends else 1.0
    look: dict[str, Any] = {"cutoff": material.cutoff, "blends": material.blends}
    textured = placed(material.texture, uv) if material.texture is not None and uv is not None else None
    if textured is not None:
        image, uv, clamps = textured
        # Of pictures the top row is first, and texture coordinates count from there.
        mesh.active_texture_coordinates = np.column_stack([uv[:, 0], 1 - uv[:, 1]]).astype(np.float32)
        if not material.blends and not material.cutoff:
            image = image[..., :3]
        assert material.texture is not None
        look |= {"texture": np.ascontiguousarray(image), "clamps": clamps, "filters": material.texture.filters}
    elif material.texture is not None and uv is not None:
        left["a texture that is repeated along one axis alone very often"] = None
    if colours is not None:
        rgba = np.ones((len(colours), 4))
        rgba[:, : colours.shape[1]] = colours
        if textured is None:
            rgba *= material.factor
        codes = np.empty((len(colours), 4), np.uint8)
        codes[:, :3] = srgb(rgba[:, :3])
        codes[:, 3] = np.rint(255 * np.clip(rgba[:, 3], 0, 1)) if material.blends or material.cutoff else 255
        mesh.point_data["RGBA"] = codes
        return Part(mesh, direct="RGBA", **look)
    if textured is not None:
        return Part(mesh, **look)
    red, green, blue = srgb(np.array(material.factor[:3]))
    # The specification's own material is white; the stage's clay shows more of the form.
    colour = "" if material == Material() else f"#{red:02x}{green:02x}{blue:02x}"
    return Part(mesh, colour=colour, opacity=opacity)


def _repeated(part: Part, times: int) -> Part:
    """A part with its mesh repeated one after another."""
    mesh = part.mesh
    faces = mesh.regular_faces
    each = np.arange(times)[:, None, None] * mesh.n_points
    whole = pv.PolyData.from_regular_faces(
        np.tile(np.asarray(mesh.points), (times, 1)), (faces[None] + each).reshape(-1, 3)
    )
    for name, values in mesh.point_data.items():
        whole.point_data[name] = np.tile(np.asarray(values), (times, *([1] * (values.ndim - 1))))
    if mesh.active_texture_coordinates is not None:
        whole.active_texture_coordinates = np.tile(np.asarray(mesh.active_texture_coordinates), (times, 1))
    return replace(part, mesh=whole)
