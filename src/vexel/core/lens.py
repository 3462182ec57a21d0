"""Focal length and sensor, and the field of view that follows."""

from dataclasses import dataclass
from math import hypot

import numpy as np
from numpy.typing import NDArray


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

    def view_deg(self, width: int, height: int) -> tuple[float, float, float]:
        """Field of view in degrees for a frame in pixels: wide, high, diagonal."""
        wide, high = self.used_sensor_mm(width, height)
        across, up, corner = (float(field_of_view_deg(d, self.focal_mm)) for d in (wide, high, hypot(wide, high)))
        return across, up, corner
