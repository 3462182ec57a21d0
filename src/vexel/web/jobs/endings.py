"""How jobs ended, as sentences: all of them are made here."""

import logging
from pathlib import Path

from vexel.core.errors import Stopped, VexelError
from vexel.core.wording import counted
from vexel.disk.disk_errors import disk_trouble
from vexel.output.reading.picture_file import DamagedFrame
from vexel.store.check import Checked
from vexel.web.jobs.job import Ending, Job, JobKind, State
from vexel.workers.bounded_process import ProcessEnded
from vexel.workers.run import Outcome

BUSY: dict[JobKind, str] = {
    "run": "run {} is queued or running: stop it first",
    "file": "a file of run {} is being made: stop it first",
    "check": "run {} is being checked: wait until that is done",
}
"""Why something cannot be removed, by the kind of job that works on it."""
REMOVED = "{} {} is being removed: capture the shot again"
_STOPPED: dict[JobKind, str] = {"file": "Compiling was stopped; no file was left."}
_BROKEN: dict[JobKind, tuple[State, str]] = {"run": ("stopped", " Resume it to continue.")}
"""State after an internal error, and how to continue, of kinds that can continue."""
log = logging.getLogger("vexel")


def called_off(job: Job) -> Ending:
    """Of a job that was stopped before it began, or in the middle of its work."""
    return Ending("stopped", _STOPPED.get(job.key.kind, ""))


def ending_of(job: Job, error: Exception, home: Path) -> Ending:
    """Of a job that raised an error.

    Parameters
    ----------
    home : Path
        The project's folder.
    """
    if isinstance(error, Stopped) and str(error):
        return Ending("stopped", str(error))
    # An error after the stop comes from cutting the work short.
    if job.stop.asked or isinstance(error, Stopped | ProcessEnded):
        return called_off(job)
    if isinstance(error, DamagedFrame):
        cure = f"Resume run {job.of.name}" if job.of else "Resume the run of that take"
        return Ending("failed", f"{error}. {cure}, then compile again.")
    if isinstance(error, VexelError):
        return Ending("failed", str(error), {"fits": error.fits} if error.fits else {})
    log.error("%s %s failed", *job.key, exc_info=error)
    state, cure = _BROKEN.get(job.key.kind, ("failed", ""))
    trouble = disk_trouble(error, home) or f"Internal error ({type(error).__name__}: {error})."
    return Ending(state, trouble + cure)


def run_ending(outcome: Outcome) -> Ending:
    """Of a run whose frames were made, as far as they could be."""
    sentences = []
    if outcome.damaged:
        sentences.append(f"{counted(outcome.damaged, 'frame was', 'frames were')} damaged, set aside, and made again.")
    if outcome.halt:
        sentences.append(outcome.halt)
    elif outcome.failed and not outcome.waiting:
        sentences.append(
            f"{counted(outcome.failed, 'frame')} failed. Fix the source and capture again, or resume to retry."
        )
    state: State = "stopped" if outcome.halt or outcome.waiting else "failed" if outcome.failed else "done"
    return Ending(state, " ".join(sentences))


def check_ending(found: Checked) -> Ending:
    """Of a check that looked at all."""
    if found.whole:
        return Ending(
            "done", f"{counted(found.frames, 'frame')} and all files checked: unchanged since they were made."
        )
    sentences = []
    if found.damaged:
        sentences.append(f"{len(found.damaged):,} of {counted(found.frames, 'frame')} damaged and set aside.")
    if found.missing:
        sentences.append(f"{found.missing:,} of {counted(found.frames, 'frame')} missing.")
    if found.damaged or found.missing:
        sentences.append("Resume the run to make them again.")
    return Ending("failed", " ".join([*sentences, *(f"{file}." for file in found.files)]))
