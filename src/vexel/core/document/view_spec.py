"""Saved views of a shot document: where a camera stood, and what was to be seen from there."""

from math import dist
from typing import Annotated, Literal

from pydantic import AfterValidator, Field, model_validator

from vexel.core.document.part import Part, shown
from vexel.core.document.passes import ViewPass
from vexel.core.errors import Mistake
from vexel.core.lanes.targets import bounds_of, is_target, may_be_in_view

Point = tuple[float, float, float]
Way = Literal["around", "straight", "cut"]
Seconds = Annotated[float, Field(ge=0, le=86_400, json_schema_extra=shown("s", step=0.5))]
MOST_VIEWS = 1000


def _shown(values: dict[str, float]) -> dict[str, float]:
    for drive, value in values.items():
        if not is_target(drive) or not may_be_in_view(drive):
            raise Mistake(f'{drive!r} cannot be part of a view: write "dial:NAME", "opacity:PART" or "light:…"')
        low, high = bounds_of(drive) or (value, value)
        if not low <= value <= high:
            raise Mistake(f"{drive} is {value:g}, outside {low:g} to {high:g}")
    return values


class ViewSpec(Part):
    """A saved view."""

    name: str = Field(default="", max_length=80)
    position: Point = Field(description="of the camera, in the source's units")
    look: Point = Field(description="what it looks at")
    roll_deg: float = Field(default=0, ge=-360, le=360, description="clockwise, as the camera sees it")
    focal_mm: float | None = Field(default=None, ge=4, le=2000, description="null keeps that of the lens")
    shows: Annotated[dict[str, float], AfterValidator(_shown)] = Field(
        default={}, description="dials, opacities of parts and light that are seen from here, by their drives"
    )
    drawn: ViewPass | None = Field(default=None, description="as which pass it is drawn; null is the shot's first one")
    dwell_seconds: Seconds | None = Field(default=None, description="rest here; null is as for all stops")
    travel_seconds: Seconds | None = Field(default=None, description="from here to the next; null is as for all")
    way: Way | None = Field(default=None, description="how it goes from here to the next; null is as for all")

    @model_validator(mode="after")
    def _looks_somewhere(self) -> "ViewSpec":
        if dist(self.position, self.look) <= 1e-9 * max(1.0, *map(abs, self.position)):
            raise Mistake("the view looks at the camera's own position: move either")
        return self
