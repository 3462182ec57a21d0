"""Schemas of sweeps: their variants, captures, tables and reels."""

from typing import Literal

from pydantic import BaseModel, Field

from vexel.core.document.sweep_spec import TableSpec, Value


class VariantBody(BaseModel):
    """A variant of a shot."""

    number: int
    name: str
    values: dict[str, Value] = Field(description="by what varies")
    place: list[int] = Field(description="its position on each axis, or its row")
    left_out: bool
    favourite: bool
    run: int | None = Field(description="its newest run")
    state: str = Field(description="of that run; empty without one")
    done: int = Field(description="frames of that run that are there")
    count: int


class AxisBody(BaseModel):
    """An axis of the contact sheet."""

    label: str
    values: list[str]


class SweepBody(BaseModel):
    """The variants of a shot."""

    revision: int
    variants: list[VariantBody]
    axes: list[AxisBody] = Field(description="in the order of the variants' places; none of a table")
    kept: int = Field(description="variants that are not left out")
    pictures: int = Field(description="that these make")
    sentence: str = Field(description="how many pictures that makes")
    trouble: str = Field(description="why there are no variants; empty where there are")


class SweepOrder(BaseModel):
    """Which variants of a sweep are captured, and how."""

    draft: bool = Field(default=False, description="small and quick")
    to_file: bool = Field(default=False, description="and then the file of the shot's recipe, of each run")
    favourites: bool = Field(default=False, description="only variants that are marked")
    frame_seconds: float | None = Field(default=None, gt=0, le=86_400, description="limit of one frame; null as usual")
    tries: int = Field(default=1, ge=1, le=20, description="of a frame that fails")


class SweepRuns(BaseModel):
    """Runs that were ordered."""

    runs: list[int]


class TableText(BaseModel):
    """A table as text: comma-separated values with a line of names."""

    text: str = Field(max_length=2_000_000)


class TableBody(BaseModel):
    """A table that was read."""

    table: TableSpec


class SettingBody(BaseModel):
    """Something that an axis may vary."""

    over: str
    label: str
    unit: str
    low: float | None
    high: float | None
    value: Value | None = Field(description="the shot's own")
    choices: list[str] | None = Field(description="values that a text may have, where these are few")


class SettingBodies(BaseModel):
    """All that an axis of a shot may vary."""

    settings: list[SettingBody]


class SweepReel(BaseModel):
    """A reel of a sweep's takes."""

    arrangement: Literal["one after another", "grid"]
    favourites: bool = False


class MadeReel(BaseModel):
    """The reel that was made."""

    id: str


class MadeShot(BaseModel):
    """The shot of a variant."""

    id: str
