"""Parts as the renderer draws them: their meshes with normals, their colours, and the stage's shader."""

from typing import Any

import numpy as np
import pyvista as pv
from numpy.typing import NDArray
from vtkmodules.util.numpy_support import numpy_to_vtkIdTypeArray, vtk_to_numpy
from vtkmodules.vtkCommonDataModel import vtkCellArray

from vexel.core.evaluate.frame_spec import ShutterSample
from vexel.sources.meshes.parts import Part
from vexel.stage.scene.layers import BEHIND, DECLARED, surface_mapper
from vexel.stage.scene.light import CLAY, shade_code
from vexel.stage.scene.surface_colour import blends_points, colour_shader, light_mapper, texture_of, with_light

SHARP_EDGE_DEG = 38.0
"""Faces that meet at more than this are shaded as an edge, if the mesh brings no normals."""
MEANS_DEG = 45.0
"""Normals that lean off their faces by more than this are no longer of one surface."""
WELD = 1e-6
"""Points closer than this share of the subject's size are one point."""


def part_actor(plotter: pv.Plotter, part: Part) -> pv.Actor:
    """Add a part to a scene."""
    mesh, light = _with_normals(part), blends_points(part)
    look: dict[str, Any] = {}
    if light:
        mesh, look = with_light(mesh, part.direct), {"color": "white", "scalars": None}
    elif part.texture is not None:
        look = {"color": "white", "scalars": None}
    elif part.direct:
        look = {"scalars": part.direct, "rgb": True}
    elif part.scalars:
        look = {"scalars": part.scalars, "cmap": part.colour_map}
    else:
        look = {"color": part.colour or CLAY, "scalars": None}
    actor: pv.Actor = plotter.add_mesh(
        mesh,
        **look,
        copy_mesh=False,
        show_scalar_bar=False,
        render=False,
        reset_camera=False,
        interpolate_before_map=True,
        smooth_shading=False,
        ambient=0.0,
        diffuse=1.0,
        specular=0.0,
    )
    actor.prop.interpolation = "Phong" if part.smooth else "Flat"
    own_colour, textured = "", part.texture is not None
    actor.SetMapper(light_mapper(mesh) if light else surface_mapper(actor, mesh))
    if textured:
        actor.SetTexture(texture_of(part))
    if textured or light:
        own_colour = colour_shader(actor, textured, light, part.cutoff)
    shade = shade_code(own_colour, part.lit)
    shader = actor.GetShaderProperty()
    shader.AddFragmentShaderReplacement("//VTK::Light::Dec", True, f"//VTK::Light::Dec\n{DECLARED}", False)
    shader.AddFragmentShaderReplacement("//VTK::Light::Impl", True, BEHIND + shade, False)
    return actor


def ends_of(part: Part, look: ShutterSample) -> tuple[float, float]:
    """Values at the ends of a part's colour map: driven, or the part's own, or those of the whole shot."""
    low, high = look.ranges.get(part.scalars) or part.mesh.get_data_range(part.scalars)
    low, high = (low if part.low is None else part.low), (high if part.high is None else part.high)
    return look.stage.get(f"range-low:{part.scalars}", low), look.stage.get(f"range-high:{part.scalars}", high)


def _with_normals(part: Part) -> pv.PolyData:
    """The mesh with point normals: its own, or made so that sharp edges stay sharp."""
    mesh = part.mesh
    if not part.smooth or mesh.n_faces == 0:
        return mesh
    own = mesh.point_data.get("Normals")
    if own is not None and own.shape == (mesh.n_points, 3) and not _are_means(mesh, np.asarray(own)):
        mesh = mesh.copy(deep=False)
        mesh.point_data.active_normals = np.asarray(own, dtype=np.float32)
        return mesh
    joined = _welded(mesh) if part.texture is None else mesh
    return joined.compute_normals(
        cell_normals=False,
        split_vertices=True,
        feature_angle=SHARP_EDGE_DEG,
        consistent_normals=True,
        auto_orient_normals=False,
    )


def _are_means(mesh: pv.PolyData, own: NDArray[np.floating[Any]]) -> bool:
    """Whether normals are means over edges that are meant to be seen, as those of a cube of eight points.

    They then face away from most of the faces that they shade by more than an
    edge's angle.
    """
    if not mesh.is_all_triangles:
        mesh = mesh.triangulate()
    corners = mesh.regular_faces
    a, b, c = (np.asarray(mesh.points, np.float64)[corners[:, k]] for k in range(3))
    faces = np.cross(b - a, c - a)
    faces /= np.maximum(np.linalg.norm(faces, axis=1, keepdims=True), 1e-30)
    facing = np.einsum("nkj,nj->nk", own[corners].astype(np.float64), faces)
    return bool(np.median(np.abs(facing)) < np.cos(np.radians(MEANS_DEG)))


def _welded(mesh: pv.PolyData) -> pv.PolyData:
    """The mesh with coincident points joined, unless they carry different values.

    Formats such as STL give every face separate corners, and a grid that is
    closed upon itself has a seam; joined, they shade as one surface.
    """
    if mesh.n_faces != mesh.n_cells:
        return mesh
    grain = max(mesh.length * WELD, 1e-30)
    cells = np.rint((mesh.points - mesh.points.min(axis=0)) / grain).astype(np.int64)
    # At most 1/WELD cells a side, so that three of them pack into one number, which sorts fast.
    packed = (cells[:, 0] << 42) | (cells[:, 1] << 21) | cells[:, 2]
    _, first, inverse = np.unique(packed, return_index=True, return_inverse=True)
    if len(first) == mesh.n_points:
        return mesh
    stands_for = first[inverse]
    if any(not np.allclose(values, values[stands_for], rtol=1e-4) for values in mesh.point_data.values()):
        return mesh
    polygons = mesh.GetPolys()
    corners = inverse[vtk_to_numpy(polygons.GetConnectivityArray())]
    joined = pv.PolyData(mesh.points[first])
    joined.SetVerts(None)
    cells = vtkCellArray()
    cells.SetData(polygons.GetOffsetsArray(), numpy_to_vtkIdTypeArray(corners, deep=True))
    joined.SetPolys(cells)
    for name, values in mesh.point_data.items():
        joined.point_data[name] = values[first]
    for name, values in mesh.cell_data.items():
        joined.cell_data[name] = values
    return joined
