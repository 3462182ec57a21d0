"""Data in slices: arrays, tables and sets of VTK files."""

from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any, Protocol

import numpy as np
import pyvista as pv
from numpy.typing import NDArray

from vexel.core.errors import Mistake, SourceError
from vexel.core.wording import nearest_name
from vexel.sources.contained_path import contained_file
from vexel.sources.data.pieces import stamp_of_all, with_pieces
from vexel.sources.data.table_file import Columns, read_table
from vexel.sources.pictures.sequence_members import members_of, numbered_meshes

ARRAYS = (".npy", ".npz")
TABLES = (".csv", ".parquet")


class SeriesData(Protocol):
    """Slices of one kind.

    Attributes
    ----------
    count : int
    times : sequence of Fraction
        When each slice stands, in the data's own seconds; empty where it does not say.
    about : list of (str, str)
        What it is, for people.
    """

    count: int
    times: Sequence[Fraction]
    about: list[tuple[str, str]]

    def slice(self, number: int) -> Any:
        """One slice: an array, columns by name, or a PyVista mesh."""

    def stamp(self, number: int) -> str:
        """What identifies a slice's content; empty where all are in one file."""


class ArraySlices:
    """An array, one slice for each place of its first axis."""

    def __init__(self, file: Path, name: str) -> None:
        self.array = _array(file, name)
        if self.array.ndim < 1 or self.array.shape[0] == 0 or self.array.dtype.kind not in "biuf":
            raise SourceError(
                f"{file.name} holds an array of shape {self.array.shape} and type {self.array.dtype}: "
                "expected numbers with the slices along the first axis"
            )
        self.count = int(self.array.shape[0])
        self.times: Sequence[Fraction] = ()
        shape = " × ".join(map(str, self.array.shape[1:])) or "one number"
        self.about = [("slices", f"{self.count:,}"), ("each", f"{shape}, {self.array.dtype}")]

    def slice(self, number: int) -> NDArray[Any]:
        """See `SeriesData.slice`."""
        return np.asarray(self.array[number])

    def stamp(self, number: int) -> str:
        """See `SeriesData.stamp`."""
        return ""


class TableSlices:
    """A table, one slice a row, or one for each value of a column.

    Attributes
    ----------
    columns : dict of str to ndarray
        The whole table.
    findings : tuple of SourceFinding
        What is odd about it.
    """

    def __init__(self, file: Path, by: str) -> None:
        table = read_table(file)
        self.columns: Columns = table.columns
        self.findings = table.findings
        rows = len(next(iter(self.columns.values()), ()))
        if rows == 0:
            raise SourceError(f"{file.name} has no rows below its header: use a table with data")
        self.times: Sequence[Fraction] = ()
        self.about = [("rows", f"{rows:,}"), ("columns", ", ".join(self.columns)), *table.about]
        if by and by not in self.columns:
            raise SourceError(f"source.by: {file.name} has no column {by!r}; {nearest_name(by, self.columns)}")
        self.grouped = bool(by)
        if by:
            # As text, since a column may mix numbers and words; in the order of the file and not of the alphabet.
            values, first = np.unique(self.columns[by].astype(str), return_index=True)
            in_order = values[np.argsort(first)]
            self._rows = [np.flatnonzero(self.columns[by].astype(str) == value) for value in in_order]
        else:
            self._rows = [np.array([n]) for n in range(rows)]
        self.count = len(self._rows)

    def slice(self, number: int) -> Any:
        """Columns by name: a number each for a row, an array each for a group of rows."""
        rows = self._rows[number]
        return {name: values[rows] if self.grouped else values[rows[0]] for name, values in self.columns.items()}

    def stamp(self, number: int) -> str:
        """See `SeriesData.stamp`."""
        return ""


class MeshSlices:
    """A numbered set of VTK files, or a PVD collection with its times."""

    def __init__(self, file: Path) -> None:
        if file.suffix.lower() == ".pvd":
            self._files, self.times = collection(file)
        elif numbered_meshes(file):
            _, members = members_of(file)
            self._files, self.times = [[file.parent / member.name] for member in members], ()
        else:
            self._files, self.times = [[file]], ()
        self.count = len(self._files)
        first, last = self._files[0][0], self._files[-1][-1]
        self.about = [("slices", f"{self.count:,}"), ("first", first.name), ("last", last.name)]
        if (most := max(map(len, self._files))) > 1:
            self.about.insert(1, ("parts", f"up to {most:,} per slice"))

    def slice(self, number: int) -> Any:
        """See `SeriesData.slice`; several parts of one time come as a MultiBlock."""
        files = self._files[number]
        if len(files) == 1:
            return self._mesh(files[0])
        return pv.MultiBlock({f"{n} {file.stem}": self._mesh(file) for n, file in enumerate(files)})

    def _mesh(self, file: Path) -> Any:
        if not file.is_file():
            raise SourceError(f"{file.name} is missing: restore it, or remove it from the collection")
        # Each part is looked for in its folder, and nowhere else, before a library opens it.
        if missing := [one.name for one in with_pieces(file) if not one.is_file()]:
            raise SourceError(f"{file.name} names {missing[0]}, which is missing: restore it, or export the data again")
        try:
            return pv.read(file)
        except Exception as error:  # noqa: BLE001 (readers raise anything on damaged data)
            raise SourceError(f"{file.name} cannot be read ({error}): export it again") from None

    def stamp(self, number: int) -> str:
        """See `SeriesData.stamp`."""
        return "|".join(stamp_of_all(file) for file in self._files[number])


def open_data(file: Path, by: str, array: str) -> SeriesData:
    """Open the data of a series.

    Raises
    ------
    SourceError
        When it cannot be read, with the file, column or key.
    """
    suffix = file.suffix.lower()
    if suffix in ARRAYS:
        return ArraySlices(file, array)
    if suffix in TABLES:
        return TableSlices(file, by)
    return MeshSlices(file)


def _array(file: Path, name: str) -> NDArray[Any]:
    try:
        if file.suffix.lower() == ".npy":
            # Mapped, since one slice of many is looked at; never unpickled, since a pickle runs code when it is read.
            return np.asarray(np.load(file, mmap_mode="r", allow_pickle=False))
        with np.load(file, allow_pickle=False) as held:
            names = list(held)
            if not name and len(names) != 1:
                raise SourceError(
                    f"{file.name} holds {len(names)} arrays: choose one in source.array: {', '.join(names)}"
                )
            if name and name not in names:
                raise SourceError(f"source.array: {file.name} has no array {name!r}; {nearest_name(name, names)}")
            return np.asarray(held[name or names[0]])
    except (ValueError, OSError, EOFError) as error:
        raise SourceError(f"{file.name} cannot be read as an array ({error}): save it again with numpy.save") from None


def collection(file: Path) -> tuple[list[list[Path]], Sequence[Fraction]]:
    """The files of each time, and the times from the first on."""
    from defusedxml import ElementTree

    try:
        entries = ElementTree.fromstring(file.read_text()).iter("DataSet")
        found = [
            (Fraction(entry.get("timestep", "0")), contained_file(file.parent, entry.attrib["file"], file.name))
            for entry in entries
        ]
    except Mistake:
        raise
    except Exception as error:  # noqa: BLE001 (readers raise anything on damaged data)
        raise SourceError(f"{file.name} is not a readable PVD collection ({error}): export it again") from None
    if not found:
        raise SourceError(f"{file.name} lists no data sets: export it again")
    by_time: dict[Fraction, list[Path]] = {}
    for time, path in found:
        by_time.setdefault(time, []).append(path)
    times = sorted(by_time)
    return [by_time[time] for time in times], [time - times[0] for time in times]
