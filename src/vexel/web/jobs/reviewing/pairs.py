"""Two subjects that are compared: which of their frames go together, and how far apart all of them are."""

from collections.abc import Sequence
from dataclasses import astuple, dataclass
from fractions import Fraction
from typing import Literal

from vexel.core.review.between import seen_between
from vexel.core.review.figures import Step
from vexel.core.review.findings import Seen
from vexel.core.review.kept import step_name
from vexel.store.project import Project
from vexel.web.jobs.job import Ending, Job, JobKey
from vexel.web.jobs.jobs import Jobs
from vexel.web.jobs.media_pool import MediaPool
from vexel.web.jobs.reviewing.measuring import Measuring
from vexel.web.jobs.reviewing.subjects import Subject, Subjects

AT_ONCE = 24
"""Pairs of one question."""
By = Literal["frame", "time"]


@dataclass(frozen=True)
class Pair:
    """Two subjects with their frames matched.

    Attributes
    ----------
    one, other : Subject
    by : str
        Whether frames of the same number go together, or of the same time.
    offset : int
        Frames by which the second one is ahead.
    """

    one: Subject
    other: Subject
    by: By = "frame"
    offset: int = 0

    @property
    def frames(self) -> list[tuple[int, int]]:
        """Frames that go together: those of the first one that have one of the second one."""
        ratio = self.other.rate / self.one.rate if self.by == "time" else Fraction(1)
        found = ((at, int(at * ratio) + self.offset) for at in range(self.one.count))
        return [(at, other) for at, other in found if 0 <= other < self.other.count]

    @property
    def name(self) -> str:
        """Identifies it in the project."""
        sides = (f"{one.id}:{one.camera_pass}" for one in (self.one, self.other))
        return "|".join([*sides, self.by, str(self.offset)])


class Pairs:
    """Measures how far the frames of two subjects are apart, and keeps it by the frames' content."""

    def __init__(
        self, project: Project, jobs: Jobs, media: MediaPool, subjects: Subjects, measuring: Measuring
    ) -> None:
        self._project, self._jobs, self._media = project, jobs, media
        self._subjects, self._measuring = subjects, measuring

    def begin(self, pair: Pair) -> None:
        """Measure what has not been measured, unless that is already queued or running."""
        self._jobs.order("figures", [Job(JobKey("figures", pair.name))], lambda jobs: self._carry_out(jobs, pair))

    def newest(self, pair: Pair) -> Job | None:
        """The newest measuring of a pair since the server was started."""
        return self._jobs.find(JobKey("figures", pair.name))

    def apart(self, pair: Pair) -> list[Step] | None:
        """How far each two frames are apart; None while some are not measured."""
        frames = pair.frames
        names = [step_name(pair.one.keys[at], pair.other.keys[other]) for at, other in frames]
        kept = self._project.figures.get(names)
        steps = [Step(*kept[name]) for name in names if len(kept.get(name, ())) == 3]
        return steps if len(steps) == len(names) else None

    def seen(self, pair: Pair) -> list[Seen]:
        """What is found from the figures of both, where both are measured."""
        one, other = self._measuring.reviewed(pair.one), self._measuring.reviewed(pair.other)
        if one is None or other is None:
            return []
        return seen_between(one.measured, other.measured, pair.frames)

    def _carry_out(self, jobs: Sequence[Job], pair: Pair) -> list[Ending | Exception]:
        (job,) = jobs
        frames = pair.frames
        names = {pairs: step_name(pair.one.keys[pairs[0]], pair.other.keys[pairs[1]]) for pairs in frames}
        kept = self._project.figures.get(names.values())
        left = [pairs for pairs in frames if len(kept.get(names[pairs], ())) != 3]
        done = len(frames) - len(left)
        with self._media.apart() as process, job.stop.cutting(process.cut):
            for begin in range(0, len(left), AT_ONCE):
                job.stop.check()
                part = left[begin : begin + AT_ONCE]
                steps = self._subjects.steps(process, pair.one, pair.other, part)
                self._project.figures.put(
                    {names[at]: list(astuple(step)) for at, step in zip(part, steps, strict=True)}
                )
                done += len(part)
                self._jobs.steps(job, done, len(frames))
        return [Ending("done")]
