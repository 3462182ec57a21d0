"""A camera of a shot at many phases, worked out."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.camera_path import CameraPath

Array = NDArray[np.float64]


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
