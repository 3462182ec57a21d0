"""The lanes of a shot document."""

from itertools import pairwise
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BeforeValidator, Field, field_validator, model_validator

from vexel.core.document.part import Part
from vexel.core.errors import Mistake
from vexel.core.lanes.easing import Easing
from vexel.core.lanes.formula import Formula
from vexel.core.lanes.targets import KINDS, is_target, target_name

Phase = Annotated[float, Field(ge=0, le=1)]


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


Ease = Annotated[str, AfterValidator(_easing), Field(json_schema_extra={"format": "easing"})]
LaneKey = Annotated[tuple[float, float] | tuple[float, float, str], BeforeValidator(_key_like)]


def _drive(text: str) -> str:
    if not is_target(text):
        raise Mistake(f"{text!r} is not a lane target; write {KINDS}")
    return text


Drive = Annotated[str, AfterValidator(_drive)]


def _formula(text: str) -> str:
    Formula.parse(text)
    return text


Formulated = Annotated[str, AfterValidator(_formula)]


class LaneSpec(Part):
    """A value over the shot: keys, another lane that it follows, or a formula."""

    drive: Drive = Field(description=f"what is driven: {KINDS}")
    keys: list[LaneKey] = Field(default=[], description="[place, value] or [place, value, easing out of the key]")
    at: Literal["phase", "seconds", "frames"] = Field(default="phase", description="unit of the key times")
    ease: Ease = Field(default="linear", description="for keys that have none")
    repeat: float = Field(default=1, gt=0, le=1000, description="how many times over the shot")
    back: bool = Field(default=False, description="each repeat plays back and forth")
    offset: float = Field(default=0, ge=-1, le=1, description="phase offset in cycles")
    within: tuple[Phase, Phase] = Field(default=(0, 1), description="phases between which the lane runs")
    follows: str | None = Field(default=None, description="the lane that it follows, as times × leader + plus")
    formula: Formulated | None = Field(
        default=None,
        description='such as "2 + 0.5 * sin(tau * phase)", of phase, seconds, frame and lane("dial:depth")',
    )
    times: float = 1
    plus: float = 0

    @field_validator("keys")
    @classmethod
    def _rise(cls, keys: list[LaneKey]) -> list[LaneKey]:
        for before, after in pairwise(keys):
            if after[0] <= before[0]:
                raise Mistake(f"keys must be in the order of their places, but {after[0]:g} follows {before[0]:g}")
        return keys

    @model_validator(mode="after")
    def _runs(self) -> "LaneSpec":
        if [bool(self.keys), self.follows is not None, self.formula is not None].count(True) != 1:
            raise Mistake(f"lane {self.drive} needs one of these: keys, another lane that it follows, or a formula")
        if self.within[0] >= self.within[1]:
            raise Mistake(f"lane {self.drive} runs within {self.within[0]:g} to {self.within[1]:g}: let it rise")
        return self

    def easing_of(self, key: LaneKey) -> Easing:
        """The easing out of a key: its own, or that of the lane."""
        return Easing.parse(key[2] if len(key) == 3 else self.ease)

    @property
    def leaders(self) -> tuple[str, ...]:
        """Lanes whose values it takes, by what they drive."""
        if self.formula is not None:
            return Formula.parse(self.formula).lanes
        return () if self.follows is None else (self.follows,)

    @property
    def dial(self) -> str:
        """Name of the dial that this lane drives; empty when it drives something else."""
        return self.drive.removeprefix("dial:") if self.drive.startswith("dial:") else ""

    @property
    def name(self) -> str:
        """What is driven, for people."""
        return target_name(self.drive)
