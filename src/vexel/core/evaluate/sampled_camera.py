"""A camera of a shot at many phases, worked out."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.camera_path import CameraPath
from vexel.core.camera.lens import field_of_view_deg
from vexel.core.document.camera_spec import CameraSpec
from vexel.core.document.shot import Shot

Array = NDArray[np.float64]
PANORAMA_DEG = 90.0
"""A panorama is framed as a camera that sees this much."""


@dataclass(frozen=True)
class SampledCamera:
    """A camera at M phases of a shot.

    Attributes
    ----------
    path : CameraPath
    views_high_deg : ndarray, shape (M,)
        Vertical field of view.
    parallel_highs : ndarray, shape (M,)
        Height that the frame of a parallel projection covers, else 0.
    lens_radii, focuses : ndarray, shape (M,)
        Radius of the lens's opening, 0 where all is sharp, and the distance
        that is sharp, in the source's units.
    shifts : ndarray, shape (M, 2)
        Where the frame's middle lies, right and up of the optical axis, in
        halves of its width and height.
    light_deg : ndarray, shape (M,)
        How far the light has turned.
    subject_deg : ndarray, shape (M,)
        How far the subject has turned, about `subject_axis`.
    world : CameraPath
        The way beside a subject that turns; `path` is as that sees it.
    """

    path: CameraPath
    views_high_deg: Array
    parallel_highs: Array
    lens_radii: Array
    focuses: Array
    shifts: Array
    light_deg: Array
    subject_deg: Array
    subject_axis: tuple[float, float, float]
    world: CameraPath


def views_deg(shot: Shot, camera: CameraSpec, focal_mm: Array) -> tuple[Array, Array]:
    """Horizontal and vertical field of view in degrees, shape (M,) each."""
    if camera.lens.projection == "panorama":
        return np.full_like(focal_mm, PANORAMA_DEG), np.full_like(focal_mm, PANORAMA_DEG)
    wide, high = camera.lens.lens().used_sensor_mm(shot.picture.width, shot.picture.height)
    return field_of_view_deg(wide, focal_mm), field_of_view_deg(high, focal_mm)
