"""PLY files of points: clouds, and scans with position, scale, rotation, opacity and colour coefficients each."""

from pathlib import Path
from typing import Any

import numpy as np
import pyvista as pv
from numpy.typing import NDArray

from vexel.core.errors import SourceError
from vexel.sources.meshes.coordinates import compact
from vexel.sources.meshes.mesh_format import cut_short
from vexel.sources.meshes.parts import Part
from vexel.sources.meshes.ply import PlyHeader, read_ply_header
from vexel.sources.meshes.splats import Splats, plain_harmonics

SPLAT = ("scale_0", "scale_1", "rot_0", "rot_1", "rot_2", "rot_3", "opacity")
"""Properties that distinguish a scan of soft ellipsoids from any other cloud."""
CONSTANTS = ("f_dc_0", "f_dc_1", "f_dc_2")
COLOURS = (("red", "green", "blue"), ("diffuse_red", "diffuse_green", "diffuse_blue"), ("r", "g", "b"))
"""Names under which programs write colours."""
RADII = ("radius", "pscale", "point_size")
FLAT = 0.01
"""A soft disc, without a third axis, is this share of its smaller one thick."""
DOT = 0.6
"""A dot of a cloud reaches this far to its nearest neighbour."""
NEIGHBOURS = 4000
"""Number of points whose nearest neighbour is looked up."""
GREY = np.array([200, 200, 200], np.uint8)


def read_points(file: Path) -> Part | None:
    """The points of a PLY file without faces; None when it has faces.

    Raises
    ------
    SourceError
        When it ends early, or holds no points.
    """
    header = read_ply_header(file)
    if header.count_of("face") or not header.count_of("vertex"):
        return None
    if header.elements[0].name != "vertex" or any(" " in kind for kind, _ in header.vertex.numbers):
        raise SourceError(f"{file.name} has lists or other elements before its points: export the points alone")
    table = _table(file, header)
    if not set("xyz") <= header.vertex.names:
        raise SourceError(f"{file.name} has points without x, y and z: export it again")
    return _scan(table) if set(SPLAT) <= header.vertex.names else _cloud(table)


def _table(file: Path, header: PlyHeader) -> NDArray[Any]:
    order = ">" if header.form == "binary_big_endian" else "<"
    row = np.dtype([(name, order + kind) for kind, name in header.vertex.numbers])
    points = header.vertex.count
    if not header.is_binary:
        return _text_table(file, header, row)
    wanted = points * row.itemsize
    if file.stat().st_size - header.size < wanted:
        have = (file.stat().st_size - header.size) // row.itemsize
        raise cut_short(file, f"{points:,} points", f"{have:,}")
    return np.fromfile(file, row, points, offset=header.size)


def _text_table(file: Path, header: PlyHeader, row: np.dtype[Any]) -> NDArray[Any]:
    import pandas

    names = [name for _, name in header.vertex.numbers]
    with file.open("rb") as stream:
        stream.seek(header.size)
        try:
            read = pandas.read_csv(
                stream, sep=r"\s+", header=None, nrows=header.vertex.count, usecols=range(len(names))
            )
            numbers = read.to_numpy(np.float64)
        except (ValueError, pandas.errors.ParserError) as error:
            raise SourceError(f"{file.name} has a row that is not {len(names)} numbers ({error})") from None
    if len(numbers) < header.vertex.count or not np.isfinite(numbers[-1]).all():
        raise cut_short(file, f"{header.vertex.count:,} points", f"{len(numbers):,}")
    table = np.zeros(len(numbers), row)
    for n, name in enumerate(names):
        table[name] = numbers[:, n]
    return table


def _scan(table: NDArray[Any]) -> Part:
    """Soft ellipsoids: scales are kept as logarithms, opacities before the logistic curve."""
    names = table.dtype.names or ()
    turns = _columns(table, ("rot_0", "rot_1", "rot_2", "rot_3"))
    turns /= np.maximum(np.linalg.norm(turns, axis=1, keepdims=True), 1e-12)
    scales = np.exp(_columns(table, tuple(name for name in ("scale_0", "scale_1", "scale_2") if name in names)))
    if scales.shape[1] == 2:
        scales = np.column_stack([scales, FLAT * scales.min(axis=1)])
    harmonics, coloured = _harmonics(table)
    dots = Splats(
        scales=scales,
        turns=turns,
        opacities=(1 / (1 + np.exp(-table["opacity"].astype(np.float32)))).astype(np.float32),
        harmonics=harmonics,
        soft=True,
        coloured=coloured,
    )
    return Part(pv.PolyData(_places(table)), splats=dots, name="scan")


def _cloud(table: NDArray[Any]) -> Part:
    """Discs of one size, or of the sizes that the file tells."""
    names, points = table.dtype.names or (), _places(table)
    harmonics, coloured = _harmonics(table)
    radius = next((table[name].astype(np.float32) for name in RADII if name in names), None)
    if radius is None or not (radius > 0).all():
        radius = np.full(len(points), _spacing(points) * DOT, np.float32)
    alpha = np.ones(len(points), np.float32)
    for name in ("alpha", "opacity", "a"):
        if name in names:
            alpha = _shares(table[name])
            break
    dots = Splats(
        scales=np.repeat(radius[:, None], 3, axis=1),
        turns=np.tile(np.array([1, 0, 0, 0], np.float32), (len(points), 1)),
        opacities=alpha,
        harmonics=harmonics,
        soft=False,
        coloured=coloured,
    )
    return Part(pv.PolyData(points), splats=dots, name="cloud")


def _places(table: NDArray[Any]) -> NDArray[np.floating[Any]]:
    return compact(np.stack([table[axis].astype(np.float64) for axis in "xyz"], axis=1))


def _harmonics(table: NDArray[Any]) -> tuple[NDArray[np.float32], bool]:
    """Coefficients of colours, and whether the file has any."""
    names = set(table.dtype.names or ())
    if set(CONSTANTS) <= names:
        more = sum(1 for name in names if name.startswith("f_rest_")) // 3
        count = {0: 1, 3: 4, 8: 9, 15: 16}.get(more, 1)
        harmonics = np.empty((len(table), count, 3), np.float32)
        harmonics[:, 0] = _columns(table, CONSTANTS)
        for channel in range(3):
            for n in range(1, count):
                harmonics[:, n, channel] = table[f"f_rest_{channel * more + n - 1}"]
        return harmonics, True
    told = next((found for found in COLOURS if set(found) <= names), None)
    if told is None:
        return plain_harmonics(np.tile(GREY, (len(table), 1))), False
    codes = np.rint(255 * np.stack([_shares(table[name]) for name in told], axis=1)).astype(np.uint8)
    return plain_harmonics(codes), True


def _shares(values: NDArray[Any]) -> NDArray[np.float32]:
    """Numbers of a channel from 0 to 1: integers of their type's range, others unchanged, or of 255."""
    if values.dtype.kind in "iu":
        return (values / np.iinfo(values.dtype).max).astype(np.float32)
    most = float(np.nanmax(values, initial=0.0))
    return np.asarray(np.clip(np.nan_to_num(values) / (255 if most > 1 else 1), 0, 1), np.float32)


def _columns(table: NDArray[Any], names: tuple[str, ...]) -> NDArray[np.float32]:
    return np.stack([table[name].astype(np.float32) for name in names], axis=1)


def _spacing(points: NDArray[np.floating[Any]]) -> float:
    """Median distance from a point to its nearest neighbour."""
    from scipy.spatial import cKDTree

    if len(points) < 2:
        return 1.0
    some = points[:: max(len(points) // NEIGHBOURS, 1)]
    apart = cKDTree(points).query(some, k=2)[0][:, 1]
    return float(np.median(apart[apart > 0])) if (apart > 0).any() else 1.0
