"""Pictures for two eyes in one frame: backgrounds and labels are drawn for each eye."""

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.evaluate.frame_spec import FrameSpec


def each_eye(pixels: NDArray[Any], spec: FrameSpec, draw: Callable[[NDArray[Any]], NDArray[Any]]) -> NDArray[Any]:
    """A frame with something drawn on the picture of each eye, or on the whole where there is one."""
    camera = spec.shutter_samples[0].camera
    if camera is None or not camera.panorama or camera.eyes == "one":
        return draw(pixels)
    axis = 0 if camera.eyes == "top-bottom" else 1
    return np.concatenate([draw(half) for half in np.array_split(pixels, 2, axis)], axis)
