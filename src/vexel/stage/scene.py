"""The VTK scene: parts before the stage's light."""

import numpy as np
import pyvista as pv
from numpy.typing import NDArray
from vtkmodules.util.numpy_support import numpy_to_vtkIdTypeArray, vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkUnsignedCharArray
from vtkmodules.vtkCommonDataModel import vtkCellArray
from vtkmodules.vtkRenderingCore import vtkLight

from vexel.core.framing import Sphere, distance_to_fill, sphere_about
from vexel.core.picture import TRANSPARENT, rgb
from vexel.core.recipe import CameraPose, Look
from vexel.sources.parts import Part
from vexel.stage.backs import PROOF_DIRECTIONS, PROOF_SIZE, may_hide_backs, proven_by
from vexel.stage.light import set_key, shade_code

CLAY = "#cfc6b8"
"""Colour of a part that brings none."""
SHARP_EDGE_DEG = 38.0
"""Faces that meet at more than this are shaded as an edge, if the mesh brings no normals."""
WELD = 1e-6
"""Points closer than this share of the subject's size are one point."""
PEELS = 8
"""So many surfaces behind one another are seen through each other."""
LOOK_ROUND_DEG = 30.0
"""Field of view of the small pictures that show whether back faces are ever seen."""


class Scene:
    """An off-screen window that draws one list of parts from any camera.

    Multisampling is off: in software it costs four times the picture, and the
    accumulated samples of `vexel.stage.accumulate` give better edges.
    """

    def __init__(self) -> None:
        self.plotter = pv.Plotter(off_screen=True, window_size=(64, 64), lighting="none")
        self.window = self.plotter.render_window
        self.window.SetMultiSamples(0)
        self.window.SetAlphaBitPlanes(1)
        self.renderer = self.plotter.renderer
        headlight = vtkLight()  # VTK prepares normals only where there is a light; ours is in the shader
        headlight.SetLightTypeToHeadlight()
        self.renderer.AddLight(headlight)
        self.renderer.SetMaximumNumberOfPeels(PEELS)
        self.renderer.SetOcclusionRatio(0.0)
        self._parts: list[Part] = []
        self._actors: list[pv.Actor] = []
        self._closed: list[pv.Actor] = []
        self._sphere = Sphere((0.0, 0.0, 0.0), 0.0)

    def show(self, parts: list[Part], look: Look) -> None:
        """Put parts on the stage, unless they stand there already, and set their look."""
        if self._parts is not parts:
            self.renderer.RemoveAllViewProps()
            self._parts, self._closed = parts, []
            self._actors = [self._add(part) for part in parts]
            self._set(look)
            self._learn_backs()
        self._set(look)

    def _set(self, look: Look) -> None:
        """Light, opacities and ends of colour maps."""
        clear = False
        for actor, part in zip(self._actors, self._parts, strict=True):
            opacity = look.stage.get(f"opacity:{part.name}", part.opacity)
            actor.visibility = opacity > 0
            actor.prop.opacity = opacity
            clear = clear or 0 < opacity < 1
            set_key(actor, look.stage)
            if part.scalars and part.texture is None and not part.direct:
                actor.mapper.scalar_range = ends_of(part, look)
        # Whatever is seen through is drawn in the order of its depth, which costs; so only when there is some.
        self.renderer.SetUseDepthPeeling(clear)

    def _learn_backs(self) -> None:
        self._closed = [actor for actor, part in zip(self._actors, self._parts, strict=True) if may_hide_backs(part)]
        if self._closed:
            self._sphere = sphere_about([part.mesh.points for part in self._parts])
            if not proven_by(self._looks_round(backs=True), self._looks_round(backs=False)):
                self._closed = []

    def look(self, camera: CameraPose, width: int, height: int, background: str) -> None:
        """Set the camera, the size in pixels and the background."""
        if tuple(self.window.GetSize()) != (width, height):
            self.window.SetSize(width, height)
        view = self.renderer.GetActiveCamera()
        view.SetPosition(*camera.position)
        view.SetFocalPoint(*camera.target)
        view.SetViewUp(*camera.up)
        view.SetViewAngle(camera.view_high_deg)
        view.SetParallelProjection(camera.parallel_high > 0)
        view.SetParallelScale(camera.parallel_high / 2)
        view.SetClippingRange(camera.near, camera.far)
        away = float(np.linalg.norm(np.subtract(camera.position, self._sphere.centre)))
        self._draw_backs(away - camera.near < self._sphere.radius)
        if background == TRANSPARENT:
            self.renderer.SetBackground(0, 0, 0)
            self.renderer.SetBackgroundAlpha(0.0)
        else:
            self.renderer.SetBackground(*(c / 255 for c in rgb(background)))
            self.renderer.SetBackgroundAlpha(1.0)

    def shift(self, pixel: NDArray[np.float64], lens: NDArray[np.float64], camera: CameraPose) -> None:
        """Look from beside the pixel's centre, and from beside the lens's middle.

        Parameters
        ----------
        pixel : ndarray, shape (2,)
            In pixels.
        lens : ndarray, shape (2,)
            In radii of the lens; the distance that is sharp stays where it is in the frame.
        camera : CameraPose
        """
        width, height = self.window.GetSize()
        view = self.renderer.GetActiveCamera()
        # The window's centre counts from -1 to 1, so a pixel is 2/size of it.
        centre = 2 * pixel / (width, height)
        if camera.lens_radius:
            position, target = np.array(camera.position), np.array(camera.target)
            forward = (target - position) / np.linalg.norm(target - position)
            right = np.cross(forward, camera.up)
            right /= np.linalg.norm(right)
            x, y = lens * camera.lens_radius
            aside = x * right + y * np.cross(right, forward)
            view.SetPosition(*(position + aside))
            view.SetFocalPoint(*(target + aside))
            half_high = camera.focus * np.tan(np.radians(camera.view_high_deg) / 2)
            centre = centre - (x * height / width / half_high, y / half_high)
        view.SetWindowCenter(*centre)

    def pixels(self) -> NDArray[np.uint8]:
        """Render; shape (H, W, 4), uint8, sRGB premultiplied by alpha, the bottom row first."""
        width, height = self.window.GetSize()
        self.window.Render()
        pixels = vtkUnsignedCharArray()
        self.window.GetRGBACharPixelData(0, 0, width - 1, height - 1, 0, pixels)
        rows: NDArray[np.uint8] = vtk_to_numpy(pixels).reshape(height, width, 4)
        return rows

    def _draw_backs(self, on: bool) -> None:
        for actor in self._closed:
            # Through a clear front its back is seen.
            actor.prop.culling = "none" if on or actor.prop.opacity < 1 else "back"

    def _looks_round(self, backs: bool) -> list[NDArray[np.uint8]]:
        """Small pictures of the subject from all round, with its back faces or without."""
        view, looks = LOOK_ROUND_DEG, []
        distance = float(distance_to_fill(self._sphere.radius, 1.0, view))
        for direction in np.array(PROOF_DIRECTIONS) / 3**0.5:
            position = tuple(np.add(self._sphere.centre, distance * direction))
            near, far = distance - self._sphere.radius, distance + self._sphere.radius
            self.look(CameraPose(position, self._sphere.centre, (0, 0, 1), view, near, far), *PROOF_SIZE, "#000000")
            self._draw_backs(backs)
            looks.append(self.pixels())
        return looks

    def _add(self, part: Part) -> pv.Actor:
        mesh, look = _with_normals(part), {}
        if part.texture is not None:
            look = {"texture": pv.Texture(part.texture)}
        elif part.direct:
            look = {"scalars": part.direct, "rgb": True}
        elif part.scalars:
            look = {"scalars": part.scalars, "cmap": part.colour_map}
        else:
            look = {"color": part.colour or CLAY, "scalars": None}
        actor: pv.Actor = self.plotter.add_mesh(
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
        actor.GetShaderProperty().AddFragmentShaderReplacement("//VTK::Light::Impl", True, shade_code(), False)
        return actor


def ends_of(part: Part, look: Look) -> tuple[float, float]:
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
    if own is not None and own.shape == (mesh.n_points, 3):
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


def _welded(mesh: pv.PolyData) -> pv.PolyData:
    """The mesh with coincident points joined, unless they carry different values.

    Formats such as STL give every face corners of its own, and a grid that is
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
