"""Proves chapters and subtitles: every text at its time."""

from collections.abc import Sequence
from fractions import Fraction

from vexel.core.recipes.byte_size import said_bytes
from vexel.core.recipes.cue import Cue, read_webvtt, without_empty_lines
from vexel.core.wording import counted
from vexel.output.job.job import Job
from vexel.output.job.receipt import Check, Receipt

_GRAIN = Fraction(1, 1000)
"""Seconds to which files round the times of chapters."""
Timed = tuple[str, Fraction, Fraction]
"""A text with its begin and end in seconds."""


def cues_check(what: str, planned: Sequence[Cue], found: Sequence[Timed], fps: Fraction) -> Check:
    """Hold what a file says at which time against the plan."""
    wrong = [
        cue.text
        for cue, (text, begin, end) in zip(planned, found, strict=False)
        if text not in (cue.text, without_empty_lines(cue.text))
        or max(abs(begin - cue.begin / fps), abs(end - cue.end / fps)) > _GRAIN
    ]
    said = f"{len(found):,}" + (f", of which {wrong[0]!r} is at another time" if wrong else "")
    return Check(what, f"{len(planned):,}", said, len(planned) == len(found) and not wrong)


def receipt_of_cues(job: Job, notes: list[str]) -> Receipt:
    """Read a file of chapters or subtitles back."""
    what = "subtitles" if job.recipe.codec == "labels" else "chapters"
    size = job.file.stat().st_size
    try:
        found = list(read_webvtt(job.file.read_text("utf-8")))
    except ValueError:
        unread = Check("whole", "can be read", "damaged or cut short", False)
        return Receipt(str(job.file), job.recipe.name, size, (unread,), tuple(notes))
    checks = (cues_check(what, job.cues, found, job.timeline.rate.fps), Check("bytes", "", said_bytes(size), True))
    left = len(job.footage.chapters if what == "chapters" else job.footage.subtitles) * job.timeline.repeats
    if left > len(found):
        notes = [*notes, f"{counted(left - len(found), 'text')} outside the frames that were asked for"]
    if what == "subtitles":
        unsaid = "is left out: the values that it shows are known while capturing only"
        notes = [*notes, *(f"the label {text!r} {unsaid}" for text in job.footage.unsaid)]
    return Receipt(str(job.file), job.recipe.name, size, checks, tuple(notes))
