"""What a camera of a shot sees at given focal lengths."""

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.lens import field_of_view_deg
from vexel.core.document.camera_spec import CameraSpec
from vexel.core.document.shot import Shot

Array = NDArray[np.float64]
PANORAMA_DEG = 90.0
"""A panorama is framed as a camera that sees this much."""


def views_deg(shot: Shot, camera: CameraSpec, focal_mm: Array) -> tuple[Array, Array]:
    """Horizontal and vertical field of view in degrees, shape (M,) each."""
    if camera.lens.projection == "panorama":
        return np.full_like(focal_mm, PANORAMA_DEG), np.full_like(focal_mm, PANORAMA_DEG)
    wide, high = camera.lens.lens().used_sensor_mm(shot.picture.width, shot.picture.height)
    return field_of_view_deg(wide, focal_mm), field_of_view_deg(high, focal_mm)
