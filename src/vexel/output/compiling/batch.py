"""Compiles footage to several files at once: frames are read and decoded once for all of them."""

import errno
import os
import shutil
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import av

from vexel.core.errors import Failure, Mistake, Stopped, VexelError
from vexel.disk.write import make_folder, part_of, publish
from vexel.output.job.job import Job
from vexel.output.job.memory import KeptFrames
from vexel.output.job.pictures import Pixels, mixed_with
from vexel.output.job.receipt import Check
from vexel.output.writers.registry import WRITERS
from vexel.output.writers.writer import Writer

MADE_AHEAD = 8


@dataclass
class Made:
    """A file of a batch: the receipt's notes and further checks when it is there, or why it is not."""

    job: Job
    notes: list[str] = field(default_factory=list)
    checks: list[Check] = field(default_factory=list)
    error: VexelError | None = None


@dataclass
class _Going:
    """A job that is not finished."""

    number: int
    job: Job
    writer: Writer
    done: int = 0
    rounds: int = 1
    before: Pixels | None = None
    first: Pixels | None = None

    def due(self, position: int) -> list[int]:
        """Pictures of one playing that a frame makes, alone or as the second of a mix."""
        return self._of.get(position, [])

    def __post_init__(self) -> None:
        self._of: dict[int, list[int]] = {}
        self.mixes = any(mix for _, mix in self.job.timeline.picks)
        last = self.job.footage.count - 1
        picks = self.job.timeline.picks if self.writer.needs_pictures else ()
        for picture, (position, mix) in enumerate(picks):
            # A mix with the first frame, at a loop's end, is made when the last one is there.
            at = min(position + 1, last) if mix else position
            self._of.setdefault(at, []).append(picture)


def write_batch(
    jobs: Sequence[Job],
    on_progress: Callable[[int, int, int], None] = lambda job, done, of: None,
    stopped: Callable[[int], bool] = lambda job: False,
    *,
    replace: bool = False,
) -> list[Made]:
    """Write all files; each appears under its name when it is whole, or not at all.

    Parameters
    ----------
    jobs : sequence of Job
        All of the same footage.
    on_progress : callable
        Called with a job's number, its steps done and its steps in all.
    stopped : callable
        Asked for each job whether to end it.
    replace : bool
        Whether existing files are replaced.

    Raises
    ------
    DamagedFrame
        When a frame is no longer what was made; it is set aside.
    Failure
        When a frame is missing or cannot be read.
    """
    made = [Made(job) for job in jobs]
    going: list[_Going] = []
    try:
        for number, job in enumerate(jobs):
            _begin(number, job, made, going)
        kept = KeptFrames()
        while going:
            _round(going, made, kept, on_progress, stopped)
            for one in list(going):
                _end(one, made, going, replace)
    finally:
        for one in going:
            _drop(one)
    return made


def _begin(number: int, job: Job, made: list[Made], going: list[_Going]) -> None:
    try:
        make_folder(job.file.parent)
        if job.recipe.is_folder and job.file.exists():
            refuse_filled(job.file)
        going.append(_Going(number, job, WRITERS[job.recipe.form.name](job, part_of(job.file))))
    except (OSError, VexelError) as error:
        made[number].error = _reason(job, error)


def refuse_filled(folder: Path) -> None:
    """Refuse a folder that holds files, or is none: frames are never mixed with others.

    Raises
    ------
    Mistake
    """
    if not folder.is_dir():
        raise Mistake(f"{folder} is a file: name a folder for the frames")
    if any(folder.iterdir()):
        raise Mistake(f"{folder} already holds files: name a new folder, so that nothing is mixed")


def _round(going: list[_Going], made: list[Made], kept: KeptFrames, on_progress: Any, stopped: Any) -> None:
    """Give every frame once, or as often as the job that repeats most needs it, to all running jobs."""
    source = going[0].job.source
    deep = any(one.job.placement.deep for one in going)
    again = any(one.writer.may_repeat or one.job.timeline.repeats > 1 for one in going)
    for play in range(max(one.job.timeline.repeats for one in going)):
        playing = [one for one in going if one.job.timeline.repeats > play]
        wanted = sorted({position for one in playing for position in _needed(one)})

        def make(position: int, playing: list[_Going] = playing) -> list[Any]:
            pixels = kept.frame(position, lambda: source.picture(position, deep), again)
            return [_prepared(one, position, pixels) for one in list(playing)]

        for position, prepared in _ahead(wanted, make):
            for one, ready in zip(list(playing), prepared, strict=True):
                if one not in going or isinstance(ready, _Nothing):
                    continue
                try:
                    _take(one, position, ready, play)
                    if stopped(one.number):
                        raise Stopped("Compiling was stopped; no file was left.")
                except (OSError, av.FFmpegError, VexelError) as error:
                    made[one.number].error = _reason(one.job, error)
                    _drop(one)
                    going.remove(one)
                    continue
                on_progress(one.number, one.done, one.job.timeline.count * one.rounds)
            if not going:
                return


class _Nothing:
    """In place of a picture that a job does not want."""


def _needed(one: _Going) -> Iterator[int]:
    if not one.writer.needs_pictures:
        return
    last = one.job.footage.count - 1
    for position, mix in one.job.timeline.picks:
        yield position
        if mix:
            yield position + 1 if position < last else 0


def _prepared(one: _Going, position: int, pixels: Pixels) -> Any:
    if one.mixes:
        return one.job.placement.placed(pixels)
    if not one.due(position):
        return _Nothing()
    return one.writer.prepare(one.job.placement.placed(pixels))


def _take(one: _Going, position: int, ready: Any, play: int) -> None:
    """Give a writer the pictures that a frame makes."""
    count = len(one.job.timeline.picks)
    last = one.job.footage.count - 1
    if one.mixes and position == 0:
        one.first = ready
    for picture in one.due(position):
        prepared = ready
        if one.mixes:
            at, mix = one.job.timeline.picks[picture]
            pixels = ready
            if mix and at == last and one.first is not None:
                pixels = mixed_with(ready, one.first, mix)
            elif mix and one.before is not None:
                pixels = mixed_with(one.before, ready, mix)
            prepared = one.writer.prepare(pixels)
        one.writer.add(prepared, play * count + picture)
        one.done += 1
    one.before = ready if one.mixes else None


def _end(one: _Going, made: list[Made], going: list[_Going], replace: bool) -> None:
    try:
        if one.writer.end():
            one.rounds += 1
            return
        part = one.writer.part
        publish(part, one.job.file, replace=replace)
        made[one.number].notes, made[one.number].checks = one.writer.notes, one.writer.checks
        one.writer.close()
    except (OSError, av.FFmpegError, VexelError) as error:
        made[one.number].error = _reason(one.job, error)
        _drop(one)
    going.remove(one)


def _drop(one: _Going) -> None:
    with suppress(OSError, av.FFmpegError):
        one.writer.close()
    if one.writer.part.is_dir():
        shutil.rmtree(one.writer.part, ignore_errors=True)
    else:
        one.writer.part.unlink(missing_ok=True)


def _reason(job: Job, error: Exception) -> VexelError:
    if isinstance(error, VexelError):
        return error
    if isinstance(error, FileExistsError):
        return Failure(f"{job.file} was created in the meantime, and is not replaced: compile again under another name")
    number = getattr(error, "errno", None)
    full = number == errno.ENOSPC
    reason = "the disk is full: free some space" if full else f"{getattr(error, 'strerror', None) or error}"
    return Failure(f"{job.file} cannot be written: {reason}, then compile again")


def _ahead(positions: Sequence[int], make: Callable[[int], Any]) -> Iterator[tuple[int, Any]]:
    """What `make` makes of each position, in order, made ahead by threads."""
    # Reading and converting in threads took compiling from 0.94 of the encoder's own speed to all of it.
    with ThreadPoolExecutor(os.cpu_count() or 1) as makers:
        ahead: deque[tuple[int, Future[Any]]] = deque()
        try:
            for position in positions:
                ahead.append((position, makers.submit(make, position)))
                if len(ahead) > MADE_AHEAD:
                    first, future = ahead.popleft()
                    yield first, future.result()
            while ahead:
                first, future = ahead.popleft()
                yield first, future.result()
        finally:
            for _, future in ahead:
                future.cancel()
