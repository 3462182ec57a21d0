"""Tables of variants, read from comma-separated values."""

import csv
import io
from math import isfinite

from pydantic import ValidationError

from vexel.core.document.sweep_spec import MOST_VARIANTS, TableSpec, Value
from vexel.core.errors import Mistake
from vexel.core.validation_message import validation_message

_SEPARATORS = ",;\t"


def read_table(text: str, name: str = "the table") -> TableSpec:
    """Read a table: a line of names, then a line for each variant.

    The separator is the most frequent of comma, semicolon and tab in the first
    line. Cells that are numbers become numbers, also with a decimal comma where
    that does not separate; empty lines are skipped.

    Parameters
    ----------
    text : str
    name : str
        What to call the table in an error.

    Raises
    ------
    Mistake
        When it has no rows, too many, or a row has other cells than the first line has names.
    """
    text = text.removeprefix("\ufeff")
    first = next((line for line in text.splitlines() if line.strip()), "")
    separator = max(_SEPARATORS, key=first.count)
    try:
        lines = [
            (reader.line_num, [cell.strip() for cell in row])
            for reader in [csv.reader(io.StringIO(text, newline=""), delimiter=separator, strict=True)]
            for row in reader
            if any(cell.strip() for cell in row)
        ]
    except csv.Error as error:
        raise Mistake(f"{name} is not a table of comma-separated values ({error}): export it again") from None
    if len(lines) < 2:
        raise Mistake(f"{name} has no rows: write a line of names, and a line for each variant")
    if len(lines) - 1 > MOST_VARIANTS:
        raise Mistake(f"{name} has {len(lines) - 1:,} rows, and {MOST_VARIANTS:,} are the most: split it")
    (_, columns), *rows = lines
    for number, row in rows:
        if len(row) != len(columns):
            raise Mistake(f"{name}, line {number}: {len(row)} values for {len(columns)} columns")
        if "" in row:
            raise Mistake(f"{name}, line {number}: {columns[row.index('')]} has no value")
    comma = "." if separator == "," else ","
    plain = [[_value(column, cell, comma) for column, cell in zip(columns, row, strict=True)] for _, row in rows]
    try:
        return TableSpec(columns=columns, rows=plain)
    except ValidationError as error:
        raise Mistake(f"{name}: {validation_message(error, TableSpec)}") from None


def _value(column: str, cell: str, comma: str) -> Value:
    if column == "name":
        return cell
    try:
        number = float(cell.replace(comma, "."))
        return number if isfinite(number) else cell
    except ValueError:
        return cell
