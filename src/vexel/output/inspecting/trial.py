"""A recipe tried on a stretch of a take: how large, how alike, and how it looks, before the whole is made."""

import tempfile
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from vexel.core.recipes.byte_size import said_bytes
from vexel.core.recipes.recipe import Quality, Recipe
from vexel.core.recipes.retiming import timeline_of
from vexel.imaging.codes import to_bytes
from vexel.imaging.image_bytes import encoded_png
from vexel.output.compiling.batch import write_batch
from vexel.output.compiling.gif_budget import expected_within
from vexel.output.footage.footage import Footage
from vexel.output.job.job import Job, jobs_of
from vexel.output.proving.colours import rgb_of
from vexel.output.proving.pictures_back import facts_of
from vexel.output.proving.prove import alike, bytes_of, shown_picture

SAMPLE = 16
"""Frames that are tried, one after another."""
Png = bytes


@dataclass(frozen=True)
class Trial:
    """What a stretch came to.

    Attributes
    ----------
    bytes : int
        Expected of the whole file.
    pictures : int
        In the whole file.
    seconds : Fraction
    width, height : int
    tried : int
        Pictures that were made.
    psnr, ssim : float
        The least of them, of brightness.
    retimed : str
        What another rate does to the whole; empty for nothing.
    fitted : str
        What a limit of its size does to a GIF: size, colours and rate; empty where it does nothing.
    notes : tuple of str
    made, found : bytes
        The frame that was asked for as the file is to show it, and as it does: PNG.
    """

    bytes: int
    pictures: int
    seconds: Fraction
    width: int
    height: int
    tried: int
    psnr: float
    ssim: float
    retimed: str
    fitted: str
    notes: tuple[str, ...]
    made: Png
    found: Png


def try_recipe(footage: Footage, recipe: Recipe, frame: int) -> Trial:
    """Make a stretch around a frame, read it back and compare.

    A GIF that is to keep to a size is tried as it should then be. Of other files a size to keep to is left out: what
    it comes to is known when the whole is made.

    Raises
    ------
    Mistake, Failure
        When the recipe cannot take these frames.
    """
    clock, limit, fitted, expected = footage.clock, recipe.quality.most_bytes, "", 0
    if limit and recipe.codec == "gif":
        asked_for, (recipe, expected) = recipe, expected_within(footage, recipe, limit)
        fitted = _fitted(footage, recipe, asked_for, limit, expected)
    whole = timeline_of(recipe, footage.count, clock.rate, clock.repeats, clock.span == "loop")
    asked = sorted({position for position, _ in whole.picks})
    centre = min(asked, key=lambda position: abs(position - frame))
    begin = max(min(asked.index(centre) - SAMPLE // 2, len(asked) - SAMPLE), 0)
    files = asked[begin : begin + SAMPLE]
    part = footage.part(files)
    timing = recipe.timing.model_copy(update={"frames": "", "repeats": 1})
    plain = recipe.model_copy(update={"timing": timing, "quality": unsized(recipe)})
    with tempfile.TemporaryDirectory() as folder:
        (job,) = jobs_of(part, [(plain, Path(folder) / f"trial{recipe.suffix}")])
        (made,) = write_batch([job])
        if made.error is not None:
            raise made.error
        facts = facts_of(job, range(job.timeline.count))
        shown = {n: shown_picture(job, n) for n in facts.pictures}
        values = [alike(shown[n], found, recipe.colour) for n, found in facts.pictures.items()]
        at = min(shown, key=lambda n: abs(files[job.timeline.shows(n)[0]] - centre))
        return Trial(
            expected or round(_whole_bytes(job, whole.count)),
            whole.count if recipe.container != "still" else 1,
            whole.seconds,
            job.width,
            job.height,
            len(shown),
            min(one for one, _ in values),
            min(one for _, one in values),
            whole.note,
            fitted,
            tuple(made.notes),
            _png(shown[at]),
            _png(rgb_of(facts.pictures[at], recipe.colour)),
        )


def _fitted(footage: Footage, recipe: Recipe, asked: Recipe, most: int, expected: int) -> str:
    """How a GIF is made to keep to a size, as a sentence without its full stop."""
    made, whole = (
        jobs_of(footage, [(one.model_copy(update={"quality": Quality()}), Path("a.gif"))])[0] for one in (recipe, asked)
    )

    def way(job: Job) -> str:
        palette = job.recipe.palette
        dither = "" if palette.dither == asked.palette.dither else ", without dither"
        return f"{job.width} × {job.height}, {palette.colours} colours{dither}, {job.timeline.rate.label}"

    if expected > most:
        return f"No way to make it is expected to fit {said_bytes(most)}; the smallest is {way(made)}"
    if way(made) == way(whole):
        return f"Nothing must be made smaller for {said_bytes(most)}"
    return f"To fit {said_bytes(most)} it becomes about {way(made)}, in place of {way(whole)}"


def unsized(recipe: Recipe) -> Quality:
    """The quality of a recipe without a size to keep to."""
    return Quality(effort=recipe.quality.effort) if recipe.quality.at_most else recipe.quality


def _whole_bytes(job: Job, count: int) -> float:
    """Bytes of all pictures, by those of some."""
    if job.recipe.container == "still":
        return bytes_of(job)
    return bytes_of(job) / job.timeline.count * count


def _png(pixels: Any) -> bytes:
    picture = to_bytes(pixels) if pixels.dtype == np.uint16 else pixels
    return encoded_png(picture)
