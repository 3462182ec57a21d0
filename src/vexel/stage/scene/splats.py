"""Points as the renderer draws them: ellipsoids that fade outward, from the farthest to the nearest, or plain discs."""

import numpy as np
import pyvista as pv
from numpy.typing import NDArray
from vtkmodules.vtkRenderingOpenGL2 import vtkOpenGLPointGaussianMapper

from vexel.core.evaluate.frame_recipe import CameraPose
from vexel.sources.meshes.parts import Part
from vexel.sources.meshes.splats import Splats
from vexel.stage.scene.light import PLAIN

REACH = 2.8
"""An ellipsoid is drawn out to so many of its half axes, where a fiftieth of it is left."""
SOME = 4096
DEPTHS = 65535
"""Points are sorted by so many depths, which takes a pass or two in place of a sort by comparisons."""
DISC = """//VTK::Color::Impl
float far2 = dot(offsetVCVSOutput.xy, offsetVCVSOutput.xy);
if (far2 > 1.0) { discard; }
opacity = 1.0;
"""
SOLID = f"""//VTK::Light::Impl
if (opacity < 0.5) {{ discard; }}
fragOutput0.a = 1.0;
if (gives == {PLAIN}) {{ fragOutput0.rgb = plainColour; }}
"""


class SplatActor:
    """A part of points on the stage; `sort` it for a camera before it is drawn.

    Attributes
    ----------
    actor : pyvista.Actor
    """

    def __init__(self, part: Part) -> None:
        assert part.splats is not None
        self._dots: Splats = part.splats
        self._points = np.asarray(part.mesh.points, dtype=np.float32)
        self._seen_from: tuple[float, ...] | None = None
        self._drawn = pv.PolyData(self._points.copy())
        self._drawn["scale"], self._drawn["turn"] = self._dots.scales.copy(), self._dots.turns.copy()
        self._drawn["colour"] = np.zeros((len(self._points), 4), np.uint8)
        mapper = vtkOpenGLPointGaussianMapper()
        mapper.SetInputData(self._drawn)
        mapper.EmissiveOff()
        mapper.SetScaleFactor(1.0)
        mapper.SetScaleArray("scale")
        mapper.SelectColorArray("colour")
        mapper.SetScalarModeToUsePointFieldData()
        mapper.SetColorModeToDirectScalars()
        if self._dots.soft:
            mapper.SetAnisotropic(True)
            mapper.SetRotationArray("turn")
            mapper.SetBoundScale(REACH)
        else:
            mapper.SetScaleArrayComponent(0)
            mapper.SetSplatShaderCode(DISC)
        self.actor = pv.Actor()
        self.actor.SetMapper(mapper)
        if self._dots.soft:
            self.actor.ForceTranslucentOn()
        self._solid = False

    def solid(self, on: bool) -> None:
        """Draw points where they cover half or more of what is behind, and there wholly, so that they have a depth."""
        if on == self._solid:
            return
        self._solid, shader = on, self.actor.GetShaderProperty()
        # No question in one shader that serves both: a tenth of a scan's time would go into asking it.
        if on:
            shader.AddFragmentShaderReplacement("//VTK::Light::Impl", True, SOLID, False)
        else:
            shader.ClearFragmentShaderReplacement("//VTK::Light::Impl", True)
        if self._dots.soft:
            self.actor.SetForceOpaque(on)
            self.actor.SetForceTranslucent(not on)

    def sort(self, camera: CameraPose) -> None:
        """Put the points in the order in which a camera sees them, with the colours that it sees."""
        key = (*camera.position, *camera.target)
        if key == self._seen_from:
            return
        self._seen_from = key
        position = np.array(camera.position, dtype=np.float32)
        away = self._points - position
        order = np.arange(len(away))
        if self._dots.soft:
            order = _far_to_near(away @ np.subtract(camera.target, camera.position).astype(np.float32))
        away /= np.maximum(np.sqrt(np.einsum("ij,ij->i", away, away)), 1e-12)[:, None]
        np.take(self._points, order, axis=0, out=np.asarray(self._drawn.points), mode="clip")
        for name, values in (("scale", self._dots.scales), ("turn", self._dots.turns)):
            np.take(values, order, axis=0, out=np.asarray(self._drawn[name]), mode="clip")
        np.take(self._dots.colours(away), order, axis=0, out=np.asarray(self._drawn["colour"]), mode="clip")
        self._drawn.GetPoints().Modified()
        self._drawn.Modified()


def _far_to_near(depths: NDArray[np.float32]) -> NDArray[np.intp]:
    if len(depths) <= DEPTHS:
        return np.argsort(-depths, kind="stable")
    # Of some of them, so that a stray does not push all others into one depth.
    low, high = (float(end) for end in np.percentile(depths[:: max(len(depths) // SOME, 1)], (1, 99)))
    margin = high - low
    nearness = (high + margin - depths) * np.float32(DEPTHS / max(3 * margin, 1e-30))
    np.clip(nearness, 0, DEPTHS, out=nearness)
    # NumPy sorts 16-bit numbers by their digits.
    order: NDArray[np.intp] = np.argsort(nearness.astype(np.uint16), kind="stable")
    return order
