"""Stretches of a file, made to foretell the size of the whole."""

import tempfile
from collections.abc import Sequence
from pathlib import Path

from vexel.core.forecast.foretold import FileProbe, Stretch
from vexel.core.recipes.recipe import Recipe
from vexel.core.recipes.retiming import timeline_of
from vexel.core.time.clock import Clock
from vexel.output.compiling.batch import write_batch
from vexel.output.footage.footage import Footage
from vexel.output.inspecting.trial import unsized
from vexel.output.job.job import Job, jobs_of
from vexel.output.proving.prove import bytes_of
from vexel.output.writers.codecs import key_distance

USUAL_KEY_DISTANCE = 250
"""Pictures between key frames where a recipe leaves that to the encoder: the default of x264 and x265."""
NO_FILE = ("handover", "chapters", "labels")
"""Codecs whose size does not follow from pictures."""

MOST_SETTLED = 1.25
"""Encoders do better with more pictures: what costs still more has changed in the midst of its stretch."""


def probe_file(footage: Footage, stretches: Sequence[range], recipe: Recipe, clock: Clock) -> FileProbe | None:
    """Make stretches of a file, and of each a file of its first picture alone and one of its first half.

    Of the longest one a short beginning is made too: encoders need some pictures until each costs what it does later.

    Parameters
    ----------
    footage : Footage
        Of the frames from the first one on; only those of the stretches are read.
    stretches : sequence of range
        Frames that follow one another.
    recipe : Recipe
        A size to keep to is left out, and kept with the result.
    clock : Clock
        Of the whole shot.

    Returns
    -------
    FileProbe or None
        None where the recipe makes no file of frames alone.

    Raises
    ------
    Mistake, Failure
        When the recipe cannot take these frames.
    """
    if recipe.codec in NO_FILE:
        return None
    whole = timeline_of(recipe, clock.frames, clock.playback, clock.repeats, clock.span == "loop")
    pictures = 1 if recipe.container == "still" else whole.count
    timing = recipe.timing.model_copy(update={"frames": "", "repeats": 1})
    plain = recipe.model_copy(update={"timing": timing, "quality": unsized(recipe)})
    shortest, longest = min(stretches, key=len), max(stretches, key=len)
    made = [_stretch(footage, stretch, plain) for stretch in stretches]
    settled = 1.0
    if len(longest) >= 2 * len(shortest) > 2:
        long, (short, _) = made[stretches.index(longest)][0], _stretch(footage, longest[: len(shortest)], plain)
        settled = min(long.each / short.each, MOST_SETTLED) if short.each > 0 and long.each > 0 else 1.0
    distance = key_distance(made[-1][1]) or USUAL_KEY_DISTANCE
    stands = tuple(stretch for stretch, _ in made)
    return FileProbe(stands, pictures, clock.frames, distance, recipe.quality.most_bytes or 0, settled)


def _stretch(footage: Footage, stretch: range, recipe: Recipe) -> tuple[Stretch, Job]:
    half = max(len(stretch) // 2, 1)
    (alone, _), (begun, first), (size, job) = (
        _made(footage.part(stretch[:count]), recipe) for count in (1, half, len(stretch))
    )
    counts = (1, 1) if recipe.container == "still" else (job.timeline.count, first.timeline.count)
    return Stretch(stretch.start, counts[0], alone, size, counts[1], begun), job


def _made(footage: Footage, recipe: Recipe) -> tuple[int, Job]:
    with tempfile.TemporaryDirectory() as folder:
        (job,) = jobs_of(footage, [(recipe, Path(folder) / f"stretch{recipe.suffix}")])
        (made,) = write_batch([job])
        if made.error is not None:
            raise made.error
        return bytes_of(made.job), made.job
