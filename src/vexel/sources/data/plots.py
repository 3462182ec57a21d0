"""Sensible default pictures of data, with scales that hold for the whole series."""

from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.sources.code.drawing_result import array_pixels, drawing_result
from vexel.sources.data.slices import ArraySlices, TableSlices
from vexel.sources.protocols import FrameRequest, SourceError

INK, PAPER, LINES = "#1f2a33", "#f6f6f4", ("#0b6167", "#b2402f", "#9a6a00", "#4b5fa8", "#6b7280")


class ArrayLook:
    """A growing line for numbers, a curve for rows, a colour map for planes, pictures as they are."""

    def __init__(self, data: ArraySlices, name: str) -> None:
        self._data, self._name = data, name
        shape = data.array.shape[1:]
        if len(shape) > 3 or (len(shape) == 3 and shape[2] not in (3, 4)):
            raise SourceError(
                f"{name}: a slice of shape {shape} cannot be drawn by default: name a drawing function in source.draw"
            )

    def show(self, value: NDArray[Any], number: int, asked: FrameRequest) -> Any:
        """The picture of a slice."""
        if value.ndim == 0:
            whole = np.asarray(self._data.array, np.float64)
            grown = {self._name: whole[: number + 1]}
            return _curve(np.arange(number + 1), grown, (0, max(len(whole) - 1, 1)), self._ends, asked)
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
    """Lines of a table's numeric columns: growing row by row, or a group of rows at a time."""

    def __init__(self, data: TableSlices, name: str) -> None:
        self._data = data
        columns = list(data.columns.items())
        self._x, self._x_name = _axis(columns)
        self._lines = {
            key: np.asarray(values, np.float64)
            for key, values in columns
            if key != self._x_name and values.dtype.kind in "iuf"
        }
        if not self._lines:
            raise SourceError(f"{name} has no column of numbers to draw: it has {', '.join(data.columns)}")
        values = np.concatenate([line[np.isfinite(line)] for line in self._lines.values()])
        if values.size == 0:
            raise SourceError(f"{name} has no finite number in {', '.join(self._lines)}")
        self._ends = float(values.min()), float(values.max())

    def show(self, value: Any, number: int, asked: FrameRequest) -> Any:
        """The picture of a row with all before it, or of a group."""
        if self._data.grouped:
            lines = {key: np.asarray(value[key], np.float64) for key in self._lines}
            count = len(next(iter(lines.values())))
            longest = max(len(rows) for rows in self._data._rows)
            return _curve(np.arange(count), lines, (0, max(longest - 1, 1)), self._ends, asked)
        until = number + 1
        span = (self._x[0], self._x[-1])
        grown = {key: line[:until] for key, line in self._lines.items()}
        return _curve(self._x[:until], grown, span, self._ends, asked, self._x_name)


def _axis(columns: list[tuple[str, NDArray[Any]]]) -> tuple[NDArray[Any], str]:
    """The first column if it rises, as numbers or dates; else the rows' own numbers."""
    import pandas

    name, values = columns[0]
    if values.dtype.kind in "iuf":
        x: NDArray[Any] = values
    else:
        x = pandas.to_datetime(pandas.Series(values), errors="coerce", format="ISO8601").to_numpy()
    if len(columns) > 1 and len(x) > 1 and not pandas.isna(x).any() and (x[1:] > x[:-1]).all():
        return x, name
    return np.arange(len(values)), ""


def _curve(
    x: Any, lines: dict[str, NDArray[Any]], span: Any, ends: tuple[float, float], asked: FrameRequest, along: str = ""
) -> Any:
    from matplotlib.figure import Figure

    figure = Figure(figsize=(asked.layout[0] / 120, asked.layout[1] / 120), facecolor=PAPER, layout="constrained")
    axes = figure.add_subplot(facecolor=PAPER)
    for (name, line), colour in zip(lines.items(), LINES * len(lines), strict=False):
        axes.plot(x, line, color=colour, linewidth=2, label=name)
        axes.plot(x[-1:], line[-1:], "o", color=colour)
    room = 0.05 * ((ends[1] - ends[0]) or 1)
    axes.set_xlabel(along, color=INK)
    axes.set_xlim(*span)
    axes.set_ylim(ends[0] - room, ends[1] + room)
    axes.grid(alpha=0.3)
    axes.tick_params(colors=INK)
    axes.legend(loc="upper left", frameon=False)
    return drawing_result(figure, asked)
