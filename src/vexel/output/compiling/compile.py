"""Compiles footage to files, and proves each by a receipt."""

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from vexel.core.errors import VexelError
from vexel.core.recipes.recipe import Recipe
from vexel.output.compiling.batch import write_batch
from vexel.output.compiling.gif_budget import GifBudget, most_bytes
from vexel.output.footage.footage import Footage
from vexel.output.job.job import jobs_of
from vexel.output.job.memory import memory_reused
from vexel.output.job.receipt import Receipt
from vexel.output.proving.prove import receipt_of


@dataclass(frozen=True)
class Compiled:
    """A file's receipt, or why there is none."""

    file: Path
    recipe: Recipe
    receipt: Receipt | None
    error: VexelError | None = None


@memory_reused()
def compile_batch(
    footage: Footage,
    orders: Sequence[tuple[Recipe, Path]],
    on_progress: Callable[[int, int, int], None] = lambda order, done, of: None,
    stopped: Callable[[int], bool] = lambda order: False,
    *,
    replace: bool = False,
) -> list[Compiled]:
    """Compile to several files, of frames that are read once; each appears whole, or not at all.

    Parameters
    ----------
    on_progress : callable
        Called with the number of an order, its steps done and its steps in all.
    stopped : callable
        Asked after each step of an order whether to end it.
    replace : bool
        Whether existing files are replaced.

    Raises
    ------
    DamagedFrame
        When a frame is no longer what was made; it is set aside.
    Mistake, Failure
        When frames are missing or cannot be read, or a recipe cannot take them.
    """
    jobs, made = jobs_of(footage, orders), []
    budgets = {n: GifBudget.of(job) for n, job in enumerate(jobs) if job.recipe.codec == "gif" and most_bytes(job)}
    jobs = [budgets[n].first() if n in budgets else job for n, job in enumerate(jobs)]
    made = write_batch(jobs, on_progress, stopped, replace=replace)
    for n, budget in budgets.items():
        made[n] = budget.kept_to(made[n], partial(on_progress, n), partial(stopped, n))
    # Decoders and pictures that are read again leave the interpreter free for each other.
    with ThreadPoolExecutor(2) as provers:
        proofs = [
            provers.submit(receipt_of, one.job, one.notes, one.checks) if one.error is None else None for one in made
        ]
        return [
            Compiled(one.job.file, one.job.recipe, proof.result() if proof else None, one.error)
            for one, proof in zip(made, proofs, strict=True)
        ]


def compile_footage(
    footage: Footage,
    file: Path,
    recipe: Recipe,
    on_progress: Callable[[int, int], None] = lambda done, of: None,
    stopped: Callable[[], bool] = lambda: False,
    *,
    replace: bool = False,
) -> Receipt:
    """Compile to one file; it appears whole, or not at all.

    Raises
    ------
    DamagedFrame, Mistake, Failure, Stopped
        See `compile_batch`.
    """
    (made,) = compile_batch(
        footage, [(recipe, file)], lambda _, done, of: on_progress(done, of), lambda _: stopped(), replace=replace
    )
    if made.error is not None:
        raise made.error
    assert made.receipt is not None
    return made.receipt
