"""The specification of one file: its recipe, what it shows and how its pictures are made."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from vexel.core.errors import Mistake, VexelError
from vexel.core.recipes.cue import Cue, cues_on
from vexel.core.recipes.form import depth_of
from vexel.core.recipes.frame_size import fitted
from vexel.core.recipes.recipe import Recipe
from vexel.core.recipes.retiming import Timeline, timeline_of
from vexel.core.wording import said_missing
from vexel.output.footage.footage import Footage, MissingFrames
from vexel.output.job.pictures import Placement, Source

MOST_OF_GIF = 100
"""Pictures a second, since each lasts a hundredth at least (GIF89a)."""


class TooFast(Mistake):
    """There are more pictures a second than a kind of file can hold."""

    fits = (("at 50 fps", {"timing": {"rate": "50"}}), ("at 25 fps", {"timing": {"rate": "25"}}))


@dataclass(frozen=True)
class Job:
    """The specification of one file.

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
    def cues(self) -> list[Cue]:
        """Chapters of the file, or subtitles where it holds those, counted in its pictures."""
        cues = self.footage.subtitles if self.recipe.codec == "labels" else self.footage.chapters
        kept = self.recipe.chapters == "keep" and (self.recipe.form.chapters or self.recipe.form.kind == "text")
        return cues_on(self.timeline, cues, self.footage.first) if kept else []

    @property
    def has_sound(self) -> bool:
        """Whether the file is to have sound: of its recipe, or of its footage."""
        return bool(self.recipe.sound.file) or (self.footage.sound is not None and bool(self.recipe.form.sound))

    @property
    def loses_depth(self) -> bool:
        """Whether the recipe asks for 8 bits where frames have 16 and its kind of file keeps every code."""
        asked = bool(self.recipe.pixels) and depth_of(self.pixels) == 8
        return asked and self.recipe.form.exact and self.source.deep

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


def refusals(footage: Footage, orders: Sequence[tuple[Recipe, Path]]) -> dict[int, VexelError]:
    """Why some orders cannot be made of these frames, by their places among all."""
    source, refused = Source.of(footage), {}
    for place, (recipe, file) in enumerate(orders):
        try:
            _job(source, recipe, file)
        except VexelError as error:
            refused[place] = error
    return refused


def _job(source: Source, recipe: Recipe, file: Path) -> Job:
    footage = source.footage
    if recipe.sphere and footage.panorama is None:
        raise Mistake(f"recipe {recipe.name} is for panoramas, and these frames are not panoramas: use h264")
    if recipe.codec == "handover":
        raise Mistake("a hand-over is made of a shot with its take: vexel handover SHOT.json --take DIR -o FILE.zip")
    if recipe.codec == "as-made" and not footage.files:
        raise Mistake(f"recipe {recipe.name} exports frames unchanged, and these are composed: use png")
    if recipe.form.kind == "text" and not (footage.subtitles if recipe.codec == "labels" else footage.chapters):
        lacks = (
            "labels whose values its document tells"
            if recipe.codec == "labels"
            else "saved views that the camera goes by"
        )
        raise Mistake(f"recipe {recipe.name}: the shot or reel has no {lacks}, so there is nothing to write")
    clock = footage.clock
    timeline = timeline_of(recipe, footage.count, clock.rate, clock.repeats, clock.span == "loop")
    _check_missing(recipe, footage, timeline)
    if recipe.codec == "gif" and timeline.rate.fps > MOST_OF_GIF:
        raise TooFast(
            f"a GIF holds at most {MOST_OF_GIF} pictures a second, each for whole hundredths of one, and these have "
            f"{timeline.rate.label}: set timing.rate to 50 or less"
        )
    if recipe.codec == "as-made" and not _each_once(footage, timeline):
        raise Mistake(
            f"recipe {recipe.name} exports frames unchanged, each once, and here some would be doubled or "
            "blended: use png, or keep the frames' rate"
        )
    alpha = source.transparent and recipe.keeps_alpha != "none"
    pixels = recipe.pixels_for(alpha, deep=source.deep)
    if recipe.form.exact and source.deep and depth_of(pixels) == 8 and not recipe.pixels:
        raise Mistake(
            f"{recipe.makes} holds 8 bits a channel, and these frames have 16: use png, apng or ffv1, which keep them, "
            f"or set the recipe's pixels to {pixels} to round them to 8"
        )
    size = fitted(recipe, source.width, source.height, alpha=alpha)
    primaries = recipe.colour.primaries
    # Converted colours fall between the codes of frames, and finer files keep where.
    finer = source.deep or depth_of(pixels) >= 16 or primaries != "bt709"
    deep = source.deep if not pixels else depth_of(pixels) > 8 and finer
    placement = Placement(size, alpha, recipe.ground, recipe.size.filter, deep, primaries, footage.is_data)
    return Job(recipe, file, source, timeline, placement, pixels, footage.title or file.stem)


def _each_once(footage: Footage, timeline: Timeline) -> bool:
    """Whether pictures are frames, none of them twice."""
    names = [footage.file_names[position] for position, _ in timeline.picks]
    return len(set(names)) == len(names) and not any(mix for _, mix in timeline.picks)


def _check_missing(recipe: Recipe, footage: Footage, timeline: Timeline) -> None:
    """Refuse frames that repeat missing ones, unless the recipe holds them."""
    if recipe.timing.missing == "hold" or not footage.held:
        return
    shown = {at for position, mix in timeline.picks for at in ((position, position + 1) if mix else (position,))}
    if lacking := sorted(footage.first + position for position in shown & set(footage.held)):
        raise MissingFrames(
            f"{said_missing(lacking)}: capture {'it' if len(lacking) == 1 else 'them'} by resuming, choose a stretch "
            "without holes, or hold the frames before (--missing hold)"
        )
