"""Lens, camera and light of a shot document."""

from typing import Annotated, Literal

from pydantic import Field, field_validator, model_validator

from vexel.core.camera.lens import Lens
from vexel.core.camera.panorama import Covers, Eyes, Panorama
from vexel.core.document.naming import MAIN_CAMERA
from vexel.core.document.part import Part, shown
from vexel.core.document.rig_spec import OrbitSpec, PathSpec, StillSpec
from vexel.core.document.stops_spec import StopsSpec
from vexel.core.document.view_spec import MOST_VIEWS, ViewSpec
from vexel.core.errors import Mistake

RigKind = Literal["still", "orbit", "path", "stops"]
AnyRig = Annotated[StillSpec | OrbitSpec | PathSpec | StopsSpec, Field(discriminator="kind")]
Colour = Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")]
Share = Annotated[float, Field(ge=0, le=1)]
Shift = Annotated[float, Field(ge=-1000, le=1000)]


class LensSpec(Part):
    """Focal length and sensor."""

    focal_mm: float = Field(default=50, ge=4, le=2000, title="Focal length", json_schema_extra=shown("mm"))
    projection: Literal["perspective", "parallel", "panorama"] = Field(
        default="perspective",
        description="parallel shows equal lengths equal at any distance; panorama covers all directions",
    )
    shift_mm: tuple[Shift, Shift] = Field(
        default=(0, 0), description="of the picture to the right and up on the sensor; verticals stay vertical"
    )
    covers: Covers = Field(default="sphere", description="of a panorama: 360° × 180°, or half")
    eyes: Eyes = Field(default="one", description="of a panorama: both eyes' pictures in one frame")
    eye_mm: float = Field(
        default=64,
        gt=0,
        le=10_000,
        title="Eye separation",
        description="between the two eyes",
        json_schema_extra=shown("mm", step=1),
    )
    f_stop: float | None = Field(
        default=None,
        ge=0.5,
        le=256,
        title="Aperture",
        description="f-number of the aperture; null is sharp everywhere",
        json_schema_extra=shown(step=0.1),
    )
    focus: float | None = Field(
        default=None,
        gt=0,
        description="focus distance in source units; null is the look-at point",
        json_schema_extra=shown(step=0.1),
    )
    unit_mm: float = Field(
        default=1000,
        gt=0,
        title="Source unit",
        description="millimetres in one unit of the source, for the blur",
        json_schema_extra=shown("mm"),
    )
    sensor: str = Field(default="36x24", pattern=r"^\d+(\.\d+)?x\d+(\.\d+)?$", description="width x height, mm")

    @field_validator("sensor")
    @classmethod
    def _has_area(cls, text: str) -> str:
        if 0 in map(float, text.split("x")):
            raise Mistake('a sensor has a width and a height above 0 mm, such as "36x24"')
        return text

    @model_validator(mode="after")
    def _can_blur(self) -> "LensSpec":
        if self.projection != "perspective" and self.f_stop is not None:
            raise Mistake(f"a {self.projection} has no aperture and is sharp everywhere: remove f_stop")
        if self.projection == "panorama" and any(self.shift_mm):
            raise Mistake("a panorama covers every direction, so it cannot be shifted: remove shift_mm")
        return self

    def lens(self) -> Lens:
        """The lens that this plan states."""
        wide, high = map(float, self.sensor.split("x"))
        return Lens(self.focal_mm, wide, high)

    @property
    def panorama(self) -> Panorama | None:
        """How its pictures cover the directions, where they are panoramas."""
        return Panorama(self.covers, self.eyes) if self.projection == "panorama" else None


class CameraSpec(Part):
    """Lens and rig, and the views that were saved."""

    name: str = Field(
        default=MAIN_CAMERA, pattern=r"^[A-Za-z0-9][A-Za-z0-9_-]{0,39}$", description="in the names of its frames"
    )
    lens: LensSpec = LensSpec()
    rig: AnyRig = OrbitSpec(kind="orbit")
    views: list[ViewSpec] = Field(default=[], max_length=MOST_VIEWS, description="saved, in the order of the stops")

    @model_validator(mode="after")
    def _has_stops(self) -> "CameraSpec":
        if self.rig.traits.times_shot and not self.views:
            raise Mistake("the rig moves between saved views, but none is saved: add one to views")
        return self


class LightSpec(Part):
    """The key light."""

    azimuth_deg: float = Field(
        default=-36,
        ge=-36000,
        le=36000,
        title="Azimuth",
        description="to the right of the camera, or of the front",
        json_schema_extra=shown("°", step=5),
    )
    elevation_deg: float = Field(default=34, ge=-90, le=90, title="Elevation", json_schema_extra=shown("°", step=5))
    stands: Literal["camera", "world"] = Field(
        default="camera", description="attached to the camera, or fixed in the world"
    )
    shadow: Share = Field(default=0, description="shadow strength; 0 turns shadows off")
    soft_deg: float = Field(
        default=3,
        ge=0,
        le=60,
        title="Softness",
        description="angular size of the key light, which softens shadows",
        json_schema_extra=shown("°"),
    )
    environment: Share = Field(default=0, description="strength of the environment light, from sky and earth")
    sky: Colour = Field(default="#dfe8f2", description="colour of the light from above")
    earth: Colour = Field(default="#6f675c", description="colour of the light from below")
    surround: Share = Field(default=0, description="ambient occlusion: how much corners and crevices darken")
    strength: float = Field(
        default=1, ge=0, le=10, description="multiple of its default strength", json_schema_extra=shown(step=0.1)
    )
