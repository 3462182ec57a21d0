"""Source kind ``object``: a mesh file, turned upright and with its colours."""

from collections.abc import Mapping
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pyvista as pv
import trimesh
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from vexel.core.errors import Mistake, SourceError
from vexel.core.evaluate.source_facts import SourceFacts, SourceFinding
from vexel.core.time.animation_length import AnimationLength
from vexel.imaging.codes import to_bytes
from vexel.imaging.transfer import encoded_light, linear
from vexel.sources.meshes.coordinates import compact
from vexel.sources.meshes.gltf_model import GltfModel
from vexel.sources.meshes.material_file import Material, Resolver, materials_of, missing_beside, mtl_left_out
from vexel.sources.meshes.mesh_format import cut_short, mesh_format, no_faces
from vexel.sources.meshes.parts import Part, as_parts, check_parts
from vexel.sources.meshes.ply import ply_textures
from vexel.sources.meshes.point_file import read_points
from vexel.sources.meshes.splats import LOW_PASS
from vexel.sources.meshes.stl import read_binary_stl
from vexel.sources.meshes.upright import up_of
from vexel.sources.protocols import FrameRequest

Y_UP = ("glTF", "GLB")
"""Formats whose specification says that +y is up (glTF 2.0, section 3.4)."""


class ObjectFile:
    """A mesh file, read.

    Raises
    ------
    SourceError
        When the file is not a whole mesh with faces, nor a cloud of points.
    """

    def __init__(self, file: Path, up: str = "auto", animation: str = "", low_pass: float = LOW_PASS) -> None:
        held = mesh_format(file)
        self._model: GltfModel | None = None
        try:
            points = read_points(file) if held == "PLY" else None
            if points and points.splats:
                points = replace(points, splats=replace(points.splats, low_pass=low_pass))
            self._splats = points.splats if points else None
            if held in Y_UP:
                self._model = GltfModel(file, animation)
                parts = self._model.parts_at(0.0)
            else:
                parts = [points] if points else _read_vtp(file) if held == "VTP" else _read_by_trimesh(file, held)
        except (SourceError, Mistake):
            raise
        except Exception as error:  # noqa: BLE001 (readers raise anything on a damaged mesh)
            raise SourceError(
                f"{file.name} cannot be read as {held}: {str(error) or type(error).__name__}; export it again"
            ) from None
        if not parts:
            raise no_faces(file)
        try:
            check_parts(parts)
        except ValueError as error:
            raise SourceError(f"{file.name}: {error}; export it again") from None
        guess = up_of([part.mesh for part in parts])
        stands_on_y = up == "y" or (up == "auto" and held in Y_UP)
        self._stands_on_y = stands_on_y
        seconds = self._model.seconds if self._model else 0.0
        self.facts = SourceFacts(
            time_inputs=("seconds",) if seconds else (),
            up="y" if stands_on_y else "z",
            up_stated=held in Y_UP,
            up_guess=guess,
            length=self._length(),
            about=tuple(("animation", name) for name in (self._model.animations if self._model else ())),
            findings=tuple(self._findings(file, held, animation)),
        )
        self._parts = [replace(part, rigid=not seconds) for part in self._upright(parts)]

    def show(self, asked: FrameRequest) -> list[Part]:
        """The parts, at their place in the animation where the file has one; see `Source.show`."""
        if self._model is None or not self._model.seconds:
            return self._parts
        at, lasts = float(asked.time_inputs.get("seconds", 0)), self._model.seconds
        return self._upright(self._model.parts_at(at if at <= lasts else at % lasts))

    def _upright(self, parts: list[Part]) -> list[Part]:
        if not self._stands_on_y:
            return parts
        for part in parts:
            part.mesh.rotate_x(90, inplace=True)
        turn = Rotation.from_euler("x", 90, degrees=True)
        return [replace(part, splats=part.splats.turned(turn)) if part.splats else part for part in parts]

    def _length(self) -> AnimationLength | None:
        if self._model is None or not self._model.seconds:
            return None
        # Its keys are 32-bit floats: 1.6666666269 is meant to be 5/3.
        seconds = Fraction(self._model.seconds).limit_denominator(10_000)
        return AnimationLength(str(seconds), self._model.loops, len(self._model.animations))

    def _findings(self, file: Path, held: str, animation: str) -> list[SourceFinding]:
        """What the file says and is not drawn, and what it needs and is not there."""
        found = []
        left = self._model.left_out if self._model else mtl_left_out(file) if held == "OBJ" else ()
        if left:
            found.append(SourceFinding("not-drawn", {"what": ", ".join(left)}))
        if self._splats is not None and not self._splats.coloured:
            found.append(SourceFinding("no-point-colours"))
        if self._splats is not None and not self._splats.soft and self._splats.opacities.min() < 1:
            found.append(SourceFinding("not-drawn", {"what": "transparent points"}))
        missing = missing_beside(file) if held == "OBJ" else []
        if held == "PLY":
            missing = [name for name, place in ply_textures(file) if not place.is_file()]
        if missing:
            found.append(SourceFinding("missing-beside", {"count": len(missing), "files": ", ".join(missing[:4])}))
        if self._model and len(self._model.animations) > 1 and not animation:
            names = ", ".join(self._model.animations[1:5])
            found.append(SourceFinding("animations", {"first": self._model.animations[0], "others": names}))
        return found


def _read_vtp(file: Path) -> list[Part]:
    mesh = pv.read(file)
    if mesh.n_points == 0 or mesh.n_cells == mesh.n_verts:
        raise no_faces(file)
    return as_parts(mesh)


def _read_by_trimesh(file: Path, held: str) -> list[Part]:
    if held == "OBJ":
        _check_obj(file)
    if held == "STL" and (stl := read_binary_stl(file)) is not None:
        # Each of its faces has three separate corners.
        points, faces = _joined(stl.corners.reshape(-1, 3), np.arange(3 * len(stl.corners)).reshape(-1, 3))
        surface = pv.PolyData.from_regular_faces(points, faces)
        if stl.colours is None:
            return [Part(surface, name=file.stem)]
        surface.cell_data["RGBA"] = stl.colours
        return [Part(surface, direct="RGBA", name=file.stem)]
    # Unprocessed: merging vertices would renumber them, and lose the file's own normals and seams.
    more: dict[str, Any] = {"resolver": Resolver(file)} if held == "OBJ" else {}
    if held == "PLY" and not all(place.is_file() for _, place in ply_textures(file)):
        more["skip_materials"] = True
    materials = materials_of(file) if held == "OBJ" else {}
    scene = trimesh.load_scene(file, file_type=held.lower(), process=False, **more)
    parts = []
    for node in scene.graph.nodes_geometry:
        placed, name = scene.graph[node]
        mesh = scene.geometry[name]
        if isinstance(mesh, trimesh.Trimesh) and len(mesh.faces):
            parts.append(replace(_part_of(mesh, placed, file, held, materials), name=str(node)))
    return parts


def _check_obj(file: Path) -> None:
    """OBJ readers pass over faces whose vertices are missing; a cut file shows by them."""
    vertices = faces = highest = 0
    with file.open("rb") as lines:
        for line in lines:
            if line.startswith(b"v "):
                vertices += 1
            elif line.startswith(b"f "):
                faces += 1
                for corner in line.split()[1:]:
                    number = corner.split(b"/", 1)[0]
                    if number.isdigit():
                        highest = max(highest, int(number))
    if highest > vertices:
        raise cut_short(file, f"a vertex {highest:,} (a face uses it)", f"{vertices:,} vertices")
    if faces == 0:
        raise no_faces(file)


def _part_of(
    mesh: trimesh.Trimesh, placed: NDArray[np.float64], file: Path, held: str, materials: Mapping[str, Material]
) -> Part:
    """A mesh of the file where the file's scene places it, a matrix of shape (4, 4)."""
    if mesh.faces.max() >= len(mesh.vertices):
        raise cut_short(file, f"a vertex {mesh.faces.max() + 1:,} (a face uses it)", f"{len(mesh.vertices):,}")
    points = trimesh.transform_points(mesh.vertices, placed)
    faces = np.asarray(mesh.faces, dtype=np.int64)
    if held == "STL":
        # Each of its faces has three separate corners.
        points, faces = _joined(points, faces)
    surface = pv.PolyData.from_regular_faces(points, faces)
    if held != "STL" and "vertex_normals" in mesh._cache:  # the file's own; trimesh would otherwise make its own up
        # Normals turn by the inverse transpose, so that an uneven scale leaves them upright.
        normals = np.asarray(mesh.vertex_normals) @ np.linalg.inv(placed[:3, :3])
        normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-30)
        surface.point_data["Normals"] = normals.astype(np.float32)
    return _dressed(surface, mesh.visual, materials)


def _dressed(surface: pv.PolyData, visual: Any, materials: Mapping[str, Material]) -> Part:
    """Copy vertex colours, face colours, a texture or a plain material colour."""
    if visual.kind == "vertex":
        surface.point_data["RGBA"] = np.asarray(visual.vertex_colors, dtype=np.uint8)
        return Part(surface, direct="RGBA")
    if visual.kind == "face":
        surface.cell_data["RGBA"] = np.asarray(visual.face_colors, dtype=np.uint8)
        return Part(surface, direct="RGBA")
    if visual.kind != "texture":
        return Part(surface)
    image = _image_of(visual.material)
    if image is not None and visual.uv is not None:
        uv = np.asarray(visual.uv, dtype=np.float64)
        material = materials.get(str(getattr(visual.material, "name", "")))
        if material is not None and material.texture is not None:
            uv = uv * material.texture.scale + material.texture.offset
            image = _tinted(image, material.colour)
        surface.active_texture_coordinates = uv.astype(np.float32)
        return Part(surface, texture=image)
    red, green, blue = visual.material.main_color[:3]
    return Part(surface, colour=f"#{red:02x}{green:02x}{blue:02x}", opacity=_opacity_of(visual.material))


def _tinted(image: NDArray[np.uint8], colour: tuple[float, float, float] | None) -> NDArray[np.uint8]:
    """A texture times the colour of its material, as light."""
    if colour is None or min(colour) >= 1:
        return image
    light = linear(image / 255) * linear(np.array(colour))
    return np.asarray(np.rint(255 * encoded_light(light)), np.uint8)


def _opacity_of(material: Any) -> float:
    """What an MTL file says by ``d``, or by ``Tr``, which is its opposite."""
    said = getattr(material, "kwargs", None) or {}
    for name, opposite in (("d", False), ("tr", True)):
        value = said.get(name)
        try:
            number = float(str(value[0] if isinstance(value, list | tuple) else value))
        except (ValueError, IndexError):
            continue
        return float(np.clip(1 - number if opposite else number, 0, 1))
    return 1.0


def _joined(points: NDArray[np.floating[Any]], faces: NDArray[np.int64]) -> tuple[NDArray[Any], NDArray[np.int64]]:
    """Points that are the same to the bit as one."""
    import pandas

    # Adding 0 makes one of the two zeros.
    points = compact(points)
    bits = (points + points.dtype.type(0)).view(np.uint32 if points.dtype == np.float32 else np.uint64)
    mixed = bits[:, 0].astype(np.uint64)
    for column, factor in ((1, 0xC2B2AE3D27D4EB4F), (2, 0x165667B19E3779F9)):
        mixed ^= bits[:, column].astype(np.uint64) * np.uint64(factor)
    codes, names = pandas.factorize(mixed)
    first = np.zeros(len(names), np.int64)
    first[codes[::-1]] = np.arange(len(points) - 1, -1, -1)
    if not np.array_equal(bits[first][codes], bits):
        return points, faces  # two places share a number; joined later, by sorting
    return points[first], codes[faces]


def _image_of(material: Any) -> NDArray[np.uint8] | None:
    image = getattr(material, "baseColorTexture", None) or getattr(material, "image", None)
    if image is None:
        return None
    if image.mode.startswith("I"):
        # 16 bits a pixel, which Pillow would cut off at 255.
        grey = to_bytes(np.asarray(image).astype(np.uint16))
        return np.ascontiguousarray(np.repeat(grey[..., None], 3, axis=2))
    return np.asarray(image.convert("RGB"))
