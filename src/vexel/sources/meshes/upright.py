"""Which axis of a mesh points up, guessed from its shape where its format does not say.

Things that were made to stand show it: they rest on a base, most of them is
low, they are as wide one way as the other round their upright axis, and their
top is unlike their bottom while their left is like their right.
"""

from collections.abc import Sequence

import numpy as np
import pyvista as pv
from numpy.typing import NDArray

from vexel.core.evaluate.source_facts import UpGuess

Array = NDArray[np.float64]
AXES = {"y": 1, "z": 2}
TOLD = 0.08
"""With less of a lead the shape says nothing, as that of a cube or a ball."""
SURE = 0.25
"""With a lead of this much the guess is taken; below, the user is asked."""
BINS = 12
MOST_FACES = 200_000
"""Of a larger mesh every n-th face is looked at."""


def up_of(meshes: Sequence[pv.PolyData]) -> UpGuess | None:
    """Guess which of y and z points up; None where the shape does not tell."""
    shapes = [shape for shape in map(_faces, meshes) if shape is not None]
    if not shapes:
        return None
    centres, normals, areas = (np.concatenate(parts) for parts in zip(*shapes, strict=True))
    if areas.sum() <= 0:
        return None
    scores = {name: _score(centres, normals, areas, axis) for name, axis in AXES.items()}
    lead = scores["y"] - scores["z"]
    if abs(lead) < TOLD:
        return None
    return UpGuess("y" if lead > 0 else "z", abs(lead) >= SURE)


def _faces(mesh: pv.PolyData) -> tuple[Array, Array, Array] | None:
    """Middles (N, 3), unit normals (N, 3) and areas (N,) of triangles."""
    triangles = mesh if mesh.is_all_triangles else mesh.triangulate()
    if triangles.n_cells == 0 or not triangles.is_all_triangles:
        return None
    faces = triangles.regular_faces
    faces = faces[:: max(len(faces) // MOST_FACES, 1)]
    corners = np.asarray(triangles.points, dtype=np.float64)[faces]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    doubled = np.linalg.norm(across, axis=1)
    whole = doubled > 0
    return corners.mean(axis=1)[whole], across[whole] / doubled[whole, None], doubled[whole] / 2


def _score(centres: Array, normals: Array, areas: Array, axis: int) -> float:
    """How much an axis looks like the upright one; the terms have about equal ranges."""
    low, high = centres.min(axis=0), centres.max(axis=0)
    sizes = np.maximum(high - low, 1e-12 * float((high - low).max() or 1))
    along = (centres[:, axis] - low[axis]) / sizes[axis]
    others = [n for n in range(3) if n != axis]
    weights = areas / areas.sum()
    footprint = float(np.prod(sizes[others]))
    # Winding is not to be relied on, so that a face counts whichever way it looks.
    level = np.abs(normals[:, axis]) > 0.9
    base, top = (min(float(areas[level & end].sum()) / footprint, 1.0) for end in (along < 0.03, along > 0.97))
    low_down = 0.5 - float(weights @ along)
    shares = np.histogram(along, bins=BINS, range=(0, 1), weights=weights)[0]
    unlike = float(np.abs(shares - shares[::-1]).sum()) / 2
    spread = [float(weights @ (centres[:, n] - weights @ centres[:, n]) ** 2) for n in others]
    round_it = 1 - abs(spread[0] - spread[1]) / max(sum(spread), 1e-30)
    return 0.4 * base - 0.2 * top + 0.4 * low_down + 1.0 * unlike + 0.6 * round_it
