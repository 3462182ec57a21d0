"""Tables as files: separator, decimal sign and dates as the file itself shows them, and what was decided."""

import csv
import io
import warnings
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.errors import SourceError
from vexel.core.evaluate.source_facts import SourceFinding
from vexel.sources.data.table_values import MISSING, Decimal, number_in, numbers_in, without_fraction

Columns = dict[str, NDArray[Any]]
SEPARATORS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}
LOOKED_AT = 200
"""Number of lines that decide what separates the columns."""
FEW = 0.1
"""In a column with at most this share of values that are not numbers, the first such value is named."""
_CLOCK = ("%H:%M", "%H:%M:%S", "%H:%M:%S.%f", "%I:%M %p", "%I:%M:%S %p")
_TIMES = ("", *(f" {clock}" for clock in _CLOCK))
_DAY_FIRST = ("%d.%m.%Y", "%d/%m/%Y", "%d-%m-%Y", "%d.%m.%y", "%d/%m/%y")
_MONTH_FIRST = ("%m/%d/%Y", "%m-%d-%Y", "%m/%d/%y")
_NAMED = ("%d %b %Y", "%d %B %Y", "%d-%b-%Y", "%d-%b-%y", "%b %d, %Y", "%B %d, %Y", "%b %d %Y", "%b %Y", "%B %Y")
_YEAR_FIRST = ("%Y-%m-%d", "%Y/%m/%d", "%Y.%m.%d", "%Y%m%d", "%Y-%m", "%Y/%m")


@dataclass(frozen=True)
class Table:
    """Columns by name, and how they were read.

    Attributes
    ----------
    columns : dict of str to ndarray
        Numbers, or the texts of the file.
    separator, decimal : str
        Empty for a file that has neither.
    encoding : str
    units : dict of str to str
        Of columns, where a row below the header says them.
    findings : tuple of SourceFinding
        What is odd about it.
    """

    columns: Columns
    separator: str = ""
    decimal: str = ""
    encoding: str = ""
    units: Mapping[str, str] = field(default_factory=dict)
    findings: tuple[SourceFinding, ...] = ()

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
        if self.units:
            told.append(("units", ", ".join(f"{name}: {unit}" for name, unit in self.units.items())))
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
        texts, first_line = _texts(text, separator)
    except Exception as error:  # noqa: BLE001 (readers raise anything on damaged data)
        words = str(error).splitlines()[0] if str(error) else type(error).__name__
        raise SourceError(f"{file.name} cannot be read as a table: {words}") from None
    findings = [] if first_line else [SourceFinding("no-header", {"columns": len(texts)})]
    decimal = _decimal(texts, separator)
    units = _units(texts, decimal)
    if units:
        texts = {name: column[1:] for name, column in texts.items()}
        first_line += 1
    columns: Columns = {}
    for name, column in texts.items():
        numbers, wrong = numbers_in(column, decimal)
        columns[name] = np.asarray(column, object) if wrong else without_fraction(numbers)
        if wrong and len(wrong) <= len(column) * FEW:
            facts: dict[str, int | float | str] = {
                "column": name,
                "line": wrong[0] + first_line + 1,
                "text": str(column[wrong[0]])[:40],
            }
            findings.append(SourceFinding("value-unread", facts))
    return Table(columns, separator, decimal, encoding, units, tuple(findings))


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


def _texts(text: str, separator: str) -> tuple[dict[str, list[Any]], int]:
    """Columns of text, and the line of the header, 0 for none; lines before it that begin with # go.

    A value that is not there is NaN.
    """
    import pandas

    lines = text.splitlines(keepends=True)
    skipped = next((n for n, line in enumerate(lines) if line.strip() and not line.startswith("#")), 0)
    head = next(csv.reader(lines[skipped : skipped + 1], delimiter=separator, skipinitialspace=True), [])
    # Names of columns are no numbers; years over all of them are, and are data then.
    bare = bool(head) and all(_is_number(cell) for cell in head)
    with warnings.catch_warnings():
        # Lines of another length are otherwise cut or dropped with a warning that nobody sees.
        warnings.simplefilter("error", pandas.errors.ParserWarning)
        held = pandas.read_csv(
            io.StringIO("".join(lines[skipped:])), sep=separator, dtype=str, skipinitialspace=True, index_col=False,
            keep_default_na=False, header=None if bare else 0,
        )  # fmt: skip
    names = [f"column {n}" for n in range(1, len(held.columns) + 1)] if bare else held.columns
    columns = {
        str(name).strip(): [one if isinstance(one, str) and one.strip() else np.nan for one in held.iloc[:, n]]
        for n, name in enumerate(names)
    }
    return columns, 0 if bare else skipped + 1


def _is_number(cell: str) -> bool:
    found = number_in(cell)
    return found is not None and not np.isnan(found)


def _decimal(texts: Mapping[str, list[Any]], separator: str) -> Decimal:
    """The sign that makes more columns into numbers; a point where both do, but for values such as 1,5."""

    def read(decimal: Decimal) -> int:
        return sum(set(numbers_in(column, decimal)[1]) <= {0} for column in texts.values())

    cells = [cell for column in texts.values() for cell in column if isinstance(cell, str)]
    if not any("," in cell for cell in cells) or read(",") < read("."):
        return "."
    # Beside commas that part columns, one within a value is quoted, and parts thousands as often as fractions.
    thousands = separator == "," or any("." in cell for cell in cells)
    return "." if read(".") == read(",") and thousands else ","


def _units(texts: Mapping[str, list[Any]], decimal: Decimal) -> dict[str, str]:
    """Units that a row below the header says: it alone keeps columns from being numbers, and holds none itself."""
    wrong = {name: numbers_in(column, decimal)[1] for name, column in texts.items() if len(column) > 1}
    firsts = {name: column[0] for name, column in texts.items() if len(column) > 1}
    if not any(places == [0] for places in wrong.values()):
        return {}
    if any(isinstance(first, str) and 0 not in wrong[name] and first.strip().lower() not in MISSING
           for name, first in firsts.items()):  # fmt: skip
        return {}
    return {name: str(firsts[name]).strip() for name, places in wrong.items() if places == [0]}


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
    for clock in _CLOCK:
        # Times of one day, whichever it is.
        read = pandas.to_datetime(texts, errors="coerce", format=clock)
        if not read.isna().any():
            return Dates(read.to_numpy())
    for forms in ((*_NAMED, *_YEAR_FIRST), _DAY_FIRST, _MONTH_FIRST):
        found = next(_readings(texts, forms), None)
        if found is not None:
            # With points the day comes first everywhere; with strokes it is a matter of the country.
            other = None if forms is not _DAY_FIRST or "." in texts[0] else next(_readings(texts, _MONTH_FIRST), None)
            return Dates(found, guessed=other is not None)
    return None


def _readings(texts: Any, forms: tuple[str, ...]) -> Iterator[NDArray[np.datetime64]]:
    import pandas

    for form in forms:
        for time in _TIMES:
            read = pandas.to_datetime(texts, errors="coerce", format=form + time)
            if not read.isna().any():
                yield read.to_numpy()
