"""Tables as files: separator, decimal sign and dates as the file itself shows them, and what was decided."""

import csv
import io
import warnings
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from vexel.sources.protocols import SourceError

Columns = dict[str, NDArray[Any]]
SEPARATORS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}
LOOKED_AT = 200
"""So many lines decide what separates the columns."""
_TIMES = ("", " %H:%M", " %H:%M:%S", " %H:%M:%S.%f")
_DAY_FIRST = ("%d.%m.%Y", "%d/%m/%Y", "%d-%m-%Y", "%d.%m.%y", "%d/%m/%y")
_MONTH_FIRST = ("%m/%d/%Y", "%m-%d-%Y", "%m/%d/%y")
_NAMED = ("%d %b %Y", "%d %B %Y", "%d-%b-%Y", "%d-%b-%y", "%b %d, %Y", "%B %d, %Y", "%b %d %Y", "%b %Y", "%B %Y")
_YEAR_FIRST = ("%Y/%m/%d", "%Y.%m.%d", "%Y%m%d", "%Y-%m", "%Y/%m")


@dataclass(frozen=True)
class Table:
    """Columns by name, and how they were read.

    Attributes
    ----------
    columns : dict of str to ndarray
        Numbers, or texts as they are written.
    separator, decimal : str
        Empty for a file that has neither.
    encoding : str
    """

    columns: Columns
    separator: str = ""
    decimal: str = ""
    encoding: str = ""

    @property
    def about(self) -> list[tuple[str, str]]:
        """How it was read, for people; nothing where that is the usual way."""
        told = []
        if self.separator not in ("", ","):
            told.append(("separator", SEPARATORS[self.separator]))
        if self.decimal == ",":
            told.append(("decimal sign", "comma"))
        if self.encoding not in ("", "utf-8-sig"):
            told.append(("encoding", self.encoding))
        return told


def read_table(file: Path) -> Table:
    """Read a CSV or Parquet file.

    Raises
    ------
    SourceError
        When it is no table, with the line where it ceases to be one.
    """
    try:
        if file.suffix.lower() != ".csv":
            import pandas

            held = pandas.read_parquet(file)
            return Table({str(name): held[name].to_numpy() for name in held.columns})
        text, encoding = _text_of(file)
        separator = _separator(text)
        texts = _texts(text, separator)
    except Exception as error:
        words = str(error).splitlines()[0] if str(error) else type(error).__name__
        raise SourceError(f"{file.name} cannot be read as a table: {words}") from None
    decimal = _decimal(texts, separator)
    return Table({name: _typed(column, decimal) for name, column in texts.items()}, separator, decimal, encoding)


def _text_of(file: Path) -> tuple[str, str]:
    data = file.read_bytes()
    for encoding in ("utf-8-sig", "utf-16") if data[:2] in (b"\xff\xfe", b"\xfe\xff") else ("utf-8-sig",):
        try:
            return data.decode(encoding), encoding
        except UnicodeDecodeError:
            continue
    return data.decode("cp1252", "replace"), "Windows-1252"


def _separator(text: str) -> str:
    """What gives the most columns, as many in each line; a comma where nothing does."""
    lines = [line for line in text.splitlines()[:LOOKED_AT] if line.strip() and not line.startswith("#")]
    found: dict[str, int] = {}
    for separator in SEPARATORS:
        counts = {len(row) for row in csv.reader(lines, delimiter=separator)}
        if len(counts) == 1:
            found[separator] = counts.pop()
    # Of equals not the comma, which may be the decimal sign.
    best = max(found, key=lambda one: (found[one], one != ","), default=",")
    return best if found.get(best, 1) > 1 else ","


def _texts(text: str, separator: str) -> dict[str, Any]:
    """Columns as they are written; lines before the header that begin with # are left out."""
    import pandas

    lines = text.splitlines(keepends=True)
    skipped = next((n for n, line in enumerate(lines) if line.strip() and not line.startswith("#")), 0)
    with warnings.catch_warnings():
        # Lines of another length are otherwise cut or dropped with a warning that nobody sees.
        warnings.simplefilter("error", pandas.errors.ParserWarning)
        held = pandas.read_csv(
            io.StringIO("".join(lines[skipped:])), sep=separator, dtype=str, skipinitialspace=True, index_col=False
        )
    return {str(name).strip(): held[name] for name in held.columns}


def _decimal(texts: dict[str, Any], separator: str) -> Literal[".", ","]:
    """The sign that makes more columns into numbers; a point where both do."""
    if separator == ",":
        # Commas within a value are then quoted.
        quoted = [column for column in texts.values() if column.str.contains(",", na=False).any()]
        if not quoted:
            return "."
    points, commas = (sum(_numbers(column, sign) is not None for column in texts.values()) for sign in (".", ","))
    return "," if commas > points else "."


def _numbers(column: Any, decimal: str) -> NDArray[Any] | None:
    """A column as numbers; None where a value is none."""
    import pandas

    if decimal == ",":
        # 1.234.567,89: points part thousands there.
        ok = column.dropna().str.fullmatch(r"\s*[+-]?(\d{1,3}(\.\d{3})+|\d+)?(,\d*)?([eE][+-]?\d+)?\s*").all()
        if not ok:
            return None
        column = column.str.replace(".", "", regex=False).str.replace(",", ".", regex=False)
    try:
        return np.asarray(pandas.to_numeric(column).to_numpy())
    except (ValueError, TypeError):
        return None


def _typed(column: Any, decimal: str) -> NDArray[Any]:
    numbers = _numbers(column, decimal)
    return numbers if numbers is not None else np.asarray(column.to_numpy(), object)


@dataclass(frozen=True)
class Dates:
    """A column of dates: when each row is, and whether the order of day and month was a guess."""

    times: NDArray[np.datetime64]
    guessed: bool = False


def dates_in(values: NDArray[Any]) -> Dates | None:
    """A column as dates, by year, by day, by month or by the month's name; None where one of them is none."""
    import pandas

    if values.dtype.kind == "M":
        return Dates(values)
    if values.dtype.kind != "O" or len(values) == 0:
        return None
    texts = pandas.Series(values)
    if texts.isna().any() or not texts.map(lambda one: isinstance(one, str)).all():
        return None
    texts = texts.str.strip()
    iso = pandas.to_datetime(texts, errors="coerce", format="ISO8601", utc=True)
    if not iso.isna().any():
        return Dates(iso.dt.tz_localize(None).to_numpy())
    for forms in ((*_NAMED, *_YEAR_FIRST), _DAY_FIRST, _MONTH_FIRST):
        read = next(_readings(texts, forms), None)
        if read is not None:
            # With points the day comes first everywhere; with strokes it is a matter of the country.
            other = None if forms is not _DAY_FIRST or "." in texts[0] else next(_readings(texts, _MONTH_FIRST), None)
            return Dates(read, guessed=other is not None)
    return None


def _readings(texts: Any, forms: tuple[str, ...]) -> Iterator[NDArray[np.datetime64]]:
    import pandas

    for form in forms:
        for time in _TIMES:
            read = pandas.to_datetime(texts, errors="coerce", format=form + time)
            if not read.isna().any():
                yield read.to_numpy()
