"""Distances from places to surfaces, and whether lines lead through them."""

import numpy as np
import pyvista as pv
from vtkmodules.vtkCommonCore import mutable
from vtkmodules.vtkCommonDataModel import vtkCellLocator, vtkStaticCellLocator

from vexel.sources.parts import Part

Place = tuple[float, float, float]


class Surroundings:
    """Surfaces, made ready to be asked what is near."""

    def __init__(self, parts: list[Part]) -> None:
        mesh = pv.merge([part.mesh for part in parts]) if len(parts) > 1 else parts[0].mesh
        self._locator: vtkCellLocator = vtkStaticCellLocator()
        self._locator.SetDataSet(mesh)
        self._locator.BuildLocator()
        self._reach = mesh.length

    def distance(self, place: Place) -> float:
        """To the nearest surface, line or point."""
        closest, squared = [0.0] * 3, mutable(0.0)
        self._locator.FindClosestPoint(place, closest, mutable(0), mutable(0), squared)  # type: ignore[call-overload]
        return float(np.linalg.norm(np.subtract(place, closest)))

    def between(self, begin: Place, end: Place) -> bool:
        """Whether the line from one place to another leads through a surface."""
        t, at, parametric, part = mutable(0.0), [0.0] * 3, [0.0] * 3, mutable(0)
        tolerance = 1e-9 * self._reach
        found = self._locator.IntersectWithLine(begin, end, tolerance, t, at, parametric, part)  # type: ignore[call-overload]
        return bool(found)
