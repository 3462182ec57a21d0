"""Lens, camera and light of a shot document."""

from typing import Literal

from pydantic import Field, field_validator, model_validator

from vexel.core.errors import Mistake
from vexel.core.lens import Lens
from vexel.core.rig_plan import AnyRig, OrbitPlan
from vexel.core.source_plan import Part


class LensPlan(Part):
    """Focal length and sensor."""

    focal_mm: float = Field(default=50, ge=4, le=2000)
    projection: Literal["perspective", "parallel"] = Field(
        default="perspective", description="parallel shows equal lengths equally long, however far away they are"
    )
    f_stop: float | None = Field(
        default=None, ge=0.5, le=256, description="focal length ÷ opening; null is sharp everywhere"
    )
    focus: float | None = Field(
        default=None, gt=0, description="distance that is sharp, in the source's units; null is what it looks at"
    )
    unit_mm: float = Field(default=1000, gt=0, description="millimetres in one unit of the source, for the blur")
    sensor: str = Field(default="36x24", pattern=r"^\d+(\.\d+)?x\d+(\.\d+)?$", description="width x height, mm")

    @field_validator("sensor")
    @classmethod
    def _has_area(cls, text: str) -> str:
        if 0 in map(float, text.split("x")):
            raise Mistake('a sensor has a width and a height above 0 mm, such as "36x24"')
        return text

    @model_validator(mode="after")
    def _can_blur(self) -> "LensPlan":
        if self.projection == "parallel" and self.f_stop is not None:
            raise Mistake("a parallel projection has no opening and is sharp everywhere: leave f_stop out")
        return self

    def lens(self) -> Lens:
        """The lens that this plan states."""
        wide, high = map(float, self.sensor.split("x"))
        return Lens(self.focal_mm, wide, high)


class CameraPlan(Part):
    """Lens and rig."""

    lens: LensPlan = LensPlan()
    rig: AnyRig = OrbitPlan(kind="orbit")


class LightPlan(Part):
    """The key light, which goes with the camera."""

    azimuth_deg: float = Field(default=-36, ge=-36000, le=36000, description="from the camera, to the right")
    elevation_deg: float = Field(default=34, ge=-90, le=90)
    strength: float = Field(default=1, ge=0, le=10, description="times its usual strength")
