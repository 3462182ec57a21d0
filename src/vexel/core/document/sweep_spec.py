"""The sweep of a shot document: the values that its variants differ in."""

from typing import Annotated, Literal

from pydantic import Field, field_validator, model_validator

from vexel.core.document.clock_spec import ClockSpec
from vexel.core.document.part import Part
from vexel.core.errors import Mistake

MOST_VARIANTS = 10_000
"""Variants of one sweep, those that are left out included."""
Value = float | str
Name = Annotated[str, Field(min_length=1, max_length=120)]
Method = Literal["latin", "sobol", "uniform"]
Join = Literal["crossed", "paired"]
Makes = Literal["shots", "stills", "film"]
OVER = 'write "dial:NAME", "light:…", "lens:…", "rig:…", "background", "source" or "view"'


NAME_COLUMN, VARIANT = "name", "variant"
"""The column of a table that names its rows, and the field of names that is a variant."""


def said_value(value: Value) -> str:
    """A value as names show it."""
    if isinstance(value, str):
        return value
    return f"{value:g}" if abs(value) < 1e6 else f"{value:.10g}"


class AxisSpec(Part):
    """What varies, and its values: a list, steps between two ends, or ends between which they are sampled."""

    over: str = Field(min_length=1, max_length=200, description="what varies, such as dial:whorls or light:azimuth")
    values: list[Value] = Field(default=[], max_length=MOST_VARIANTS, description="one after another")
    first: float | None = Field(default=None, description="of even steps, or the one end of samples")
    last: float | None = Field(default=None, description="of even steps, or the other end of samples")
    steps: int | None = Field(
        default=None, ge=1, le=MOST_VARIANTS, description="values from first to last, both included; null samples"
    )

    @model_validator(mode="after")
    def _has_values(self) -> "AxisSpec":
        ends = (self.first, self.last)
        if self.values and (ends != (None, None) or self.steps is not None):
            raise Mistake(f"axis {self.over} has values and ends as well: keep either")
        if not self.values and None in ends:
            raise Mistake(f"axis {self.over} has no values: list some, or give first and last")
        return self

    @property
    def is_sampled(self) -> bool:
        """Whether its values are drawn at random."""
        return not self.values and self.steps is None

    @property
    def label(self) -> str:
        """Its name in patterns and captions: the dial's, or what follows the colon."""
        return self.over.partition(":")[2] or self.over


class SampleSpec(Part):
    """How sampled axes get their values, together."""

    count: int = Field(default=12, ge=1, le=MOST_VARIANTS)
    method: Method = Field(
        default="latin",
        description="latin hypercube, Sobol sequence, or independent uniform numbers",
    )
    seed: int = Field(default=1, ge=0, le=2**32 - 1, description="the same seed gives the same samples")


class TableSpec(Part):
    """Variants as rows, in place of axes: a column for what varies, and one called name if wanted."""

    columns: list[Name] = Field(min_length=1, max_length=100)
    rows: list[list[Value]] = Field(min_length=1, max_length=MOST_VARIANTS)

    @field_validator("columns")
    @classmethod
    def _differ(cls, columns: list[str]) -> list[str]:
        for column in columns:
            if columns.count(column) > 1:
                raise Mistake(f"two columns of the table are called {column}: rename one of them")
        return columns

    @model_validator(mode="after")
    def _is_whole(self) -> "TableSpec":
        for number, row in enumerate(self.rows, start=1):
            if len(row) != len(self.columns):
                raise Mistake(f"row {number:,} of the table has {len(row)} values for {len(self.columns)} columns")
        return self


class SweepSpec(Part):
    """Variants of a shot."""

    axes: list[AxisSpec] = Field(default=[], max_length=20)
    join: Join = Field(default="crossed", description="every value with every other, or one with one")
    sample: SampleSpec = SampleSpec()
    table: TableSpec | None = Field(default=None, description="in place of axes")
    name: str = Field(
        default="", max_length=200, description="of a variant, such as {whorls}-{azimuth}; empty names all that varies"
    )
    without: list[Name] = Field(default=[], max_length=MOST_VARIANTS, description="names of variants left out")
    favourites: list[Name] = Field(default=[], max_length=MOST_VARIANTS, description="names of variants marked")
    makes: Makes = Field(
        default="shots",
        description="each variant as a shot; or one take: a frame of each, or a film whose frames are the variants",
    )
    frame: int = Field(default=0, ge=0, description="that stills and the contact sheet show")
    clock: ClockSpec | None = Field(
        default=None, description="the shot's own, in the document of a take whose frames are the variants"
    )

    @property
    def fields(self) -> list[str]:
        """Fields that names of frames may hold: what varies, and the variant."""
        overs = self.table.columns if self.table is not None else [axis.over for axis in self.axes]
        return [*(over.partition(":")[2] or over for over in overs), VARIANT]

    def row_fields(self, number: int) -> dict[str, str]:
        """The values of those fields for a frame of a take whose frames are the rows of its table."""
        assert self.table is not None
        row = dict(zip(self.table.columns, self.table.rows[number], strict=True))
        said = {over.partition(":")[2] or over: said_value(value) for over, value in row.items()}
        return said | {VARIANT: said.get(NAME_COLUMN, "")}

    @model_validator(mode="after")
    def _varies(self) -> "SweepSpec":
        if self.table is not None and self.axes:
            raise Mistake("the sweep has axes and a table: remove either")
        if self.table is None and not self.axes:
            raise Mistake("the sweep has no axis: add one, or a table")
        overs = [axis.over for axis in self.axes]
        for over in overs:
            if overs.count(over) > 1:
                raise Mistake(f"two axes of the sweep vary {over}: keep one of them")
        return self
