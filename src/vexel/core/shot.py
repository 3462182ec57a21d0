"""The shot document: the whole plan of one piece of video, read from JSON."""

import json
from typing import Any, Literal

from pydantic import Field, ValidationError, field_validator, model_validator

from vexel.core.camera_plan import CameraPlan, LightPlan
from vexel.core.clock_plan import ClockPlan
from vexel.core.errors import Mistake
from vexel.core.lane_plan import Ease, LanePlan
from vexel.core.picture import even_sides
from vexel.core.picture_plan import LabelPlan, NamesPlan, PicturePlan
from vexel.core.recipes import recipe_named
from vexel.core.refusal import sentence_of
from vexel.core.rig_plan import OrbitPlan, PathPlan
from vexel.core.source_plan import AnySource, Part, WithDials

ROUGH_LONG_SIDE = 480
LOOKED_AT = ("model", "object")
"""Kinds of source that always stand before the camera; some others may."""
HELD = ("page", "stills", "clip")
"""Kinds whose frames are whole: they exist already, or are painted one by one."""


class Shot(Part):
    """One piece of video, planned. Paths in it are relative to its file."""

    vexel: Literal[1] = 1
    title: str = Field(min_length=1, max_length=200)
    source: AnySource
    clock: ClockPlan
    camera: CameraPlan = CameraPlan()
    light: LightPlan = LightPlan()
    ease: Ease = Field(default="linear", description="of the shot as a whole, which all lanes and the rig follow")
    lanes: list[LanePlan] = Field(default=[])
    picture: PicturePlan = PicturePlan()
    labels: list[LabelPlan] = Field(default=[], description="text on the frames")
    names: NamesPlan = NamesPlan()
    recipe: str = Field(default="h264", description="what the take is to become, by the name of a recipe")

    @field_validator("recipe")
    @classmethod
    def _is_recipe(cls, name: str) -> str:
        return recipe_named(name).name

    @model_validator(mode="after")
    def _fits(self) -> "Shot":
        drives = [lane.drive for lane in self.lanes]
        for drive in drives:
            if drives.count(drive) > 1:
                raise Mistake(f"two lanes drive {drive}: keep one of them")
            if drive.startswith("rig:") and isinstance(self.camera.rig, PathPlan):
                raise Mistake(f"lane {drive} moves a camera that flies along a path: move the path's keys instead")
            if drive.startswith("dial:") and not isinstance(self.source, WithDials):
                raise Mistake(f"lane {drive} drives a dial, but {self.source.kind} has none: leave it out")
        labels = [label.name for label in self.labels if label.name]
        for drive in drives:
            if drive.startswith("label:") and drive.removeprefix("label:") not in labels:
                raise Mistake(f"lane {drive} drives a label, but none has that name: give one the name")
        if len(set(labels)) < len(labels):
            raise Mistake(f"two labels are named {max(labels, key=labels.count)}: rename one of them")
        if self.clock.clock().shutter.is_open and self.source.kind in HELD:
            raise Mistake(
                f"clock.shutter: {self.source.kind} has whole frames only, which no shutter blurs: set it to 0"
            )
        return self

    @property
    def orbit(self) -> OrbitPlan | None:
        """The turntable, where there is one and the kind of source alone says that a camera looks."""
        rig = self.camera.rig
        return rig if isinstance(rig, OrbitPlan) and self.source.kind in LOOKED_AT else None

    def rough(self) -> "Shot":
        """The same shot, small and quick: at most 480 pixels long, one sample."""
        size = self.picture
        scale = min(1.0, ROUGH_LONG_SIDE / max(size.width, size.height))
        width, height = even_sides(max(round(size.width * scale), 16), max(round(size.height * scale), 16))
        return self.sized(width, height, 1)

    def sized(self, width: int, height: int, samples: int) -> "Shot":
        """The same shot in frames of another size; a drawing still counts in the size it was laid out for."""
        picture = self.picture
        update = {"width": width, "height": height, "samples": samples, "layout": picture.laid_out}
        return self.model_copy(update={"picture": picture.model_copy(update=update)})


def read_shot(text: str | bytes, name: str = "the shot document") -> Shot:
    """Read and check a shot document.

    Parameters
    ----------
    text : str or bytes
        JSON.
    name : str
        What to call the document in an error.

    Raises
    ------
    Mistake
        Naming the document, the key and the cure.
    """
    try:
        return Shot.model_validate_json(text)
    except ValidationError as error:
        raise Mistake(f"{name}: {sentence_of(error, Shot)}") from None


def read_shot_document(document: dict[str, Any], name: str = "the shot document") -> Shot:
    """Check a shot document that is made of JSON values already; see `read_shot`."""
    return read_shot(json.dumps(document), name)
