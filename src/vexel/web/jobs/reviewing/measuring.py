"""Figures of reviewed frames: measured in the background once, and kept by the frames' content."""

import logging
import threading
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from cachetools import LRUCache

from vexel.core.errors import Failure, Mistake, VexelError
from vexel.core.review.figures import Measured
from vexel.core.review.findings import Seen, seen_in
from vexel.core.review.kept import is_there, measured_of, names_at, values_at
from vexel.output.reading.picture_file import DamagedFrame
from vexel.output.reviewing.measure import STRETCH, looked_closer
from vexel.store.project import Project
from vexel.store.takes import shot_of
from vexel.web.jobs.job import Ending, Job, JobKey
from vexel.web.jobs.jobs import Jobs
from vexel.web.jobs.media_pool import MediaPool
from vexel.web.jobs.media_process import MediaProcess
from vexel.web.jobs.reviewing.subjects import Subject, Subjects

log = logging.getLogger("vexel")
KEPT = 8
"""Figures of subjects that are kept: those of 20,000 frames take four seconds to put together."""
AT_ONCE = 2 * STRETCH
"""Frames of one question: a process measures two stretches side by side."""


@dataclass(frozen=True)
class Reviewed:
    """Figures of all frames of a subject, and what is found from them."""

    measured: Measured
    seen: list[Seen]


class Measuring:
    """Orders figures, and gives those that are kept."""

    def __init__(self, project: Project, jobs: Jobs, media: MediaPool, subjects: Subjects) -> None:
        self._project, self._jobs, self._media, self._subjects = project, jobs, media, subjects
        self._reviewed: LRUCache[tuple[str, bool, tuple[str, ...]], Reviewed] = LRUCache(KEPT)
        self._turn = threading.Lock()

    def begin(self, subject: Subject) -> None:
        """Measure what has not been measured, unless that is already queued or running.

        Raises
        ------
        Mistake
            When its frames hold numbers and no light, or its first ones are missing.
        """
        if subject.is_data:
            raise Mistake(f"the pass {subject.camera_passes[subject.camera_pass]} holds numbers and no light")
        if subject.first:
            raise Mistake(f"frames 0 to {subject.first - 1} are missing: resume the run first")
        self._jobs.order("figures", [Job(_key(subject))], self._carry_out)

    def begin_take(self, run_id: int) -> None:
        """Measure the first camera's first pass of a take.

        Drafts and variants are measured when they are reviewed; passes that hold numbers never are.
        """
        try:
            run = self._project.ledger.run(run_id)
            if not run.draft and not run.variant:
                self.begin(self._subjects.find("take", str(run_id)))
        except VexelError as error:
            # Figures are optional for a take, and its review gives the reason.
            log.info("take %d is not measured: %s", run_id, error)

    def newest(self, subject: Subject) -> Job | None:
        """The newest measuring of a subject since the server was started."""
        return self._jobs.find(_key(subject))

    def stop(self, subject: Subject) -> None:
        """Stop measuring; what was measured is kept."""
        self._jobs.stop(_key(subject))

    def forget_take(self, run_id: int) -> None:
        """Stop measuring a take that is removed."""
        for camera_pass in range(len(shot_of(self._project.ledger.run(run_id)).camera_passes)):
            self._jobs.forget(JobKey("figures", f"take:{run_id}:{camera_pass}"))

    def reviewed(self, subject: Subject) -> Reviewed | None:
        """Figures and findings of a subject; None while some are not measured."""
        key = subject.id, subject.closes, subject.keys
        with self._turn:
            known = self._reviewed.get(key)
        if known is not None:
            return known
        chosen = looked_closer(subject.count)
        kept = self._kept(subject, chosen)
        try:
            measured = measured_of(kept, subject.keys, chosen)
        except (KeyError, TypeError, IndexError):
            return None
        equal = [at > 0 and subject.keys[at] == subject.keys[at - 1] for at in range(subject.count)]
        seen = seen_in(measured, loops=subject.closes, planned_equal=equal, is_light=subject.is_light)
        found = Reviewed(measured, seen)
        with self._turn:
            self._reviewed[key] = found
        return found

    def _kept(self, subject: Subject, chosen: Sequence[int]) -> dict[str, Any]:
        names = (name for at in range(subject.count) for name in names_at(subject.keys, at, at in chosen))
        return self._project.figures.get(names)

    def _carry_out(self, jobs: Sequence[Job]) -> list[Ending | Exception]:
        (job,) = jobs
        kind, name, camera_pass = str(job.key.name).rsplit(":", 2)
        subject = self._subjects.find(kind, name, int(camera_pass))
        chosen = looked_closer(subject.count)
        kept = self._kept(subject, chosen)
        left = [at for at in range(subject.count) if not is_there(kept, subject.keys, at, at in chosen)]
        if not left:
            return [Ending("done")]
        with self._media.apart() as process, job.stop.cutting(process.cut):
            done = subject.count - len(left)
            for stretch in _stretches(left):
                job.stop.check()
                try:
                    self._measure(process, subject, stretch, chosen, kept)
                except DamagedFrame as error:
                    raise Failure(f"{error.file.name} is damaged: resume the run to make it again") from None
                done += len(stretch)
                self._jobs.steps(job, done, subject.count)
        return [Ending("done")]

    def _measure(
        self, process: MediaProcess, subject: Subject, stretch: range, chosen: Sequence[int], kept: dict[str, Any]
    ) -> None:
        found = self._subjects.figures(process, subject, stretch.start, stretch.stop, chosen)
        new: dict[str, Any] = {}
        for place, at in enumerate(stretch):
            figures, step, skip = found.frames[place], found.steps[place], found.skips[place]
            for name, value in values_at(subject.keys, at, figures, step, skip, found.closer.get(at)).items():
                # A mean alone does not replace all figures of the same two frames.
                if len(value) >= len(new.get(name, kept.get(name, ()))):
                    new[name] = value
        kept |= new
        self._project.figures.put(new)


def _key(subject: Subject) -> JobKey:
    return JobKey("figures", f"{subject.id}:{subject.camera_pass}")


def _stretches(positions: Sequence[int]) -> list[range]:
    """Positions in ascending order as ranges of at most `AT_ONCE`."""
    begins = [0, *(n for n, (one, other) in enumerate(pairwise(positions), 1) if other != one + 1), len(positions)]
    found = []
    for begin, end in pairwise(begins):
        whole = range(positions[begin], positions[end - 1] + 1)
        found += [whole[at : at + AT_ONCE] for at in range(0, len(whole), AT_ONCE)]
    return found
