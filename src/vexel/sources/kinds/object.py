"""Source kind ``object``: a mesh file, brought upright and with its own colours."""

from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pyvista as pv
import trimesh
from numpy.typing import NDArray

from vexel.core.evaluate.source_facts import SourceFacts
from vexel.sources.meshes.mesh_format import cut_short, mesh_format, no_faces
from vexel.sources.meshes.parts import Part, as_parts, check_parts
from vexel.sources.meshes.point_file import read_points
from vexel.sources.meshes.upright import up_of
from vexel.sources.protocols import FrameRequest, SourceError

Y_UP = ("glTF", "GLB")
"""Formats whose specification says that +y is up (glTF 2.0, section 3.4)."""


class ObjectFile:
    """A mesh file, read.

    Raises
    ------
    SourceError
        When the file is not a whole mesh with faces, nor a cloud of points.
    """

    def __init__(self, file: Path, up: str = "auto") -> None:
        held = mesh_format(file)
        try:
            points = read_points(file) if held == "PLY" else None
            parts = [points] if points else _read_vtp(file) if held == "VTP" else _read_by_trimesh(file, held)
        except SourceError:
            raise
        except Exception as error:
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
        self.facts = SourceFacts(up="y" if stands_on_y else "z", up_stated=held in Y_UP, up_guess=guess)
        if stands_on_y:
            for part in parts:
                part.mesh.rotate_x(90, inplace=True)
        self._parts = [replace(part, rigid=True) for part in parts]

    def show(self, asked: FrameRequest) -> list[Part]:
        """The same parts in every frame; see `Source.show`."""
        return self._parts


def _read_vtp(file: Path) -> list[Part]:
    mesh = pv.read(file)
    if mesh.n_points == 0 or mesh.n_cells == mesh.n_verts:
        raise no_faces(file)
    return as_parts(mesh)


def _read_by_trimesh(file: Path, held: str) -> list[Part]:
    if held == "OBJ":
        _check_obj(file)
    kind = {"GLB": "glb", "glTF": "gltf"}.get(held, held.lower())
    # Unprocessed: merging vertices would renumber them, and lose the file's own normals and seams.
    scene = trimesh.load_scene(file, file_type=kind, process=False)
    parts = []
    for node in scene.graph.nodes_geometry:
        placed, name = scene.graph[node]
        mesh = scene.geometry[name]
        if isinstance(mesh, trimesh.Trimesh) and len(mesh.faces):
            parts.append(replace(_part_of(mesh, placed, file), name=str(node)))
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


def _part_of(mesh: trimesh.Trimesh, placed: NDArray[np.float64], file: Path) -> Part:
    """A mesh of the file where the file's scene places it, a matrix of shape (4, 4)."""
    if mesh.faces.max() >= len(mesh.vertices):
        raise cut_short(file, f"a vertex {mesh.faces.max() + 1:,} (a face uses it)", f"{len(mesh.vertices):,}")
    points = trimesh.transform_points(mesh.vertices, placed)
    surface = pv.PolyData.from_regular_faces(points, np.asarray(mesh.faces, dtype=np.int64))
    if "vertex_normals" in mesh._cache:  # the file's own; trimesh would otherwise make its own up
        # Normals turn by the inverse transpose, so that an uneven scale leaves them upright.
        normals = np.asarray(mesh.vertex_normals) @ np.linalg.inv(placed[:3, :3])
        normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-30)
        surface.point_data["Normals"] = normals.astype(np.float32)
    return _dressed(surface, mesh.visual)


def _dressed(surface: pv.PolyData, visual: Any) -> Part:
    """Bring over vertex colours, face colours, a texture or a plain material colour."""
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
        surface.active_texture_coordinates = np.asarray(visual.uv, dtype=np.float32)
        return Part(surface, texture=image)
    red, green, blue = visual.material.main_color[:3]
    return Part(surface, colour=f"#{red:02x}{green:02x}{blue:02x}")


def _image_of(material: Any) -> NDArray[np.uint8] | None:
    image = getattr(material, "baseColorTexture", None) or getattr(material, "image", None)
    return None if image is None else np.asarray(image.convert("RGB"))
