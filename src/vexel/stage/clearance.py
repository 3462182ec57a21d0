"""Distances from places to surfaces, whether lines lead through them, and what is inside."""

import numpy as np
import pyvista as pv
from vtkmodules.vtkCommonCore import mutable
from vtkmodules.vtkCommonDataModel import vtkCellLocator, vtkStaticCellLocator
from vtkmodules.vtkFiltersModeling import vtkSelectEnclosedPoints

from vexel.sources.meshes.parts import Part
from vexel.stage.scene.part_actors import WELD

Place = tuple[float, float, float]


class Surroundings:
    """Surfaces, made ready to be asked what is near."""

    def __init__(self, parts: list[Part]) -> None:
        self._parts = parts
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

    def holds(self, place: Place) -> bool:
        """Whether a place is inside a surface that is closed."""
        return any(_closed_about(part.mesh, place) for part in self._parts)


def _closed_about(mesh: pv.PolyData, place: Place) -> bool:
    low, high = np.reshape(mesh.bounds, (3, 2)).T
    if not mesh.n_faces or (place < low).any() or (place > high).any():
        return False
    # Corners that only look like one, as every face of an STL has its own, are made one.
    joined = mesh.clean(tolerance=WELD).triangulate()
    if not joined.is_manifold:
        return False
    asked = vtkSelectEnclosedPoints()
    asked.Initialize(joined)
    return bool(asked.IsInsideSurface(*place))
