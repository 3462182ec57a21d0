"""Sensible default pictures of data, with scales that hold for the whole series."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import SourceError
from vexel.sources.code.drawing_result import array_pixels, drawing_result
from vexel.sources.data.slices import ArraySlices, TableSlices
from vexel.sources.data.table_file import dates_in
from vexel.sources.protocols import FrameRequest

INK, PAPER, LINES = "#1f2a33", "#f6f6f4", ("#0b6167", "#b2402f", "#9a6a00", "#4b5fa8", "#6b7280")


class ArrayLook:
    """A growing line for numbers, a curve for rows, a colour map for planes, pictures unchanged."""

    def __init__(self, data: ArraySlices, name: str) -> None:
        self._data, self._name = data, name
        shape = data.array.shape[1:]
        if len(shape) > 3 or (len(shape) == 3 and shape[2] not in (3, 4)):
            raise SourceError(
                f"{name}: a slice of shape {shape} cannot be drawn by default: name a drawing function in source.draw"
            )

    def show(self, value: NDArray[Any], place: float, asked: FrameRequest) -> Any:
        """The picture of a slice, or of one between two."""
        if value.ndim == 0:
            whole = np.asarray(self._data.array, np.float64)
            x, grown = np.arange(len(whole)), {self._name: whole}
            return _curve(*_grown(x, grown, place), (0, max(len(whole) - 1, 1)), self._ends, asked)
        if value.ndim == 1:
            x = np.arange(len(value))
            return _curve(x, {self._name: value}, (0, max(len(value) - 1, 1)), self._ends, asked)
        if value.ndim == 3 or value.dtype == np.uint8:
            return array_pixels(value)
        return self._coloured(value)

    @cached_property
    def _ends(self) -> tuple[float, float]:
        """Lowest and highest finite value of the whole series, so that colours do not breathe."""
        low, high = np.inf, -np.inf
        for number in range(self._data.count):
            values = np.asarray(self._data.array[number], np.float64)
            finite = values[np.isfinite(values)]
            if finite.size:
                low, high = min(low, float(finite.min())), max(high, float(finite.max()))
        if low > high:
            raise SourceError(f"{self._name} holds no finite number: there is nothing to draw")
        return low, high

    def _coloured(self, value: NDArray[Any]) -> NDArray[np.uint8]:
        from matplotlib import colormaps

        low, high = self._ends
        pixels = colormaps["viridis"]((value.astype(np.float64) - low) / ((high - low) or 1), bytes=True)
        pixels[~np.isfinite(value.astype(np.float64))] = 0
        return np.asarray(pixels, np.uint8)


class TableLook:
    """Lines of a table's numeric columns: growing row by row, or a group of rows at a time.

    Attributes
    ----------
    axis : Axis
    """

    def __init__(self, data: TableSlices, name: str) -> None:
        self._data = data
        self.axis = _axis(data.columns)
        self._lines = {
            key: np.asarray(values, np.float64)
            for key, values in data.columns.items()
            if key != self.axis.name and values.dtype.kind in "iuf"
        }
        if not self._lines:
            raise SourceError(
                f"{name} has no column of numbers to draw: it has {', '.join(data.columns)}; if those are numbers, "
                "look at their decimal signs"
            )
        values = np.concatenate([line[np.isfinite(line)] for line in self._lines.values()])
        if values.size == 0:
            raise SourceError(f"{name} has no finite number in {', '.join(self._lines)}")
        self._ends = float(values.min()), float(values.max())

    @property
    def drawn(self) -> str:
        """Names of the columns that are drawn."""
        return ", ".join(self._lines)

    def show(self, value: Any, place: float, asked: FrameRequest) -> Any:
        """The picture of a row with all before it, or of a group; or of a place between two."""
        if self._data.grouped:
            lines = {key: np.asarray(value[key], np.float64) for key in self._lines}
            count = len(next(iter(lines.values())))
            longest = max(len(rows) for rows in self._data._rows)
            return _curve(np.arange(count), lines, (0, max(longest - 1, 1)), self._ends, asked)
        order = slice(None, None, -1) if self.axis.reversed else slice(None)
        x, lines = self.axis.values[order], {key: line[order] for key, line in self._lines.items()}
        return _curve(*_grown(x, lines, place), (x[0], x[-1]), self._ends, asked, self.axis.name)


def _grown(
    x: NDArray[Any], lines: dict[str, NDArray[Any]], place: float
) -> tuple[NDArray[Any], dict[str, NDArray[Any]]]:
    """Lines up to a row, and on towards the next one by a part of the way."""
    row, part = int(place), place - int(place)
    if not part or row + 1 >= len(x):
        return x[: row + 1], {key: line[: row + 1] for key, line in lines.items()}

    def up_to(line: NDArray[Any]) -> NDArray[Any]:
        return np.append(line[: row + 1], line[row] + (line[row + 1] - line[row]) * part)

    return up_to(x), {key: up_to(line) for key, line in lines.items()}


@dataclass(frozen=True)
class Axis:
    """What a table's rows stand along.

    Attributes
    ----------
    values : ndarray
        Numbers or times, one a row; the rows' own numbers where no column serves.
    name : str
        Of the column, empty for the rows' own numbers.
    reversed : bool
        Whether times fall from row to row, so that the last row is the earliest.
    dates_guessed : bool
        Whether day and month could be either way round.
    """

    values: NDArray[Any]
    name: str = ""
    reversed: bool = False
    dates_guessed: bool = False


def _axis(columns: Mapping[str, NDArray[Any]]) -> Axis:
    """The first column if it only rises or only falls; else the first column of dates that does; else row numbers."""
    first, values = next(iter(columns.items()))
    if len(columns) > 1 and len(values) > 1:
        if values.dtype.kind in "iuf" and (_rises(values) or _rises(values[::-1])):
            return Axis(values, first)
        for name, held in columns.items():
            dates = dates_in(held)
            if dates is not None and (_rises(dates.times) or _rises(dates.times[::-1])):
                return Axis(dates.times, name, not _rises(dates.times), dates.guessed)
    return Axis(np.arange(len(values)))


def _rises(values: NDArray[Any]) -> bool:
    return bool((values[1:] > values[:-1]).all())


def _curve(
    x: NDArray[Any],
    lines: dict[str, NDArray[Any]],
    span: Any,
    ends: tuple[float, float],
    asked: FrameRequest,
    along: str = "",
) -> Any:
    from matplotlib.dates import AutoDateLocator, ConciseDateFormatter
    from matplotlib.figure import Figure

    figure = Figure(figsize=(asked.layout[0] / 120, asked.layout[1] / 120), facecolor=PAPER, layout="constrained")
    axes = figure.add_subplot(facecolor=PAPER)
    for (name, line), colour in zip(lines.items(), LINES * len(lines), strict=False):
        axes.plot(x, line, color=colour, linewidth=2, label=name)
        axes.plot(x[-1:], line[-1:], "o", color=colour)
    if x.dtype.kind == "M":
        where = AutoDateLocator(maxticks=7)
        axes.xaxis.set_major_locator(where)
        axes.xaxis.set_major_formatter(ConciseDateFormatter(where))
    room = 0.05 * ((ends[1] - ends[0]) or 1)
    axes.set_xlabel(along, color=INK)
    axes.set_xlim(*span)
    axes.set_ylim(ends[0] - room, ends[1] + room)
    axes.grid(alpha=0.3)
    axes.tick_params(colors=INK)
    axes.legend(loc="upper left", frameon=False)
    return drawing_result(figure, asked)
