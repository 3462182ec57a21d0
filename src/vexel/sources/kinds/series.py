"""Source kind ``series``: data, one slice a frame."""

from fractions import Fraction
from functools import cached_property
from pathlib import Path
from typing import Any

import numpy as np
import pyvista as pv

from vexel.core.errors import SourceError
from vexel.core.evaluate.source_facts import SourceFacts, SourceFinding
from vexel.core.lanes.dial import Dial
from vexel.core.time.rate import MAX_SOURCE_RATE, Rate
from vexel.core.time.source_frames import SourceFrames
from vexel.sources.code.code_file import CodeFile
from vexel.sources.code.decorators import Decorated
from vexel.sources.code.watch import Reading
from vexel.sources.contained_path import contained_file
from vexel.sources.data.plots import ArrayLook, TableLook
from vexel.sources.data.slices import ArraySlices, MeshSlices, SeriesData, TableSlices, open_data
from vexel.sources.kinds.sketch import shown
from vexel.sources.meshes.parts import as_parts, check_parts
from vexel.sources.pictures.sequence_members import stamp_of
from vexel.sources.protocols import FrameRequest, Shown


class SeriesFile:
    """Data, opened.

    Parameters
    ----------
    file : Path
    rate : str, optional
        Slices a second; None shows one slice a frame.
    between : str
        What stands between two slices: the ``nearest`` before, or both mixed, ``linear``.
    by, array : str
        Column whose values make the slices of a table; name of an array in a .npz.
    draw : str
        A Python file beside the data whose sketch or model takes ``slice``.
    drawing : Path, optional
        The copy of that file which is to run.
    """

    def __init__(
        self,
        file: Path,
        rate: str | None = None,
        between: str = "nearest",
        by: str = "",
        array: str = "",
        draw: str = "",
        drawing: Path | None = None,
    ) -> None:
        self._file = file
        self._data = open_data(file, by, array)
        self._linear = between == "linear"
        self._rate = rate
        code = drawing or (contained_file(file.parent, draw, file.name) if draw else None)
        self._drawing = CodeFile(code, Decorated) if code else None
        self._look = None if self._drawing or isinstance(self._data, MeshSlices) else _look(self._data, file.name)

    @cached_property
    def facts(self) -> SourceFacts:
        """Count, times and columns."""
        data = self._data
        dials: tuple[Dial, ...] = ()
        sees: tuple[str, ...] = ("slot",)
        if self._drawing:
            dials, sees = tuple(self._drawing.marked.dials), ("slot", *self._drawing.marked.time_inputs)
        rate = "" if self._rate is None else str(Rate.parse(self._rate, MAX_SOURCE_RATE).fps)
        times = tuple(map(str, data.times)) if self._rate is None else ()
        stamps = tuple(data.stamp(number) for number in range(data.count))
        slots = SourceFrames(rate, data.count, stamps if any(stamps) else (stamp_of(self._file),), times, self._linear)
        pictures = not isinstance(data, MeshSlices) and self._drawing is None
        about = [*data.about, *([("drawn", self._look.drawn)] if isinstance(self._look, TableLook) else [])]
        findings = tuple(_findings(data, self._look))
        return SourceFacts(dials, sees, pictures, slots, about=tuple(about), findings=findings)

    @property
    def readings(self) -> list[Reading]:
        """What its code read beside its own files; see `vexel.sources.code.watch`."""
        return self._drawing.watch.readings if self._drawing else []

    def show(self, asked: FrameRequest) -> Shown:
        """The picture of a slice; see `Source.show`."""
        number = int(asked.time_inputs["slot"])
        part = Fraction(asked.time_inputs.get("part", 0))
        value = self._value(number, part)
        if self._drawing is not None:
            return self._drawn(value, number, asked)
        if self._look is not None:
            picture: Shown = self._look.show(value, number + float(part), asked)
            return picture
        try:
            parts = as_parts(value)
            check_parts(parts)
        except (TypeError, ValueError) as error:
            raise SourceError(f"{self._file.name}, slice {number:,}: {error}") from None
        return parts

    def _value(self, number: int, part: Fraction) -> Any:
        value = self._data.slice(number)
        if part == 0 or number + 1 >= self._data.count:
            return value
        return _mixed(value, self._data.slice(number + 1), float(part), f"{self._file.name}, slice {number:,}")

    def _drawn(self, value: Any, number: int, asked: FrameRequest) -> Shown:
        code = self._drawing
        assert code is not None
        sketch = code.marked
        seen = {name: seen for name, seen in asked.time_inputs.items() if name not in ("slot", "part")}
        data = {"slice": value, "number": number, "slices": self._data.count}
        return shown(
            asked,
            sketch.takes,
            0,
            lambda more: code.call(sketch, **code.arguments(asked.dials, seen, **more, **data)),
            lambda wrong: SourceError(f"{code.place} returned {wrong}", code.line),
        )


def _look(data: SeriesData, name: str) -> ArrayLook | TableLook:
    return ArrayLook(data, name) if isinstance(data, ArraySlices) else TableLook(data, name)  # type: ignore[arg-type]


def _mixed(a: Any, b: Any, part: float, where: str) -> Any:
    """Two slices mixed linearly; what is not a number stays that of the first."""
    if isinstance(a, dict):
        return {name: _mixed_values(a[name], b[name], part) for name in a}
    if isinstance(a, np.ndarray):
        return _mixed_values(a, b, part)
    if isinstance(a, pv.MultiBlock) and isinstance(b, pv.MultiBlock):
        if a.n_blocks != b.n_blocks:
            raise SourceError(f"{where}: it has {a.n_blocks:,} parts and the next {b.n_blocks:,}: use nearest")
        pairs = zip(a.keys(), a, b, strict=True)
        return pv.MultiBlock({name: _mixed(one, other, part, where) for name, one, other in pairs})
    if a.n_points != b.n_points:
        raise SourceError(f"{where}: its mesh has {a.n_points:,} points and the next {b.n_points:,}: use nearest")
    mixed = a.copy()
    mixed.points = _mixed_values(np.asarray(a.points), np.asarray(b.points), part)
    for name in set(a.point_data.keys()) & set(b.point_data.keys()):
        mixed.point_data[name] = _mixed_values(np.asarray(a.point_data[name]), np.asarray(b.point_data[name]), part)
    for name in set(a.cell_data.keys()) & set(b.cell_data.keys()):
        mixed.cell_data[name] = _mixed_values(np.asarray(a.cell_data[name]), np.asarray(b.cell_data[name]), part)
    return mixed


def _mixed_values(a: Any, b: Any, part: float) -> Any:
    kind = getattr(np.asarray(a).dtype, "kind", "O")
    if kind not in "iuf" or np.shape(a) != np.shape(b):
        return a
    mixed = np.asarray(a, np.float64) * (1 - part) + np.asarray(b, np.float64) * part
    return np.rint(mixed).astype(np.uint8) if np.asarray(a).dtype == np.uint8 else mixed


def _findings(data: SeriesData, look: ArrayLook | TableLook | None) -> list[SourceFinding]:
    found = []
    if isinstance(look, TableLook) and look.axis.dates_guessed:
        found.append(SourceFinding("dates-guessed", {"column": look.axis.name}))
    if isinstance(look, TableLook) and look.axis.reversed:
        found.append(SourceFinding("rows-reversed", {"column": look.axis.name}))
    if isinstance(data, TableSlices):
        found.extend(data.findings)
        for name, values in data.columns.items():
            if values.dtype.kind == "f" and (missing := int(np.isnan(values).sum())):
                found.append(SourceFinding("values-missing", {"count": missing, "column": name}))
    if isinstance(data, ArraySlices) and data.array.dtype.kind == "f":
        bad = sum(int((~np.isfinite(data.array[number])).sum()) for number in range(data.count))
        if bad:
            found.append(SourceFinding("not-finite", {"count": bad}))
    steps = {b - a for a, b in zip(data.times, list(data.times)[1:], strict=False)}
    if len(steps) > 1:
        found.append(SourceFinding("uneven-times"))
    return found
