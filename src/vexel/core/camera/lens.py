"""Focal length and sensor, and the field of view that follows."""

from dataclasses import dataclass
from math import hypot, inf
from typing import Final

import numpy as np
from numpy.typing import NDArray

SENSORS: Final[dict[str, str]] = {
    "36x24": "full frame",
    "24.9x18.7": "film, Super 35",
    "23.5x15.6": "APS-C",
    "17.3x13": "Four Thirds",
    "13.2x8.8": "one inch",
    "9.8x7.3": "phone",
}
"""Usual sensors, width x height in mm, and what they are called."""
SHARP_PARTS = 1500
"""A blur of the sensor's diagonal divided by this is taken as a point (common practice)."""


@dataclass(frozen=True)
class SharpDepth:
    """How much of the depth is sharp, in mm.

    Attributes
    ----------
    hyperfocal : float
        Focused so far away, all from half of that on is sharp.
    near, far : float
        Limits of what is sharp; the far one is infinite from the hyperfocal distance on.
    """

    hyperfocal: float
    near: float
    far: float


def sharp_depth(focal_mm: float, f_stop: float, focus_mm: float, blur_mm: float) -> SharpDepth:
    """Depth of field of a thin lens: ``H = f²/(N·c) + f`` and the limits that follow (standard optics).

    Parameters
    ----------
    focal_mm, f_stop : float
    focus_mm : float
        Distance that is sharp.
    blur_mm : float
        Largest circle on the sensor that still is a point.
    """
    hyperfocal = focal_mm**2 / (f_stop * blur_mm) + focal_mm
    near = focus_mm * (hyperfocal - focal_mm) / (hyperfocal + focus_mm - 2 * focal_mm)
    far = focus_mm * (hyperfocal - focal_mm) / (hyperfocal - focus_mm) if focus_mm < hyperfocal else inf
    return SharpDepth(hyperfocal, near, far)


def field_of_view_deg(extent_mm: float, focal_mm: float | NDArray[np.float64]) -> NDArray[np.float64]:
    """Angle of view of a sensor extent: ``2·atan(d / 2f)``, in degrees, for one focal length or for many."""
    view: NDArray[np.float64] = np.degrees(2 * np.arctan(extent_mm / (2 * np.asarray(focal_mm))))
    return view


@dataclass(frozen=True)
class Lens:
    """A rectilinear lens before a sensor.

    A frame of another shape than the sensor is cut from it: the largest
    rectangle of the frame's shape that the sensor holds.

    Attributes
    ----------
    focal_mm, sensor_width_mm, sensor_height_mm : float
        Millimetres.
    """

    focal_mm: float
    sensor_width_mm: float
    sensor_height_mm: float

    def used_sensor_mm(self, width: int, height: int) -> tuple[float, float]:
        """Width and height in mm of the sensor area that a frame of this shape uses."""
        scale = min(self.sensor_width_mm / width, self.sensor_height_mm / height)
        return width * scale, height * scale

    @property
    def blur_mm(self) -> float:
        """Largest circle on the sensor that is taken as a point."""
        return hypot(self.sensor_width_mm, self.sensor_height_mm) / SHARP_PARTS

    def view_deg(self, width: int, height: int) -> tuple[float, float, float]:
        """Field of view in degrees for a frame in pixels: wide, high, diagonal."""
        wide, high = self.used_sensor_mm(width, height)
        across, up, corner = (float(field_of_view_deg(d, self.focal_mm)) for d in (wide, high, hypot(wide, high)))
        return across, up, corner
