"""Back faces that can never be seen, so that drawing them would be waste.

A renderer without a graphics card shades the far side of a closed surface
before the near side hides it, which is a third to a half of a picture's cost
(47 of 124 ms for a closed mesh of 179,000 triangles). A surface that crosses
itself passes the count of its edges, so four small pictures decide.
"""

import numpy as np
import pyvista as pv
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from vexel.sources.meshes.parts import Part

PROOF_DIRECTIONS = ((1, 1, 1), (1, -1, -1), (-1, 1, -1), (-1, -1, 1))
"""Corners of a tetrahedron: looks from all round."""
PROOF_SIZE = (240, 135)
PROOF_PIXELS = 8
"""Pixels that may differ: at an outline, both faces have one depth and rounding picks one."""


def may_cull_back_faces(part: Part) -> bool:
    """Whether a part is a closed, opaque surface that faces outward as a whole.

    It still may cross itself, which only pictures can tell: see `proven_by`.
    """
    return part.rigid and _opaque(part) and _closed(part.mesh)


def proven_by(with_backs: list[NDArray[np.uint8]], without: list[NDArray[np.uint8]]) -> bool:
    """Whether pictures with and without back faces are the same but for outlines."""
    differing = [int((a != b).any(axis=-1).sum()) for a, b in zip(with_backs, without, strict=True)]
    return max(differing) <= PROOF_PIXELS


def _opaque(part: Part) -> bool:
    if part.blends or part.cutoff:
        return False
    if part.texture is not None:
        return bool(part.texture.shape[-1] == 3)
    if not part.direct:
        return True
    colours = np.asarray(part.mesh[part.direct])
    return colours.shape[1] == 3 or bool((colours[:, 3] == 255).all())


def _closed(mesh: pv.PolyData) -> bool:
    """Whether each edge is walked as often one way as the other, and each connected part has a positive volume.

    A speck inside out would be a few pixels of the proof's pictures, and of a large frame many.
    """
    if mesh.n_cells == 0 or mesh.n_faces != mesh.n_cells or not mesh.is_all_triangles:
        return False
    points, corners = np.asarray(mesh.points, dtype=np.float64), mesh.regular_faces
    same_place = np.unique(np.ascontiguousarray(mesh.points), axis=0, return_inverse=True)[1].reshape(-1)
    places = same_place[corners].astype(np.int64)
    walked = places.ravel(), np.roll(places, -1, axis=1).ravel()
    count = np.int64(len(points))
    forth, back = (np.sort(a * count + b) for a, b in (walked, walked[::-1]))
    if not np.array_equal(forth, back):
        return False
    linked = coo_array((np.ones(len(walked[0]), dtype=bool), walked), shape=(count, count))
    _, part_of = connected_components(linked, directed=False)
    a, b, c = (points[corners[:, k]] - points.mean(axis=0) for k in range(3))
    volumes = np.bincount(part_of[places[:, 0]], np.einsum("ij,ij->i", a, np.cross(b, c)))
    return bool((volumes[np.unique(part_of[places[:, 0]])] > 0).all())
