"""What one writes by hand: a plotter, a mesh and a camera that goes round it, rendered and read back."""

from math import cos, radians, sin
from pathlib import Path

import numpy as np
import pyvista as pv
from numpy.typing import NDArray

from vexel.core.camera.framing import distance_to_fill, sphere_about
from vexel.core.camera.lens import Lens
from vexel.stage.scene.light import CLAY, LIT, set_gives, set_key, set_turn, shade_code
from vexel.stage.scene.part_actors import SHARP_EDGE_DEG

ELEVATION_DEG, FILL = 18, 0.8


class PlainScene:
    """A scene without Vexel's stage.

    It borrows numbers for light, surface and camera, so that the pictures are
    the same; with `own_light` it has the plotter's light kit and anti-aliasing.
    """

    def __init__(self, mesh_file: Path, width: int, height: int, own_light: bool = False) -> None:
        mesh = pv.read(mesh_file)
        sphere = sphere_about([mesh.points])
        view_deg = Lens(50, 36, 24).view_deg(width, height)[1]
        self._size = width, height
        self._radius, self._middle = sphere.radius, np.array(sphere.centre)
        self._distance = distance_to_fill(sphere.radius, FILL, view_deg)
        self._plotter = pv.Plotter(
            off_screen=True, window_size=(width, height), lighting="light kit" if own_light else "none"
        )
        self._plotter.render_window.SetMultiSamples(4 if own_light else 0)
        self._plotter.set_background("#2b2f33")
        mesh = mesh.compute_normals(cell_normals=False, split_vertices=True, feature_angle=SHARP_EDGE_DEG)
        actor = self._plotter.add_mesh(mesh, color=CLAY, smooth_shading=True)
        if not own_light:
            self._plotter.renderer.AddLight(pv.Light(light_type="headlight"))
            actor.GetShaderProperty().AddFragmentShaderReplacement("//VTK::Light::Impl", True, shade_code(), False)
            set_gives(actor, LIT, None, False)
            set_turn(actor, None)
            set_key(actor, {})
        self._camera = self._plotter.renderer.GetActiveCamera()
        self._plotter.show(auto_close=False)
        self._camera.SetViewAngle(view_deg)  # showing has framed the mesh its own way

    def look(self, around_deg: float, offset: tuple[float, float] = (0, 0)) -> NDArray[np.uint8]:
        """The picture from a place round the mesh, moved by a part of a pixel; RGB, (height, width, 3)."""
        a, e = radians(around_deg), radians(ELEVATION_DEG)
        away = np.array([cos(e) * sin(a), -cos(e) * cos(a), sin(e)])
        self._camera.SetPosition(*(self._middle + self._distance * away))
        self._camera.SetFocalPoint(*self._middle)
        self._camera.SetViewUp(0, 0, 1)
        self._camera.SetClippingRange(self._distance - 1.1 * self._radius, self._distance + 1.1 * self._radius)
        width, height = self._size
        self._camera.SetWindowCenter(2 * offset[0] / width, 2 * offset[1] / height)
        self._plotter.render()
        picture: NDArray[np.uint8] = np.asarray(self._plotter.screenshot(return_img=True))
        return picture
