"""A GIF that is to have at most so many bytes: the best looking way that fits, then as large as it may be."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from math import sqrt

from vexel.core.recipes.byte_size import said_bytes
from vexel.core.recipes.recipe import Recipe
from vexel.output.batch import Made, write_batch
from vexel.output.gif_table import within_budget
from vexel.output.job import Job, jobs_of
from vexel.output.writers.search import TooLarge
from vexel.store.disk.write import part_of

NEAR = 0.97
"""Of the budget, what a file is to have at least, where it could have more."""
AIM = 0.985
TRIES = 4
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
            (anew,) = write_batch([job], lambda _, done, of: on_progress(done, of), lambda _: stopped())
            return anew

        while made.error is None and self._size() > self.most:
            if not self.left:
                made.error = TooLarge(made.job, self.most, self._size())
                self.job.file.unlink()
                return made
            made = written(self.first())
        if made.error is None:
            made = self._nearer(made, written)
        if made.error is None:
            rate = made.job.timeline.rate.label
            way = f"{made.job.width} × {made.job.height}, {made.job.recipe.palette.colours} colours, {rate}"
            made.notes.append(f"{said_bytes(self._size())} of at most {said_bytes(self.most)}, by {way}")
        return made

    def _nearer(self, made: Made, written: Callable[[Job], Made]) -> Made:
        """The same way with more pixels or colours, as long as it fits."""
        over: Recipe | None = None
        for _ in range(TRIES):
            if self._size() >= NEAR * self.most:
                break
            recipe = _larger(made.job.recipe, self._share(), self._whole_side(), over)
            if recipe is None:
                break
            job = self._job(recipe)
            anew = written(replace(job, file=part_of(job.file)))
            if anew.error is not None:
                return replace(anew, job=job)
            if anew.job.file.stat().st_size > self.most:
                over = recipe
                anew.job.file.unlink()
            else:
                anew.job.file.rename(self.job.file)
                made = replace(anew, job=job)
        return made

    def _share(self) -> float:
        return AIM * self.most / self._size()

    def _whole_side(self) -> int:
        """The long side without a budget."""
        return max(self.job.width, self.job.height)

    def _size(self) -> int:
        return self.job.file.stat().st_size

    def _job(self, recipe: Recipe) -> Job:
        kept = recipe.model_copy(update={"quality": self.job.recipe.quality})
        (job,) = jobs_of(self.job.footage, [(kept, self.job.file)])
        return job


def _larger(recipe: Recipe, share: float, whole: int, over: Recipe | None) -> Recipe | None:
    """The recipe for a file of about `share` of the bytes, of more pixels, or of more colours; None where it has all.

    What was too large already (`over`) is not reached again: half way to it.
    """
    side = recipe.size.long_side or whole
    if side < whole:
        most = (over.size.long_side or whole) if over else None
        wanted = min(round(side * sqrt(share)), whole) if most is None else (side + most) // 2
        size = recipe.size.model_copy(update={"long_side": wanted})
        return recipe.model_copy(update={"size": size}) if wanted > side else None
    colours = recipe.palette.colours
    if colours < 256:
        wanted = min(round(colours * share**2), 256) if over is None else (colours + over.palette.colours) // 2
        palette = recipe.palette.model_copy(update={"colours": wanted})
        return recipe.model_copy(update={"palette": palette}) if wanted > colours else None
    return None
