"""The shot document: the whole plan of one piece of video, read from JSON."""

import json
from fractions import Fraction
from itertools import pairwise
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BeforeValidator, Field, ValidationError, field_validator, model_validator

from vexel.core.clock import Clock, Span
from vexel.core.ease import Easing
from vexel.core.errors import Mistake
from vexel.core.lens import Lens
from vexel.core.picks import Picks
from vexel.core.picture import even_sides, is_background
from vexel.core.rate import MAX_RATE, Rate
from vexel.core.refusal import sentence_of
from vexel.core.rig import Direction
from vexel.core.source_plan import AnySource, Part, WithDials

Pin = Literal["rate", "seconds", "frames", "degrees", "turns", "turn_seconds", "pace", "covers"]
Phase = Annotated[float, Field(ge=0, le=1)]
LayoutSide = Annotated[int, Field(ge=1, le=16384)]
ROUGH_LONG_SIDE = 480
LOOKED_AT = ("model", "object")
"""Kinds of source that always stand before the camera; some others may."""


class ClockPlan(Part):
    """Rate, length and span."""

    rate: str = Field(description='frames a second: "24", "12.5", "30000/1001" or "29.97"')
    seconds: float | None = Field(default=None, description="length in seconds, or null")
    frames: int | None = Field(default=None, description="length in frames, or null")
    span: Span = "loop"
    first: int = Field(default=0, ge=0, description="first frame of the motion that is shown")
    last: int | None = Field(default=None, ge=0, description="last one that may be shown; null for the motion's last")
    every: int = Field(default=1, ge=1, le=1_000_000, description="every n-th frame of the range is shown")
    play: Literal["pace", "rate"] = Field(
        default="pace", description="picked frames keep the motion's pace, or are played at the full rate"
    )
    speed: float = Field(default=1, gt=0, le=1000, description="how much faster the frames are played than captured")
    hold_start: int = Field(default=0, ge=0, le=1_000_000, description="frames that stand still before the motion")
    hold_end: int = Field(default=0, ge=0, le=1_000_000, description="frames that stand still after it")
    like: str | None = Field(default=None, description="shot document whose clock this one is to have, or null")
    pins: list[Pin] = Field(default=[], description="terms that stay when another one is set anew")

    @field_validator("rate")
    @classmethod
    def _is_rate(cls, text: str) -> str:
        Rate.parse(text)
        return text

    @model_validator(mode="after")
    def _has_one_length(self) -> "ClockPlan":
        if (self.seconds is None) == (self.frames is None):
            raise Mistake("give either seconds or frames, the other follows from the rate")
        self.clock()
        return self

    def clock(self) -> Clock:
        """The clock that this plan states."""
        rate = Rate.parse(self.rate)
        picks = Picks(self.first, self.last, self.every, self.hold_start, self.hold_end)
        if self.frames is not None:
            return Clock(rate, self.frames, self.span, picks, self._played(rate))
        return Clock.lasting(rate, Fraction(repr(self.seconds)), self.span, picks, self._played(rate))

    def _played(self, rate: Rate) -> Rate | None:
        """The rate at which the frames are played, where it is not that of the motion."""
        factor = Fraction(repr(self.speed)) / (self.every if self.play == "pace" else 1)
        if factor == 1:
            return None
        played = Rate(rate.fps * factor)
        if played.fps > MAX_RATE:
            raise Mistake(f"played at {played.label}, above {MAX_RATE} frames a second: lower the speed")
        return played


class LensPlan(Part):
    """Focal length and sensor."""

    focal_mm: float = Field(default=50, ge=4, le=2000)
    sensor: str = Field(default="36x24", pattern=r"^\d+(\.\d+)?x\d+(\.\d+)?$", description="width x height, mm")

    @field_validator("sensor")
    @classmethod
    def _has_area(cls, text: str) -> str:
        if 0 in map(float, text.split("x")):
            raise Mistake('a sensor has a width and a height above 0 mm, such as "36x24"')
        return text

    def lens(self) -> Lens:
        """The lens that this plan states."""
        wide, high = map(float, self.sensor.split("x"))
        return Lens(self.focal_mm, wide, high)


class OrbitPlan(Part):
    """A turntable."""

    kind: Literal["orbit"]
    turns: float = Field(default=1, ge=0, le=1000)
    direction: Direction = "ccw"
    start_deg: float = Field(default=0, ge=-36000, le=36000)
    elevation_deg: float = Field(default=18, ge=-89, le=89)
    centre: tuple[float, float, float] | None = Field(
        default=None, description="point to go round; null is the middle of the subject"
    )
    fill: float = Field(
        default=0.8, ge=0.02, le=4, description="share of the frame's shorter side that the subject takes"
    )


class CameraPlan(Part):
    """Lens and rig."""

    lens: LensPlan = LensPlan()
    rig: OrbitPlan = OrbitPlan(kind="orbit")


def _key_like(value: Any) -> Any:
    """A key as its parts are wanted, or one sentence on what a key is."""
    numbers, easing = (value[:2], value[2:]) if isinstance(value, list | tuple) else ((), ())
    right = len(numbers) == 2 and all(isinstance(v, int | float) and not isinstance(v, bool) for v in numbers)
    if not right or len(easing) > 1 or not all(isinstance(v, str) for v in easing):
        raise Mistake('a key is [place, value], or [place, value, easing], such as [0.5, 3] or [0.5, 3, "hold"]')
    return (*map(float, numbers), *map(_easing, easing))


def _easing(text: str) -> str:
    Easing.parse(text)
    return text


Ease = Annotated[str, AfterValidator(_easing)]
LaneKey = Annotated[tuple[float, float] | tuple[float, float, str], BeforeValidator(_key_like)]
Drive = Annotated[str, Field(pattern=r"^(dial:[A-Za-z_]\w*|rig:(elevation|azimuth|distance|fill)|lens:focal)$")]


class LanePlan(Part):
    """A value over the shot: keys, or another lane that it follows."""

    drive: Drive = Field(
        description='what is driven: "dial:NAME", "rig:elevation", "rig:azimuth", "rig:distance", "rig:fill" '
        'or "lens:focal"'
    )
    keys: list[LaneKey] = Field(default=[], description="[place, value] or [place, value, easing out of the key]")
    at: Literal["phase", "seconds", "frames"] = Field(default="phase", description="what the places are counted in")
    ease: Ease = Field(default="linear", description="of keys that do not say their own; see the easings")
    repeat: float = Field(default=1, gt=0, le=1000, description="how many times over the shot")
    back: bool = Field(default=False, description="each time there and back")
    offset: float = Field(default=0, ge=-1, le=1, description="how much of one time it is ahead")
    within: tuple[Phase, Phase] = Field(default=(0, 1), description="phases between which it runs")
    follows: str | None = Field(default=None, description="the lane that it follows, as times × that + plus")
    times: float = 1
    plus: float = 0

    @field_validator("keys")
    @classmethod
    def _rise(cls, keys: list[LaneKey]) -> list[LaneKey]:
        for before, after in pairwise(keys):
            if after[0] <= before[0]:
                raise Mistake(f"keys must rise in their places, but {after[0]:g} follows {before[0]:g}")
        return keys

    @model_validator(mode="after")
    def _runs(self) -> "LanePlan":
        if bool(self.keys) == (self.follows is not None):
            raise Mistake(f"lane {self.drive} needs keys, or another lane that it follows, and not both")
        if self.within[0] >= self.within[1]:
            raise Mistake(f"lane {self.drive} runs within {self.within[0]:g} to {self.within[1]:g}: let it rise")
        return self

    @property
    def dial(self) -> str:
        """Name of the dial that this lane drives; empty when it drives something else."""
        return self.drive.removeprefix("dial:") if self.drive.startswith("dial:") else ""

    @property
    def name(self) -> str:
        """What is driven, for people."""
        return "focal length" if self.drive == "lens:focal" else self.drive.partition(":")[2]


class NamesPlan(Part):
    """Numbers in the frames' file names, apart from which frames are shown."""

    start: int = Field(default=0, ge=0, le=10**9, description="number of the first file")
    digits: int | None = Field(default=None, ge=1, le=12, description="fewest digits; null for as many as it takes")


class PicturePlan(Part):
    """Size, samples, passes and background."""

    width: int = Field(default=1920, ge=16, le=16384)
    height: int = Field(default=1080, ge=16, le=16384)
    samples: int = Field(default=4, ge=1, le=256)
    passes: list[Literal["shaded"]] = Field(default=["shaded"], min_length=1, max_length=1)
    background: str = Field(default="#2b2f33", description='"#rrggbb" or "transparent"')
    layout: tuple[LayoutSide, LayoutSide] | None = Field(
        default=None, description="size that a drawing counts in, when the frame is larger or smaller than it"
    )

    @field_validator("background")
    @classmethod
    def _is_background(cls, text: str) -> str:
        if not is_background(text):
            raise Mistake(f'{text!r} is no background: write "#rrggbb" or "transparent"')
        return text

    @property
    def laid_out(self) -> tuple[int, int]:
        """Width and height that a drawing counts in."""
        return self.layout or (self.width, self.height)


class Shot(Part):
    """One piece of video, planned. Paths in it are relative to its file."""

    vexel: Literal[1] = 1
    title: str = Field(min_length=1, max_length=200)
    source: AnySource
    clock: ClockPlan
    camera: CameraPlan = CameraPlan()
    ease: Ease = Field(default="linear", description="of the shot as a whole, which all lanes and the rig follow")
    lanes: list[LanePlan] = Field(default=[])
    picture: PicturePlan = PicturePlan()
    names: NamesPlan = NamesPlan()

    @model_validator(mode="after")
    def _lanes_fit(self) -> "Shot":
        drives = [lane.drive for lane in self.lanes]
        for drive in drives:
            if drives.count(drive) > 1:
                raise Mistake(f"two lanes drive {drive}: keep one of them")
            if drive.startswith("dial:") and not isinstance(self.source, WithDials):
                raise Mistake(f"lane {drive} drives a dial, but {self.source.kind} has none: leave it out")
        return self

    @property
    def orbit(self) -> OrbitPlan | None:
        """The rig, where the kind of source alone says that a camera looks."""
        return self.camera.rig if self.source.kind in LOOKED_AT else None

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
