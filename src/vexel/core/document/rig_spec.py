"""The rigs of a shot document: how its camera moves. Saved views in turn are in `stops_spec`."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import dist
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, field_validator, model_validator

from vexel.core.brief_part import BriefPart, elevation_in_words, turns_in_words
from vexel.core.camera.camera_path import Direction
from vexel.core.document.lane_spec import Ease
from vexel.core.document.part import Part, shown
from vexel.core.document.view_spec import Point, ViewSpec
from vexel.core.errors import Mistake
from vexel.core.lanes.easing import Easing
from vexel.core.time.clock import Span
from vexel.core.time.rate import Rate
from vexel.core.wording import counted

Centre = Annotated[
    Point | Literal["centroid"] | None,
    Field(description='look-at point, or "centroid" of its surface; null is the centre of its bounding box'),
]
Elevation = Annotated[
    float,
    Field(ge=-90, le=90, title="Elevation", description="above the horizon", json_schema_extra=shown("°", step=1)),
]
Distance = Annotated[
    float | None,
    Field(
        gt=0,
        le=1e12,
        description="from the centre, in the source's units; null follows from the fill",
        json_schema_extra=shown(step=0.1),
    ),
]
Fill = Annotated[float, Field(ge=0.02, le=4, description="share of the frame's shorter side that the subject takes")]


@dataclass(frozen=True)
class RigTraits:
    """What is always true of a kind of rig.

    Attributes
    ----------
    label : str
        What people call it.
    edit_instead : str
        What to edit in place of a lane that drives the rig, which such a rig does not take; else empty.
    travels : bool
        Whether the camera goes from place to place by itself.
    times_shot : bool
        Whether the shot lasts as long as the rig takes.
    """

    label: str
    edit_instead: str = ""
    travels: bool = False
    times_shot: bool = False


class RigSpec(Part):
    """How a camera moves; what a kind does not override, it does not do."""

    traits: ClassVar[RigTraits]

    @property
    def turntable(self) -> "OrbitSpec | None":
        """The rig as turns of camera, subject or light."""
        return None

    @property
    def ends_elsewhere(self) -> bool:
        """Whether the camera ends in another place than it began, for every source."""
        return False

    def frames(self, views: Sequence[ViewSpec], rate: Rate, span: Span) -> int | None:
        """Frames of a shot whose length follows from the rig; None where the clock sets it."""
        return None

    def derivation(self, views: Sequence[ViewSpec], rate: Rate, span: Span) -> str:
        """How `frames` follows, for people; empty where it does not."""
        return ""

    def arrivals(self, views: Sequence[ViewSpec], rate: Rate, span: Span) -> Sequence[int]:
        """Frames at which the camera reaches each of the saved views; none where it does not go by them."""
        return ()

    def brief(self, views: Sequence[ViewSpec]) -> list[BriefPart]:
        """The rig's part of the brief."""
        raise NotImplementedError

    def stretched(self, views: Sequence[ViewSpec], factor: float) -> dict[str, Any]:
        """The patch of the camera that makes the rig take `factor` times as long."""
        return {}


class StillSpec(RigSpec):
    """A camera that stands."""

    traits: ClassVar[RigTraits] = RigTraits("static")
    kind: Literal["still"]
    start_deg: float = Field(
        default=0,
        ge=-36000,
        le=36000,
        title="Start",
        description="0 looks at the front, along +y",
        json_schema_extra=shown("°", step=5),
    )
    elevation_deg: Elevation = 18
    position: Point | None = Field(
        default=None, description="of the camera; null follows from start, elevation and fill"
    )
    roll_deg: float = Field(
        default=0,
        ge=-180,
        le=180,
        title="Roll",
        description="clockwise, as the camera sees it",
        json_schema_extra=shown("°"),
    )
    centre: Centre = None
    fill: Fill = 0.8
    distance: Distance = None

    def brief(self, views: Sequence[ViewSpec]) -> list[BriefPart]:
        """See `RigSpec.brief`."""
        parts = [BriefPart("with a"), BriefPart("static camera", "camera", "Camera")]
        if self.position is None:
            parts += [BriefPart("at"), BriefPart(elevation_in_words(self.elevation_deg), "camera", "Elevation")]
        return parts


class TurnSpec(Part):
    """A number of turns: of the camera round its subject, or of subject or light before a camera that stands."""

    what: Literal["camera", "subject", "light"] = "camera"
    turns: float = Field(default=1, ge=0, le=1000, json_schema_extra=shown(step=0.25))
    direction: Direction = "ccw"


class OrbitSpec(RigSpec, TurnSpec):
    """A turntable."""

    traits: ClassVar[RigTraits] = RigTraits("turntable")
    kind: Literal["orbit"]
    followed_by: list[TurnSpec] = Field(
        default=[], max_length=20, description="turns after the first ones, each with its share of the time"
    )
    ease: Ease = Field(default="linear", description="of each of these by itself")
    start_deg: float = Field(default=0, ge=-36000, le=36000, title="Start", json_schema_extra=shown("°", step=5))
    elevation_deg: Elevation = 18
    axis: Point = Field(default=(0, 0, 1), description="of rotation, through the centre; points up")
    centre: Centre = None
    fill: Fill = 0.8
    distance: Distance = None

    @field_validator("axis")
    @classmethod
    def _points_somewhere(cls, axis: Point) -> Point:
        if not any(axis):
            raise Mistake("an axis of 0, 0, 0 has no direction: write 0, 0, 1 for upright")
        return axis

    def brief(self, views: Sequence[ViewSpec]) -> list[BriefPart]:
        """See `RigSpec.brief`."""
        height = [BriefPart("at"), BriefPart(elevation_in_words(self.elevation_deg), "camera", "Elevation")]
        if self.followed_by or self.what != "camera":
            turns = [f"the {step.what} {turns_in_words(step.turns)}" for step in self.steps]
            return [BriefPart("turning"), BriefPart(", then ".join(turns), "camera", "Turns"), *height]
        if self.turns == 0:
            return [BriefPart("with a"), BriefPart("static camera", "camera", "Turns"), *height]
        direction = "clockwise" if self.direction == "cw" else "counter-clockwise"
        return [
            BriefPart("with the camera circling it"),
            BriefPart(turns_in_words(self.turns), "camera", "Turns"),
            BriefPart(direction, "camera", "Direction"),
            *height,
        ]

    @property
    def turntable(self) -> "OrbitSpec":
        """See `RigSpec.turntable`."""
        return self

    @property
    def easing(self) -> Easing:
        """The easing of each of the turns."""
        return Easing.parse(self.ease)

    @property
    def steps(self) -> list[TurnSpec]:
        """The first turns, and those after them."""
        return [self, *self.followed_by]

    @property
    def all_turns(self) -> float:
        """How many turns there are over the shot, one after another."""
        return sum(step.turns for step in self.steps)


class PathKey(Part):
    """Where the camera passes by."""

    position: Point = Field(description="in the source's units")
    look: Point | None = Field(default=None, description='what it looks at there, for looks "keys"')
    at: float | None = Field(default=None, ge=0, le=1, description='phase at which it is there, for pace "keys"')
    focal_mm: float | None = Field(default=None, ge=4, le=2000, description="null keeps that of the lens")
    roll_deg: float = Field(default=0, ge=-36_000, le=36_000, description="clockwise, counted on over whole turns")


class PathSpec(RigSpec):
    """A path along keys."""

    traits: ClassVar[RigTraits] = RigTraits("path", edit_instead="move the path's keys", travels=True)
    kind: Literal["path"]
    keys: list[PathKey] = Field(min_length=2, max_length=10_000)
    curve: Literal["smooth", "straight"] = "smooth"
    closed: bool = Field(default=False, description="continues from the last key to the first")
    looks: Literal["subject", "keys", "along"] = Field(default="subject", description="what the camera points at")
    pace: Literal["even", "keys"] = Field(default="even", description="equal speed, or each key at its phase")
    bank: float = Field(
        default=0,
        ge=-10,
        le=10,
        title="Banking",
        description="degrees of roll per degree of turn",
        json_schema_extra=shown(step=0.5),
    )
    up: Literal["world", "steady"] = Field(
        default="world", description="which way is up: the world's +z, or as little turned as possible along the path"
    )

    @property
    def ends_elsewhere(self) -> bool:
        """See `RigSpec.ends_elsewhere`."""
        return not self.closed

    def brief(self, views: Sequence[ViewSpec]) -> list[BriefPart]:
        """See `RigSpec.brief`."""
        path = "a closed path of" if self.closed else "a path of"
        return [BriefPart(f"with the camera on {path}"), BriefPart(counted(len(self.keys), "key"), "camera", "Keys")]

    @model_validator(mode="after")
    def _hold_together(self) -> "PathSpec":
        around = [*self.keys, self.keys[0]] if self.closed else self.keys
        for number, (key, following) in enumerate(pairwise(around)):
            rests = self.pace == "keys" and self.curve == "straight" and self.looks != "along"
            if not rests and dist(key.position, following.position) <= 1e-9 * max(1.0, *map(abs, key.position)):
                other = (number + 1) % len(self.keys)
                raise Mistake(
                    f"keys[{number}] and keys[{other}] are at the same place: move or remove one, or let the camera "
                    "rest there with pace keys and curve straight"
                )
        if self.looks == "keys":
            for number, key in enumerate(self.keys):
                if key.look is None:
                    raise Mistake(f"keys[{number}] has no look: set what the camera looks at there")
                if dist(key.look, key.position) <= 1e-9:
                    raise Mistake(f"keys[{number}] looks at the camera's own position: move its look")
        if self.pace == "keys":
            self._check_times()
        return self

    def _check_times(self) -> None:
        times = [key.at for key in self.keys]
        for number, time in enumerate(times):
            if time is None:
                raise Mistake(f'keys[{number}] has no phase: set its "at", or set pace to "even"')
        for number, (before, after) in enumerate(pairwise(times)):
            if before is not None and after is not None and after <= before:
                raise Mistake(f"keys[{number + 1}] comes at phase {after:g}, not after the one before, {before:g}")
        if self.closed and times[0] == 0 and times[-1] == 1:
            raise Mistake(
                "the last key of a closed path is at phase 1, where the path is back at the first key: move it earlier"
            )
