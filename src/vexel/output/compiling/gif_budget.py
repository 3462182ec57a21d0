"""A GIF with an upper bound in bytes: find the best looking settings that fit, then the largest size."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from math import sqrt
from pathlib import Path

from vexel.core.recipes.byte_size import said_bytes
from vexel.core.recipes.gif_options import GifOption, worse_by
from vexel.core.recipes.recipe import Quality, Recipe
from vexel.disk.write import part_of, publish
from vexel.output.compiling.batch import Made, write_batch
from vexel.output.compiling.gif_table import best_within, within_budget
from vexel.output.footage.footage import Footage
from vexel.output.job.job import Job, jobs_of
from vexel.output.writers.search import TooLarge

NEAR = 0.97
"""Of the budget, what a file is to have at least, where it could have more."""
AIM = 0.985
TRIES = 6
"""Of coming nearer to the budget."""
Progress = Callable[[int, int], None]


def most_bytes(job: Job) -> int | None:
    """Bytes that a job's file may have."""
    return job.recipe.quality.most_bytes


@dataclass
class GifBudget:
    """The ways to make it that should fit, the best looking first."""

    job: Job
    most: int
    left: list[Recipe]
    over: tuple[int, Recipe] | None = None
    """What was tried to come nearer and was too large, with its bytes."""

    @classmethod
    def of(cls, job: Job) -> "GifBudget":
        """Measure which ways should fit."""
        most = most_bytes(job) or 0
        return cls(job, most, within_budget(job.footage, job.recipe, most))

    def first(self) -> Job:
        """The job made in the best way that should fit."""
        return self._job(self.left.pop(0))

    def kept_to(self, made: Made, on_progress: Progress, stopped: Callable[[], bool]) -> Made:
        """The file, made in other ways until it fits and is near; refused where the smallest does not fit."""

        def written(job: Job) -> Made:
            # The file that is replaced is this job's first try.
            (made,) = write_batch([job], lambda _, done, of: on_progress(done, of), lambda _: stopped(), replace=True)
            return made

        while made.error is None and self._size() > self.most:
            if not self.left:
                made.error = TooLarge.of(made.job, self.most, self._size())
                self.job.file.unlink()
                return made
            made = written(self.first())
        if made.error is None:
            made = self._nearer(made, written)
        if made.error is None:
            rate = made.job.timeline.rate.label
            way = f"{made.job.width} × {made.job.height}, {made.job.recipe.palette.colours} colours, {rate}"
            made.notes.append(f"{said_bytes(self._size())} of at most {said_bytes(self.most)}, by {way}")
            made.notes.extend(self._why_not_nearer(made.job.recipe))
        return made

    def _why_not_nearer(self, recipe: Recipe) -> list[str]:
        """Notes for a file that is much smaller than allowed."""
        if self._size() >= NEAR * self.most:
            return []
        if self.over is None:
            whole = self._next(recipe) is None
            return ["nothing had to be made smaller for that size" if whole else f"after {TRIES} tries; more may fit"]
        size, more = self.over
        return [f"nothing nearer to that size was found: with {_step(recipe, more)} it has {said_bytes(size)}"]

    def _nearer(self, made: Made, written: Callable[[Job], Made]) -> Made:
        """The same way with more pixels, more colours, dithered or at the whole rate, as long as it fits."""
        for _ in range(TRIES):
            if self._size() >= NEAR * self.most:
                break
            recipe = self._next(made.job.recipe)
            if recipe is None:
                break
            job = self._job(recipe)
            attempt = written(replace(job, file=part_of(job.file)))
            if attempt.error is not None:
                return replace(attempt, job=job)
            if attempt.job.file.stat().st_size > self.most:
                self.over = attempt.job.file.stat().st_size, recipe
                attempt.job.file.unlink()
            else:
                publish(attempt.job.file, self.job.file)
                made = replace(attempt, job=job)
        return made

    def _next(self, recipe: Recipe) -> Recipe | None:
        """The settings to try after some that fit; None where nothing looks better and may fit."""
        whole, asked = max(self.job.width, self.job.height), self.job.recipe
        if self.over is None:
            return _raised(recipe, asked, AIM * self.most / self._size(), whole)
        size, over = self.over
        if _kind(over) == _kind(recipe):
            return _half_way(recipe, over, whole)
        side = round((over.size.long_side or whole) * sqrt(AIM * self.most / size))
        smaller = _of_side(over, side)
        better = worse_by(_option(smaller, asked, whole), whole) < worse_by(_option(recipe, asked, whole), whole)
        return smaller if better else None

    def _size(self) -> int:
        return self.job.file.stat().st_size

    def _job(self, recipe: Recipe) -> Job:
        kept = recipe.model_copy(update={"quality": self.job.recipe.quality})
        (job,) = jobs_of(self.job.footage, [(kept, self.job.file)])
        return job


def expected_within(footage: Footage, recipe: Recipe, most: int) -> tuple[Recipe, int]:
    """The recipe as a limit is expected to make it, and the bytes that it should have; the smallest where none fits.

    Of the ways in the table the best looking one that should fit, raised once as the search itself begins.
    """
    _, row = best_within(footage, recipe, most)
    found = row.option.applied(recipe)
    (whole,) = jobs_of(footage, [(recipe.model_copy(update={"quality": Quality()}), Path("a.gif"))])
    longest = max(whole.width, whole.height)
    raised = _raised(found, recipe, AIM * most / row.bytes, longest) if row.bytes < AIM * most else None
    if raised is None:
        return found, row.bytes
    share = (raised.size.long_side or longest) / (found.size.long_side or longest)
    return raised, round(row.bytes * share**2)


def _raised(recipe: Recipe, asked: Recipe, share: float, whole: int) -> Recipe | None:
    """The recipe for a file of about `share` of the bytes; None where nothing is left to be raised.

    What was made smaller of what was `asked` for is given back: size first, then colours, dither and rate.
    """
    side, colours = recipe.size.long_side or whole, recipe.palette.colours
    if side < whole:
        wanted = min(round(side * sqrt(share)), whole)
        return _of_side(recipe, wanted) if wanted > side else None
    if colours < asked.palette.colours:
        wanted = min(round(colours * share**2), asked.palette.colours)
        return _with_palette(recipe, colours=wanted) if wanted > colours else None
    if recipe.palette.dither != asked.palette.dither:
        return _with_palette(recipe, dither=asked.palette.dither)
    if recipe.timing.rate != asked.timing.rate:
        timing = recipe.timing.model_copy(update={"rate": asked.timing.rate})
        return recipe.model_copy(update={"timing": timing})
    return None


def _half_way(recipe: Recipe, over: Recipe, whole: int) -> Recipe | None:
    """Between a way that fits and one that is too large, by which they differ."""
    side, more = recipe.size.long_side or whole, over.size.long_side or whole
    if more > side:
        return _of_side(recipe, (side + more) // 2) if more - side > 1 else None
    colours, most = recipe.palette.colours, over.palette.colours
    return _with_palette(recipe, colours=(colours + most) // 2) if most - colours > 1 else None


def _kind(recipe: Recipe) -> tuple[str, str]:
    """What can only be had or not."""
    return recipe.palette.dither, recipe.timing.rate


def _option(recipe: Recipe, asked: Recipe, whole: int) -> GifOption:
    slower = recipe.timing.rate if recipe.timing.rate != asked.timing.rate else ""
    coarser = recipe.palette.dither != asked.palette.dither
    side = recipe.size.long_side or whole
    return GifOption(side, recipe.palette.colours, slower, "none" if coarser else "diffuse")


def _of_side(recipe: Recipe, side: int) -> Recipe:
    return recipe.model_copy(update={"size": recipe.size.model_copy(update={"long_side": side})})


def _with_palette(recipe: Recipe, **changed: object) -> Recipe:
    return recipe.model_copy(update={"palette": recipe.palette.model_copy(update=changed)})


def _step(recipe: Recipe, more: Recipe) -> str:
    """What a larger recipe has more of."""
    if more.timing.rate != recipe.timing.rate:
        return "the whole rate"
    if more.palette.dither != recipe.palette.dither:
        return f"dither {more.palette.dither}"
    if more.palette.colours != recipe.palette.colours:
        return f"{more.palette.colours} colours"
    return f"{more.size.long_side} px"
