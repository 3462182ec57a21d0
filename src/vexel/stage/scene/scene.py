"""The VTK scene: parts before the stage's light."""

from collections.abc import Iterator, Mapping

import numpy as np
import pyvista as pv
from numpy.typing import NDArray
from vtkmodules.util.numpy_support import vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkFloatArray, vtkUnsignedCharArray
from vtkmodules.vtkRenderingCore import vtkLight

from vexel.core.camera.framing import Sphere, distance_to_fill, sphere_about
from vexel.core.document.background import TRANSPARENT, rgb
from vexel.core.evaluate.frame_spec import CameraPose, ShutterSample
from vexel.imaging.premultiplied import sample_of_light
from vexel.sources.meshes.parts import Part, with_clear_colours
from vexel.stage.lines.wireframe import Wire, wire_mask, wire_of
from vexel.stage.scene.back_faces import PROOF_DIRECTIONS, PROOF_SIZE, may_cull_back_faces, proven_by
from vexel.stage.scene.draw_style import DrawStyle
from vexel.stage.scene.layers import Layers
from vexel.stage.scene.light import LIT, set_gives, set_key, set_turn
from vexel.stage.scene.origin import look_about, origin_of, part_about
from vexel.stage.scene.part_actors import ends_of, part_actor
from vexel.stage.scene.splats import SplatActor
from vexel.stage.subject_bounds import extent_of

GL_ONE, GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA = 1, 0x0302, 0x0303
"""Of OpenGL, for blending."""
SOLID_FROM = 0.5
"""Opacity from which a surface counts in passes of data and casts shadows; what is fainter is not there."""
LOOK_ROUND_DEG = 30.0
"""Field of view of the small pictures that show whether back faces are ever seen."""


class Scene:
    """An off-screen window that draws one list of parts from any camera.

    Multisampling is off: in software it costs four times the picture, and the
    accumulated samples of `vexel.stage.blending.accumulate` give better edges.
    """

    def __init__(self) -> None:
        self.plotter = pv.Plotter(off_screen=True, window_size=(64, 64), lighting="none")
        self.window = self.plotter.render_window
        # Four multisamples took 0.43 s where none take 0.10 s (1080p, 179,000 triangles).
        self.window.SetMultiSamples(0)
        self.window.SetAlphaBitPlanes(1)
        self.renderer = self.plotter.renderer
        headlight = vtkLight()  # VTK prepares normals only where there is a light; ours is in the shader
        headlight.SetLightTypeToHeadlight()
        self.renderer.AddLight(headlight)
        # Soft points arrive sorted, and must be blended in that order.
        self.renderer.SetUseOIT(False)
        self._shown: list[Part] = []
        self._origin = np.zeros(3)
        self._parts: list[Part] = []
        self._actors: list[pv.Actor] = []
        self._closed: list[pv.Actor] = []
        self._dotted: dict[int, SplatActor] = {}
        self._wires: dict[int, Wire] = {}
        self._opacities: list[float] = []
        self._clears = self._clear = self._layered = False
        self._layers = Layers(self.window)
        self.sphere = Sphere((0.0, 0.0, 0.0), 0.0)
        self._stage: Mapping[str, float] = {}
        self.turned: NDArray[np.float64] | None = None

    def show(self, parts: list[Part], look: ShutterSample) -> None:
        """Put parts on the stage, unless they are there already, and set their look."""
        if self._shown is not parts:
            self.renderer.RemoveAllViewProps()
            self._shown, self._closed, self._wires = parts, [], {}
            self._origin = origin_of(sphere_about([extent_of(part) for part in parts]))
            self._parts = [with_clear_colours(part_about(part, self._origin)) for part in parts]
            self._opacities = [1.0] * len(parts)
            self._dotted = {n: SplatActor(part) for n, part in enumerate(self._parts) if part.splats is not None}
            self._actors = [self._stand(n, part) for n, part in enumerate(self._parts)]
            if self._dotted:
                for number, actor in enumerate(self._actors):
                    self._blend(actor, times_alpha=number in self._dotted)
            self.sphere = sphere_about([extent_of(part) for part in self._parts])
            for actor in self._actors:
                set_gives(actor, LIT, None, False)
                set_turn(actor, None)
            self._set(look)
            self._learn_backs()
        self._set(look)

    def about_origin(self, look: ShutterSample) -> ShutterSample:
        """A look at the world as a look at what is drawn; see `vexel.stage.scene.origin`."""
        return look_about(look, self._origin)

    def _stand(self, number: int, part: Part) -> pv.Actor:
        if number not in self._dotted:
            made = part_actor(self.plotter, part)
            self._layers.add(made)
            return made
        actor = self._dotted[number].actor
        self.renderer.AddActor(actor)
        return actor

    def _blend(self, actor: pv.Actor, times_alpha: bool) -> None:
        """Set how a part is blended: points come as colour times alpha, surfaces as colour."""
        source = GL_ONE if times_alpha else GL_SRC_ALPHA

        def set_rule(*_: object) -> None:
            state = self.window.GetState()
            state.vtkglBlendFuncSeparate(source, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE_MINUS_SRC_ALPHA)

        # Its last event before the graphics library draws; a rule stands until another one is set.
        actor.mapper.AddObserver("EndEvent", set_rule)

    def _set(self, look: ShutterSample) -> None:
        """Light, opacities and ends of colour maps."""
        clear, self._stage = False, look.stage
        for number, (actor, part) in enumerate(zip(self._actors, self._parts, strict=True)):
            opacity = look.stage.get(f"opacity:{part.name}", part.opacity)
            self._opacities[number] = opacity
            actor.visibility = opacity > 0
            actor.prop.opacity = opacity
            clear = clear or 0 < opacity < 1 or part.blends
            set_key(actor, look.stage)
            if part.scalars and part.texture is None and not part.direct:
                actor.mapper.scalar_range = ends_of(part, look)
        self._clears = clear
        self._clear = clear or any(part.splats is not None and part.splats.soft for part in self._parts)

    def key(self, on: bool) -> None:
        """Switch the key light, for parts in its shadow."""
        stage = self._stage if on else {**self._stage, "light:strength": 0.0}
        for actor in self._actors:
            set_key(actor, stage)

    def draw(self, manner: DrawStyle) -> None:
        """Set how parts are drawn from now on."""
        is_data = manner.solid or manner.gives != LIT
        # Layer by layer costs, so only where something is seen through.
        self._layered = self._clears and not is_data and not self._dotted
        for number, (actor, part) in enumerate(zip(self._actors, self._parts, strict=True)):
            opacity = self._opacities[number]
            # Numbers of what is behind are not mixed with those of what is before it.
            actor.visibility = opacity >= SOLID_FROM if is_data else opacity > 0
            actor.prop.opacity = 1.0 if is_data else opacity
            if number not in self._dotted:
                # Among points, which are no surfaces, the graphics library blends.
                blended = bool(self._dotted) and (opacity < 1 or part.blends) and not is_data
                actor.SetForceOpaque(not blended)
                actor.SetForceTranslucent(blended)
            set_gives(actor, manner.gives, manner.colour_of(number, part), is_data)
            if number in self._dotted:
                self._dotted[number].solid(manner.solid)

    def wires(self, thick: float) -> Iterator[tuple[NDArray[np.bool_], float]]:
        """Where the edges of each visible part are in the view that was set, and the part's opacity.

        Parameters
        ----------
        thick : float
            Of the lines, in pixels.
        """
        width, height = self.window.GetSize()
        matrix = self.renderer.GetActiveCamera().GetCompositeProjectionTransformMatrix(width / height, -1, 1)
        projection = np.array([[matrix.GetElement(row, column) for column in range(4)] for row in range(4)])
        for number, (part, opacity) in enumerate(zip(self._parts, self._opacities, strict=True)):
            if opacity > 0 and part.splats is None:
                if number not in self._wires:
                    self._wires[number] = wire_of(part.mesh)
                yield wire_mask(self._wires[number], projection, (width, height), thick), opacity

    @property
    def blends(self) -> bool:
        """Whether something is seen through something else."""
        return self._clear

    @property
    def parts(self) -> list[Part]:
        """The parts on the stage."""
        return self._parts

    def turn(self, turn: NDArray[np.float64] | None) -> None:
        """Set how the view is turned to the camera whose light and normals are shown; see `set_turn`."""
        self.turned = turn
        for actor in self._actors:
            set_turn(actor, turn)

    def _learn_backs(self) -> None:
        self._closed = [
            actor for actor, part in zip(self._actors, self._parts, strict=True) if may_cull_back_faces(part)
        ]
        if self._closed and not proven_by(self._looks_round(backs=True), self._looks_round(backs=False)):
            # The proof's last pictures were without back faces: from here on they are drawn for good.
            self._draw_backs(True)
            self._closed = []

    def look(self, camera: CameraPose, width: int, height: int, background: str) -> None:
        """Set the camera, the size in pixels and the background."""
        # A new size makes VTK rebuild its frame buffers.
        if tuple(self.window.GetSize()) != (width, height):
            self.window.SetSize(width, height)
        view = self.renderer.GetActiveCamera()
        view.SetPosition(*camera.position)
        view.SetFocalPoint(*camera.target)
        view.SetViewUp(*camera.up)
        view.SetViewAngle(camera.view_high_deg)
        view.SetParallelProjection(camera.parallel_high > 0)
        view.SetParallelScale(camera.parallel_high / 2)
        view.SetWindowCenter(*camera.shift)
        view.SetClippingRange(camera.near, camera.far)
        # Splats are blended in the order in which they come, so they are sorted for every camera.
        for dotted in self._dotted.values():
            dotted.look(camera, (width, height), self.turned is not None)
        away = float(np.linalg.norm(np.subtract(camera.position, self.sphere.centre)))
        self._draw_backs(away - camera.near < self.sphere.radius)
        if background == TRANSPARENT:
            self.renderer.SetBackground(0, 0, 0)
            self.renderer.SetBackgroundAlpha(0.0)
        else:
            self.renderer.SetBackground(*(c / 255 for c in rgb(background)))
            self.renderer.SetBackgroundAlpha(1.0)

    def shift(self, pixel: NDArray[np.float64], lens: NDArray[np.float64], camera: CameraPose) -> None:
        """ShutterSample from beside the pixel's centre, and from beside the lens's middle.

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
        centre = np.array(camera.shift) + 2 * pixel / (width, height)
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
        if self._layered:
            return sample_of_light(self._layers.light(self._actors))
        width, height = self.window.GetSize()
        self.window.Render()
        # Read by VTK itself, without the copy and the flip of a screenshot.
        pixels = vtkUnsignedCharArray()
        self.window.GetRGBACharPixelData(0, 0, width - 1, height - 1, 0, pixels)
        rows: NDArray[np.uint8] = vtk_to_numpy(pixels).reshape(height, width, 4)
        return rows

    def depths(self, camera: CameraPose) -> NDArray[np.float32]:
        """Distances along the line of sight of what was rendered last, shape (H, W), the bottom row first.

        Infinite where nothing is.
        """
        z = self._layers.solid if self._layered else self._depth_buffer()
        near, far = np.float32(camera.near), np.float32(camera.far)
        # A depth buffer is linear in parallel projection, and in perspective linear in 1/distance.
        distance = near + z * (far - near) if camera.parallel_high else near * far / (far - z * (far - near))
        return np.where(z < 1, distance, np.float32(np.inf))

    def _depth_buffer(self) -> NDArray[np.float32]:
        width, height = self.window.GetSize()
        buffer = vtkFloatArray()
        self.window.GetZbufferData(0, 0, width - 1, height - 1, buffer)
        return np.asarray(vtk_to_numpy(buffer).reshape(height, width), np.float32)

    def _draw_backs(self, on: bool) -> None:
        for actor in self._closed:
            # Through a clear front its back is seen.
            clear = on or actor.prop.opacity < 1
            actor.prop.culling = "none" if clear else "back"

    def _looks_round(self, backs: bool) -> list[NDArray[np.uint8]]:
        """Small pictures of the subject from all round, with its back faces or without."""
        view, looks = LOOK_ROUND_DEG, []
        distance = float(distance_to_fill(self.sphere.radius, 1.0, view))
        for direction in np.array(PROOF_DIRECTIONS) / 3**0.5:
            position = tuple(np.add(self.sphere.centre, distance * direction))
            near, far = distance - self.sphere.radius, distance + self.sphere.radius
            self.look(CameraPose(position, self.sphere.centre, (0, 0, 1), view, near, far), *PROOF_SIZE, "#000000")
            self._draw_backs(backs)
            looks.append(self.pixels())
        return looks
