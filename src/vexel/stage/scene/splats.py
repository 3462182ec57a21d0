"""Points as the renderer draws them: ellipsoids that fade outward, from the farthest to the nearest, or plain discs."""

import numpy as np
import pyvista as pv
from numpy.typing import NDArray
from vtkmodules.vtkRenderingOpenGL2 import vtkOpenGLPointGaussianMapper

from vexel.core.evaluate.frame_spec import CameraPose
from vexel.sources.meshes.parts import Part
from vexel.sources.meshes.splats import Splats
from vexel.stage.scene.splat_shaders import ANY_SIZE, AS_FAR_AS_SEEN, BRIGHTNESS, DISC, REACH, set_facing, set_solid

SOME = 4096
DEPTHS = 65535
"""Number of depths for sorting points, which takes a pass or two in place of a sort by comparisons."""


class SplatActor:
    """A part of points on the stage; it has to `look` from a camera before it is drawn.

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
        self._solid = self._facing = False
        shader = self.actor.GetShaderProperty()
        if self._dots.soft:
            self.actor.ForceTranslucentOn()
            shader.AddVertexShaderReplacement(BRIGHTNESS[0], True, BRIGHTNESS[1], False)
            shader.AddVertexShaderReplacement(ANY_SIZE[0], True, ANY_SIZE[1], False)
            for text, replacement in AS_FAR_AS_SEEN:
                shader.AddGeometryShaderReplacement(text, True, replacement, False)
        set_solid(shader, False)

    def solid(self, on: bool) -> None:
        """Draw points where they cover half or more of what is behind, and there wholly, so that they have a depth."""
        if on == self._solid:
            return
        self._solid = on
        set_solid(self.actor.GetShaderProperty(), on)
        if self._dots.soft:
            self.actor.SetForceOpaque(on)
            self.actor.SetForceTranslucent(not on)

    def look(self, camera: CameraPose, size: tuple[int, int], all_round: bool) -> None:
        """Put the points in the order in which a camera sees them, with the colours and the least size that it sees.

        Parameters
        ----------
        camera : CameraPose
        size : (int, int)
            Of the view, in pixels.
        all_round : bool
            Whether it is a part of a panorama, whose points are sorted by their distance from the eye.
        """
        if all_round != self._facing and self._dots.soft:
            self._facing = all_round
            set_facing(self.actor.GetShaderProperty(), all_round)
        self._soften(camera, size, all_round)
        key = camera.position if all_round else (*camera.position, *camera.target)
        if key == self._seen_from:
            return
        self._seen_from = key
        position = np.array(camera.position, dtype=np.float32)
        away = self._points - position
        far = np.sqrt(np.einsum("ij,ij->i", away, away))
        order = np.arange(len(away))
        if self._dots.soft:
            sight = np.subtract(camera.target, camera.position).astype(np.float32)
            order = _far_to_near(far if all_round else away @ sight)
        away /= np.maximum(far, 1e-12)[:, None]
        colours, brightness = self._dots.colours(away)
        np.take(self._points, order, axis=0, out=np.asarray(self._drawn.points), mode="clip")
        turns = self._dots.turns if brightness is None else self._dots.turns * brightness[:, None]
        for name, values in (("scale", self._dots.scales), ("turn", turns), ("colour", colours)):
            np.take(values, order, axis=0, out=np.asarray(self._drawn[name]), mode="clip")
        self._drawn.GetPoints().Modified()
        self._drawn.Modified()

    def _soften(self, camera: CameraPose, size: tuple[int, int], all_round: bool) -> None:
        """Widen soft points by a part of a pixel, as `Splats.low_pass` says."""
        if not self._dots.soft:
            return
        mapper, variance = self.actor.GetMapper(), self._dots.low_pass
        if all_round:
            pixel = 2 * np.tan(np.radians(camera.view_high_deg) / 2) / size[1]
            mapper.SetLowpassMatrix(variance * pixel**2, 0.0, 0.0)
        else:
            # A view is 2 wide and 2 high.
            mapper.SetLowpassMatrix(variance * (2 / size[0]) ** 2, 0.0, variance * (2 / size[1]) ** 2)


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
