"""Size, samples, passes and labels of a shot document, and the numbers in its files' names."""

from typing import Annotated, Final, Literal

from pydantic import Field, field_validator

from vexel.core.document.background import PLAIN, Background
from vexel.core.document.label import Align, fields_of
from vexel.core.document.naming import check_pattern
from vexel.core.document.part import Part
from vexel.core.document.passes import PASSES, Pass
from vexel.core.errors import Mistake

Format = Literal["png", "png16", "exr"]
Alpha = Literal["straight", "premultiplied"]
SUFFIXES: Final[dict[Format, str]] = {"png": ".png", "png16": ".png", "exr": ".exr"}
"""Endings of frames' files: PNG with 8 or 16 bits, sRGB; or OpenEXR with half floats, linear."""
Share = Annotated[float, Field(ge=0, le=1)]
LayoutSide = Annotated[int, Field(ge=1, le=16384)]


class NamesSpec(Part):
    """Numbers in the frames' file names, apart from which frames are shown."""

    start: int = Field(default=0, ge=0, le=10**9, description="number of the first file")
    digits: int | None = Field(default=None, ge=1, le=12, description="fewest digits; null for as many as it takes")
    pattern: str | None = Field(
        default=None,
        max_length=200,
        description='such as "{title}.{camera}.{pass}.{frame:04}"; null names what there is more than one of',
    )

    @field_validator("pattern")
    @classmethod
    def _names_frames(cls, pattern: str | None) -> str | None:
        if pattern is not None:
            check_pattern(pattern)
        return pattern


class PictureSpec(Part):
    """Size, samples, passes and background."""

    width: int = Field(default=1920, ge=16, le=16384)
    height: int = Field(default=1080, ge=16, le=16384)
    samples: int = Field(default=4, ge=1, le=256)
    passes: list[Pass] = Field(default=["shaded"], min_length=1, max_length=len(PASSES))
    background: str = Field(
        default=PLAIN, description='"#rrggbb", "#rrggbb #rrggbb" (above, below), "image:FILE" or "transparent"'
    )
    format: Format = Field(default="png", description="png has 8 bits, png16 has 16; exr is linear, half floats")
    alpha: Alpha = Field(default="straight", description="of PNG: colours not multiplied by alpha, or multiplied")
    ground: bool = Field(
        default=False, description="a level ground under the subject that catches shadows and matches the background"
    )
    contact: Share = Field(default=0.6, description="how dark the ground is where the subject touches it")
    layout: tuple[LayoutSide, LayoutSide] | None = Field(
        default=None, description="size that a drawing counts in, when the frame is larger or smaller than it"
    )

    @field_validator("background")
    @classmethod
    def _is_background(cls, text: str) -> str:
        return Background.parse(text).text

    @field_validator("passes")
    @classmethod
    def _are_different(cls, passes: list[Pass]) -> list[Pass]:
        for one in passes:
            if passes.count(one) > 1:
                raise Mistake(f"pass {one} is named twice: keep one of them")
        return passes

    @property
    def behind(self) -> Background:
        """The background, read."""
        return Background.parse(self.background)

    @property
    def suffix(self) -> str:
        """Ending of the frames' files."""
        return SUFFIXES[self.format]

    @property
    def laid_out(self) -> tuple[int, int]:
        """Width and height that a drawing counts in."""
        return self.layout or (self.width, self.height)


class LabelSpec(Part):
    """Text on the frame, with numbers in it; never on a pass of data."""

    text: str = Field(
        min_length=1,
        max_length=200,
        description="with fields: {frame}, {number}, {count}, {phase}, {seconds:.2f}, {timecode}, {value} or a dial",
    )
    name: str = Field(default="", pattern=r"^([A-Za-z_]\w*)?$", description="by which a lane drives its value")
    value: float = Field(default=0, description="of {value}, where no lane drives it")
    at: tuple[Share, Share] = Field(default=(0.03, 0.95), description="shares of width and height, from the top left")
    size: float = Field(default=0.035, ge=0.005, le=0.5, description="share of the frame's height")
    colour: str = Field(default="#ffffff", pattern=r"^#[0-9a-fA-F]{6}$")
    align: Align = "left"

    @field_validator("text")
    @classmethod
    def _has_fields(cls, text: str) -> str:
        fields_of(text)
        return text
