"""What one file is to be: its recipe, what it shows and how its pictures are made."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from vexel.core.errors import Mistake
from vexel.core.recipes.form import depth_of
from vexel.core.recipes.frame_size import fitted
from vexel.core.recipes.recipe import Recipe
from vexel.core.recipes.retiming import Timeline, timeline_of
from vexel.output.footage import Footage
from vexel.output.pictures import Placement, Source


@dataclass(frozen=True)
class Job:
    """What one file is to be.

    Attributes
    ----------
    recipe : Recipe
    file : Path
        A folder, where the recipe makes one.
    source : Source
    timeline : Timeline
    placement : Placement
    pixels : str
        Pixel format by FFmpeg's name.
    title : str
    """

    recipe: Recipe
    file: Path
    source: Source
    timeline: Timeline
    placement: Placement
    pixels: str
    title: str = ""

    @property
    def footage(self) -> Footage:
        """Where its frames come from."""
        return self.source.footage

    @property
    def width(self) -> int:
        """Of its pictures, in pixels."""
        return self.placement.fitted.width

    @property
    def height(self) -> int:
        """Of its pictures, in pixels."""
        return self.placement.fitted.height

    @property
    def loses_alpha(self) -> bool:
        """Whether frames have transparency that the file does not keep."""
        return self.source.transparent and not self.placement.alpha


def jobs_of(footage: Footage, orders: Sequence[tuple[Recipe, Path]]) -> list[Job]:
    """One job a recipe and file, all of the same frames.

    Raises
    ------
    Mistake
        When a recipe cannot take these frames.
    """
    source = Source.of(footage)
    return [_job(source, recipe, file) for recipe, file in orders]


def _job(source: Source, recipe: Recipe, file: Path) -> Job:
    footage = source.footage
    if recipe.sphere and footage.panorama is None:
        raise Mistake(f"recipe {recipe.name} is for panoramas, and these frames are none: use h264")
    clock = footage.clock
    timeline = timeline_of(recipe, len(footage.files), clock.rate, clock.repeats, clock.span == "loop")
    alpha = source.transparent and recipe.keeps_alpha != "none"
    pixels = recipe.pixels_for(alpha)
    size = fitted(recipe, source.width, source.height, alpha=alpha)
    deep = source.deep if not pixels else depth_of(pixels) > 8 and (source.deep or depth_of(pixels) >= 16)
    placement = Placement(size, alpha, recipe.ground, recipe.size.filter, deep)
    return Job(recipe, file, source, timeline, placement, pixels, footage.title or file.stem)
