"""PLY files of points: clouds, and scans with position, scale, rotation, opacity and colour coefficients each."""

from pathlib import Path
from typing import Any

import numpy as np
import pyvista as pv
import trimesh
from numpy.typing import NDArray

from vexel.sources.meshes.coordinates import compact
from vexel.sources.meshes.mesh_format import cut_short
from vexel.sources.meshes.parts import Part
from vexel.sources.meshes.ply import PlyHeader, read_ply_header
from vexel.sources.meshes.splats import Splats, plain_harmonics
from vexel.sources.protocols import SourceError

SPLAT = ("scale_0", "scale_1", "scale_2", "rot_0", "rot_1", "rot_2", "rot_3", "opacity", "f_dc_0", "f_dc_1", "f_dc_2")
"""What tells a scan of soft ellipsoids from any other cloud."""
DOT = 0.6
"""A dot of a cloud reaches this far to its nearest neighbour."""
NEIGHBOURS = 4000
"""So many points are asked for their nearest neighbour."""
GREY = np.array([200, 200, 200], np.uint8)


def read_points(file: Path) -> Part | None:
    """The points of a PLY file without faces; None when it has faces.

    Raises
    ------
    SourceError
        When it ends early.
    """
    header = read_ply_header(file)
    if header.count_of("face") or not header.count_of("vertex"):
        return None
    if set(SPLAT) <= header.vertex.names and header.is_binary:
        return _scan(_table(file, header))
    return _cloud(file)


def _table(file: Path, header: PlyHeader) -> NDArray[Any]:
    order = "<" if header.form == "binary_little_endian" else ">"
    row = np.dtype([(name, order + kind) for kind, name in header.vertex.numbers])
    points = header.vertex.count
    wanted = points * row.itemsize
    if file.stat().st_size - header.size < wanted:
        have = (file.stat().st_size - header.size) // row.itemsize
        raise cut_short(file, f"{points:,} points", f"{have:,}")
    return np.fromfile(file, row, points, offset=header.size)


def _scan(table: NDArray[Any]) -> Part:
    """Soft ellipsoids: scales are kept as logarithms, opacities before the logistic curve."""
    points = compact(np.stack([table[axis].astype(np.float64) for axis in "xyz"], axis=1))
    turns = _columns(table, ("rot_0", "rot_1", "rot_2", "rot_3"))
    turns /= np.maximum(np.linalg.norm(turns, axis=1, keepdims=True), 1e-12)
    more = sum(1 for name in table.dtype.names or () if name.startswith("f_rest_")) // 3
    count = {0: 1, 3: 4, 8: 9, 15: 16}.get(more, 1)
    harmonics = np.empty((len(table), count, 3), np.float32)
    harmonics[:, 0] = _columns(table, ("f_dc_0", "f_dc_1", "f_dc_2"))
    for channel in range(3):
        for n in range(1, count):
            harmonics[:, n, channel] = table[f"f_rest_{channel * more + n - 1}"]
    dots = Splats(
        scales=np.exp(_columns(table, ("scale_0", "scale_1", "scale_2"))),
        turns=turns,
        opacities=(1 / (1 + np.exp(-table["opacity"].astype(np.float32)))).astype(np.float32),
        harmonics=harmonics,
        soft=True,
    )
    return Part(pv.PolyData(points), splats=dots, name="scan")


def _columns(table: NDArray[Any], names: tuple[str, ...]) -> NDArray[np.float32]:
    return np.stack([table[name].astype(np.float32) for name in names], axis=1)


def _cloud(file: Path) -> Part:
    cloud = trimesh.load(file, process=False)
    if isinstance(cloud, trimesh.Scene):
        cloud = next(iter(cloud.geometry.values()))
    points = compact(np.asarray(cloud.vertices))
    if not len(points):
        raise SourceError(f"{file.name} holds no points: export it again")
    colours = np.asarray(getattr(cloud, "colors", ()), dtype=np.uint8)
    if colours.shape[:1] != points.shape[:1]:
        colours = np.tile(GREY, (len(points), 1))
    reach = np.float32(_spacing(points) * DOT)
    return Part(
        pv.PolyData(points),
        splats=Splats(
            scales=np.full((len(points), 3), reach, np.float32),
            turns=np.tile(np.array([1, 0, 0, 0], np.float32), (len(points), 1)),
            opacities=np.ones(len(points), np.float32),
            harmonics=plain_harmonics(colours),
            soft=False,
        ),
        name="cloud",
    )


def _spacing(points: NDArray[np.floating[Any]]) -> float:
    """Median distance from a point to its nearest neighbour."""
    from scipy.spatial import cKDTree

    if len(points) < 2:
        return 1.0
    some = points[:: max(len(points) // NEIGHBOURS, 1)]
    apart = cKDTree(points).query(some, k=2)[0][:, 1]
    return float(np.median(apart[apart > 0])) if (apart > 0).any() else 1.0
