"""From a point of a frame to a point of the world."""

import numpy as np

from vexel.core.camera.camera_path import view_of
from vexel.core.camera.path_figures import axes_of
from vexel.core.evaluate.frame_spec import CameraPose
from vexel.core.evaluate.source_facts import Point


def point_at(pose: CameraPose, aspect: float, x: float, y: float, distance: float) -> Point:
    """The point of the world at a point of a frame.

    Parameters
    ----------
    pose : CameraPose
    aspect : float
        Width of the frame by its height.
    x, y : float
        Shares of its width and height, from the top left.
    distance : float
        Along the line of sight.
    """
    path = view_of(*(np.array([vector]) for vector in (pose.position, pose.target, pose.up)))
    forward, right, up = (axis[0] for axis in axes_of(path))
    high = pose.parallel_high / 2 or np.tan(np.radians(pose.view_high_deg) / 2) * distance
    aside = (2 * x - 1 + pose.shift[0]) * high * aspect
    upward = (1 - 2 * y + pose.shift[1]) * high
    found = np.array(pose.position) + distance * forward + aside * right + upward * up
    return float(found[0]), float(found[1]), float(found[2])
