"""Size, samples, passes and labels of a shot document, and the numbers in its files' names."""

from typing import Annotated, Literal

from pydantic import Field, field_validator

from vexel.core.errors import Mistake
from vexel.core.picture import is_background
from vexel.core.source_plan import Part

LayoutSide = Annotated[int, Field(ge=1, le=16384)]


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
