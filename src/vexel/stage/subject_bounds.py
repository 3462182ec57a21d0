"""The measured subject: the extent of its parts at some moments of a shot."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.framing import sphere_about
from vexel.core.errors import SourceError
from vexel.core.evaluate.source_facts import Point, Subject
from vexel.core.short_number import round_to
from vexel.sources.meshes.coordinates import stored_step
from vexel.sources.meshes.parts import Part, ranges_of

Array = NDArray[np.float64]
STRAY = 0.5
"""Per cent of a scan's points on either side of each axis that may be strays."""
FEW, MANY = 8, 1000
"""Points of a scan from which single ones may be strays, and from which a share of them is left out."""
FAR_OFF = 50.0
"""What is this many times as far from the middle as most points is a stray."""
MOST_CORNERS = 256
"""Number of outermost points that are kept of a subject."""
SAMPLED = 8192
"""Points of the sample that shows whether a cloud may have that many corners."""
MOST_PRODUCTS = 1 << 20
"""Points times directions that are looked at at once."""
DETAIL = 1e-6
"""Outlines are rounded to this share of the subject's radius."""
SIDES = ((0, 1), (0, 2), (1, 2))
"""Axes that are seen from above, from the front and from the side."""


class SubjectBounds:
    """What is known of a subject so far; `add` parts, then take the `subject`."""

    def __init__(self) -> None:
        self._clouds: list[NDArray[np.floating[Any]]] = []
        self._ranges: dict[str, tuple[float, float]] = {}
        self._names: dict[str, None] = {}
        self._arrays: dict[str, None] = {}
        self._areas: list[float] = []
        self._middles: list[Array] = []
        self._step = 0.0

    def add(self, parts: list[Part]) -> None:
        """Add the extent of parts at one moment."""
        self._clouds.extend(extent_of(part) for part in parts)
        self._names |= dict.fromkeys(part.name for part in parts)
        self._arrays |= dict.fromkeys(part.scalars for part in parts if part.scalars)
        for name, (low, high) in ranges_of(parts).items():
            before = self._ranges.get(name, (low, high))
            self._ranges[name] = (min(low, before[0]), max(high, before[1]))
        self._step = max(self._step, *(stored_step(np.asarray(part.mesh.points)) for part in parts))
        for part in parts:
            area, middle = _surface(part)
            self._areas.append(area)
            self._middles.append(middle)

    @property
    def subject(self) -> Subject:
        """All that was added.

        Raises
        ------
        SourceError
            When all its points are at one place.
        """
        sphere = sphere_about(self._clouds)
        if sphere.radius <= 0:
            raise SourceError(
                "the subject has no extent: all its points are at one place. Give it some size, or check its units"
            )
        points = np.concatenate([_sparse(cloud) for cloud in self._clouds if len(cloud)])
        weights = np.array(self._areas)
        if weights.sum() <= 0:
            weights = np.array([float(len(cloud)) for cloud in self._clouds])
        return Subject(
            sphere,
            self._ranges,
            tuple(self._names),
            tuple(self._arrays),
            _triple(np.average(self._middles, axis=0, weights=weights)),
            (_triple(points.min(axis=0)), _triple(points.max(axis=0))),
            tuple(_outline(points[:, axes], sphere.radius * DETAIL) for axes in SIDES),
            tuple(_triple(point) for point in _hull(self._clouds)),
            self._step,
        )


def extent_of(part: Part) -> NDArray[np.floating[Any]]:
    """Points that a part takes up; of a scan without the few that float far off."""
    points: NDArray[np.floating[Any]] = part.mesh.points
    if part.splats is None or not part.splats.soft or len(points) < FEW:
        return points
    away = np.linalg.norm(points - np.median(points, axis=0), axis=1)
    points = points[away <= FAR_OFF * max(float(np.median(away)), 1e-30)]
    if len(points) < MANY:
        return points
    # Scans of the open air hold points kilometres away, which would leave the subject a speck in the frame.
    low, high = np.percentile(points, [STRAY, 100 - STRAY], axis=0)
    margin = 0.1 * (high - low)
    inside: NDArray[np.bool_] = ((points >= low - margin) & (points <= high + margin)).all(axis=1)
    return np.asarray(points[inside])


def _surface(part: Part) -> tuple[float, Array]:
    """Area and middle of a part's triangles; without any, no area and the middle of its points."""
    points = np.asarray(part.mesh.points, dtype=np.float64)
    if not len(points):
        return 0.0, np.zeros(3)
    if part.mesh.n_faces == 0 or not part.mesh.is_all_triangles:
        return 0.0, points.mean(axis=0)
    a, b, c = (points[corners] for corners in part.mesh.regular_faces.T)
    areas = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2
    if areas.sum() <= 0:
        return 0.0, points.mean(axis=0)
    middle = np.average((a + b + c) / 3, axis=0, weights=areas)
    return float(areas.sum()), np.asarray(middle, dtype=np.float64)


def _sparse(cloud: NDArray[np.floating[Any]]) -> Array:
    """The outermost points of a cloud in directions all round: enough for a box and outlines."""
    points = np.asarray(cloud, dtype=np.float64)
    if len(points) < 200:
        return points
    turns = np.linspace(0, 2 * np.pi, 48, endpoint=False)
    circle = np.stack([np.cos(turns), np.sin(turns)], axis=1)
    # A row a direction, since NumPy finds the greatest of a row thirty times as fast as that of a column.
    outer = [np.argmax(circle @ points[:, axes].T, axis=1) for axes in SIDES]
    sparse: Array = points[np.unique(np.concatenate(outer))]
    return sparse


def _hull(clouds: list[NDArray[np.floating[Any]]]) -> Array:
    """Corners of the convex hull; the outermost points in directions all round where it has very many."""
    filled = [np.asarray(cloud, dtype=np.float64) for cloud in clouds if len(cloud)]
    points = np.concatenate([cloud[_outermost(cloud)] if len(cloud) > MOST_CORNERS else cloud for cloud in filled])
    return points[_outermost(points)] if len(points) > MOST_CORNERS else points


def _outermost(cloud: Array) -> NDArray[np.intp]:
    """Corners of the convex hull, or the outermost points in MOST_CORNERS directions if it has more."""
    from scipy.spatial import ConvexHull, QhullError

    if (found := _of_round(cloud)) is not None:
        return found
    try:
        corners = ConvexHull(cloud).vertices
    except QhullError:
        # Flat, or on a line: its outermost points are those of any direction all the same.
        corners = np.arange(len(cloud))
    if len(corners) <= MOST_CORNERS:
        return np.asarray(corners, np.intp)
    return np.asarray(corners[np.unique(_outer(cloud[corners], _directions(MOST_CORNERS)))], np.intp)


def _of_round(cloud: Array) -> NDArray[np.intp] | None:
    """Outermost points of a cloud that has more corners than are kept for certain; None where that is not sure.

    If more than MOST_CORNERS directions have distinct outermost points, no hull is needed: for a torus of 90,000
    points it takes 1.2 s, the outermost points 0.05 s. The hull of a cloud with few corners takes 0.1 s.
    """
    some = cloud[:: len(cloud) // SAMPLED + 1]
    more = np.concatenate([_directions(MOST_CORNERS), _directions(MOST_CORNERS // 4)])
    if len(np.unique(_outer(some, more))) <= MOST_CORNERS // 2:
        return None
    outer = _outer(cloud, more)
    return np.unique(outer[:MOST_CORNERS]) if len(np.unique(outer)) > MOST_CORNERS else None


def _directions(count: int) -> Array:
    """Directions by Fibonacci's lattice, shape (N, 3): between two of 256 a ball is missed by under 0.5 per cent."""
    n = np.arange(count) + 0.5
    z, turn = 1 - 2 * n / count, np.pi * (1 + 5**0.5) * n
    flat = np.sqrt(1 - z * z)
    return np.stack([flat * np.cos(turn), flat * np.sin(turn), z], axis=1)


def _outer(cloud: Array, directions: Array) -> NDArray[np.intp]:
    """Numbers of the outermost points in some directions; a few at a time, as those of a large cloud take much room."""
    across = np.ascontiguousarray(cloud.T)
    few = max(MOST_PRODUCTS // len(cloud), 1)
    found = [np.argmax(directions[n : n + few] @ across, axis=1) for n in range(0, len(directions), few)]
    return np.concatenate(found)


def _outline(flat: Array, grain: float) -> tuple[tuple[float, float], ...]:
    """The convex outline of points of a plane; their ends where they are on a line."""
    from scipy.spatial import ConvexHull, QhullError

    try:
        corners = flat[ConvexHull(flat).vertices]
    except QhullError:
        corners = np.stack([flat.min(axis=0), flat.max(axis=0)])
    return tuple((round_to(x, grain), round_to(y, grain)) for x, y in corners)


def _triple(values: Array) -> Point:
    x, y, z = (float(value) for value in values)
    return x, y, z
