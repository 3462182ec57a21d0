"""How large a GIF would be, one way and another: measured with some of its pictures."""

import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from vexel.core.recipes.gif_options import GifOption, gif_options
from vexel.core.recipes.recipe import Quality, Recipe
from vexel.core.time.rate import Rate
from vexel.output.compiling.batch import write_batch
from vexel.output.footage.footage import Footage
from vexel.output.job.job import jobs_of

SAMPLE = 12
"""Pictures that follow each other, at each of three places."""
SURE = 0.93
"""Of a budget, what an estimate may take: pictures elsewhere differ more."""


@dataclass(frozen=True)
class GifRow:
    """A way to make a GIF, and the bytes that it would have."""

    option: GifOption
    pictures: int
    bytes: int


def gif_table(
    footage: Footage,
    recipe: Recipe,
    on_progress: Callable[[int, int], None] = lambda done, of: None,
    options: list[GifOption] | None = None,
    keep: Callable[[GifOption], bool] = lambda option: True,
) -> list[GifRow]:
    """Measure all ways, the best looking first; many in one reading of the frames.

    The first picture of a GIF is whole, the others hold what has changed. So both are measured apart, and
    the second kind counts for all that follow.

    Parameters
    ----------
    options : list of GifOption, optional
        Those to be measured; all by default.
    keep : callable
        Which of them.
    """
    (whole,) = jobs_of(footage, [(recipe.model_copy(update={"quality": Quality()}), Path("a.gif"))])
    options = options or gif_options(whole.width, whole.height, whole.timeline.rate)
    options = [option for option in options if keep(option)]
    shown = [position for position, _ in whole.timeline.picks]
    stretches = _stretches(len(shown))
    heads, following = dict.fromkeys(options, 0.0), dict.fromkeys(options, 0.0)
    for done, (begin, end) in enumerate(stretches):
        for option, (head, each) in _sizes(footage.part(shown[begin:end]), recipe, options).items():
            heads[option] += head / len(stretches)
            following[option] += each / len(stretches)
        on_progress(done + 1, len(stretches))
    rows = []
    for option in options:
        rate = Rate.parse(option.rate) if option.rate else whole.timeline.rate
        pictures = max(round(whole.timeline.count * rate.fps / whole.timeline.rate.fps), 1)
        rows.append(GifRow(option, pictures, round(heads[option] + following[option] * (pictures - 1))))
    return rows


def _stretches(count: int) -> list[tuple[int, int]]:
    if count <= 3 * SAMPLE:
        return [(0, count)]
    return [(begin, begin + SAMPLE) for begin in (0, (count - SAMPLE) // 2, count - SAMPLE)]


def _sizes(part: Footage, recipe: Recipe, options: list[GifOption]) -> dict[GifOption, tuple[float, float]]:
    """Bytes of the first picture and of each that follows, each way."""
    plain = recipe.model_copy(update={"timing": recipe.timing.model_copy(update={"frames": ""})})
    with tempfile.TemporaryDirectory() as folder:

        def written(footage: Footage, name: str) -> list[tuple[int, int]]:
            orders = [(option.applied(plain), Path(folder) / f"{name}{n}.gif") for n, option in enumerate(options)]
            jobs = jobs_of(footage, orders)
            write_batch(jobs)
            return [(job.file.stat().st_size, job.timeline.count) for job in jobs]

        found = {}
        firsts, wholes = written(part.part([0]), "first"), written(part, "whole")
        for option, (head, _), (size, count) in zip(options, firsts, wholes, strict=True):
            found[option] = (float(head), (size - head) / max(count - 1, 1))
        return found


def within_budget(footage: Footage, recipe: Recipe, most: int) -> list[Recipe]:
    """The recipe made in the ways that should fit, the best looking first; the smallest where none should.

    The first is one that looks better than the best that should fit: it fits where the estimate was too high.
    """
    options, row = best_within(footage, recipe, most)
    return [option.applied(recipe) for option in options[max(options.index(row.option) - 1, 0) :]]


def best_within(footage: Footage, recipe: Recipe, most: int) -> tuple[list[GifOption], GifRow]:
    """All ways to make a GIF, and the best looking one that should fit, or else the smallest.

    They are ordered by looks, and so about by size: halving finds it without measuring all.
    """
    (whole,) = jobs_of(footage, [(recipe.model_copy(update={"quality": Quality()}), Path("a.gif"))])
    options = gif_options(whole.width, whole.height, whole.timeline.rate)
    measured: dict[int, GifRow] = {}

    def row_of(number: int) -> GifRow:
        if number not in measured:
            (measured[number],) = gif_table(footage, recipe, options=[options[number]])
        return measured[number]

    low, high = 0, len(options) - 1
    while low < high:
        middle = (low + high) // 2
        low, high = (low, middle) if row_of(middle).bytes <= most * SURE else (middle + 1, high)
    return options, row_of(low)
