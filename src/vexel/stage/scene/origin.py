"""The scene's own origin: what is far from the world's is moved near it, in 64 bits, before it becomes 32-bit numbers.

A 32-bit number at 5,412,345 m has steps of half a metre. Graphics libraries draw with 32-bit numbers, so a scene at
map coordinates is drawn about an origin beside it.
"""

from dataclasses import replace

import numpy as np
import pyvista as pv
from numpy.typing import NDArray

from vexel.core.camera.framing import Sphere
from vexel.core.evaluate.frame_spec import CameraPose, ShutterSample
from vexel.sources.meshes.parts import Part

Array = NDArray[np.float64]
NOTHING = 1e-9
"""A middle that is this share of the radius away from the world's origin is at it, but for rounding."""


def origin_of(sphere: Sphere) -> Array:
    """The middle of a scene, shape (3,), about which it is drawn."""
    centre = np.asarray(sphere.centre, np.float64)
    return np.where(np.abs(centre) > NOTHING * sphere.radius, centre, 0.0)


def part_about(part: Part, origin: Array) -> Part:
    """A part with its points relative to an origin."""
    if not origin.any():
        return part
    mesh = part.mesh.copy(deep=False)
    # A shallow copy shares its points with the original: an assignment would move both.
    mesh.SetPoints(pv.vtk_points((np.asarray(part.mesh.points, np.float64) - origin).astype(np.float32)))
    return replace(part, mesh=mesh)


def look_about(look: ShutterSample, origin: Array) -> ShutterSample:
    """A look with its camera and its ground relative to an origin."""
    if not origin.any():
        return look
    stage = look.stage
    if "ground" in stage:
        stage = {**stage, "ground": stage["ground"] - float(origin[2])}
    camera = look.camera and _camera_about(look.camera, origin)
    return replace(look, camera=camera, stage=stage)


def _camera_about(camera: CameraPose, origin: Array) -> CameraPose:
    position, target = (
        (float(x), float(y), float(z)) for x, y, z in (np.asarray(camera.position) - origin, camera.target - origin)
    )
    return replace(camera, position=position, target=target)
