"""The clock of a shot document."""

from fractions import Fraction
from functools import cached_property
from typing import Literal

from pydantic import Field, field_validator, model_validator

from vexel.core.document.part import Part, shown
from vexel.core.errors import Mistake
from vexel.core.time.clock import Clock, Span
from vexel.core.time.frame_selection import FrameSelection, Order
from vexel.core.time.rate import MAX_RATE, Rate
from vexel.core.time.shutter import Shutter, Sits

Pin = Literal["rate", "seconds", "frames", "degrees", "turns", "turn_seconds", "pace", "covers"]


ONE_LENGTH = "give either seconds or frames, the other follows from the rate"


class ClockSpec(Part):
    """Rate, length and span."""

    rate: str = Field(description='frames per second: "24", "12.5", "30000/1001" or "29.97"')
    seconds: float | None = Field(default=None, description="length in seconds, or null")
    frames: int | None = Field(default=None, description="length in frames, or null")
    span: Span = "loop"
    first: int = Field(default=0, ge=0, description="first frame of the motion that is shown")
    last: int | None = Field(default=None, ge=0, description="last one that may be shown; null for the motion's last")
    every: int = Field(default=1, ge=1, le=1_000_000, description="every n-th frame of the range is shown")
    play: Literal["pace", "rate"] = Field(
        default="pace", description="whether the frames shown keep the motion's speed, or play at the full rate"
    )
    speed: float = Field(
        default=1,
        ge=0.001,
        le=1000,
        description="how much faster the frames are played than captured",
        json_schema_extra=shown(step=0.1),
    )
    order: Order = Field(default="forward", description="in which the frames of the range are shown")
    hold_start: int = Field(default=0, ge=0, le=1_000_000, description="still frames before the motion")
    hold_end: int = Field(default=0, ge=0, le=1_000_000, description="still frames after it")
    repeats: int = Field(
        default=1, ge=1, le=100_000, title="Play count", description="play count in a video file; a GIF always loops"
    )
    retimed_from: int | None = Field(
        default=None, ge=1, description="frames of the motion in its own time, of which first and last stay; or null"
    )
    shutter: str = Field(default="0", description='exposure time per frame: "180°", "0.5" of a frame, or "1/48 s"')
    shutter_sits: Sits = Field(default="centred", description="its alignment to the frame's instant")
    like: str | None = Field(default=None, description="shot document whose clock this one is to have, or null")
    pins: list[Pin] = Field(default=[], description="terms that are locked while others change")

    @field_validator("rate")
    @classmethod
    def _is_rate(cls, text: str) -> str:
        Rate.parse(text)
        return text

    @model_validator(mode="after")
    def _has_one_length(self) -> "ClockSpec":
        if self.seconds is not None and self.frames is not None:
            raise Mistake(ONE_LENGTH)
        # A walk from view to view brings its own length, so that there may be none yet.
        if self.seconds is not None or self.frames is not None:
            _ = self.exact
        return self

    @cached_property
    def exact(self) -> Clock:
        """The clock that the document states, in fractions; worked out once."""
        rate = Rate.parse(self.rate)
        held, closes = (self.hold_start, self.hold_end), self.span == "loop"
        picks = FrameSelection(self.first, self.last, self.every, *held, self.order, closes)
        frames = self.frames
        if frames is None:
            if self.seconds is None:
                raise Mistake(ONE_LENGTH)
            frames = Clock.frames_lasting(rate, Fraction(repr(self.seconds)))
        shutter = Shutter.parse(self.shutter, rate.fps, self.shutter_sits)
        return Clock(rate, frames, self.span, picks, self._played(rate), shutter, self.retimed_from, self.repeats)

    def _played(self, rate: Rate) -> Rate | None:
        """The rate at which the frames are played, where it is not that of the motion."""
        factor = Fraction(repr(self.speed)) / (self.every if self.play == "pace" else 1)
        if factor == 1:
            return None
        played = Rate(rate.fps * factor)
        if played.fps > MAX_RATE:
            raise Mistake(f"played at {played.label}, above {MAX_RATE} frames per second: lower the speed")
        return played
