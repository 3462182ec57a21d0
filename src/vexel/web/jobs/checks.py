"""Checks of runs: every byte of their frames is read, which takes a while."""

from collections.abc import Sequence

from vexel.store.check import check_run
from vexel.store.project import Project
from vexel.web.jobs.endings import check_ending
from vexel.web.jobs.job import Ending, Job, JobKey
from vexel.web.jobs.jobs import Jobs


class Checks:
    """Orders checks and carries them out."""

    def __init__(self, project: Project, jobs: Jobs) -> None:
        self._project, self._jobs = project, jobs

    def begin(self, run_id: int) -> None:
        """Check a run, unless a check is already queued or running."""
        with self._jobs.using(JobKey("run", run_id)):
            self._project.ledger.run(run_id)
            self._jobs.order("checks", [Job(JobKey("check", run_id))], self._carry_out)

    def newest(self, run_id: int) -> Job | None:
        """The newest check of a run since the server was started; none of one that was stopped."""
        job = self._jobs.find(JobKey("check", run_id))
        return job if job is not None and job.state != "stopped" else None

    def _carry_out(self, jobs: Sequence[Job]) -> list[Ending | Exception]:
        (job,) = jobs

        def on_progress(done: int, count: int) -> None:
            job.stop.check()
            self._jobs.steps(job, done, count)

        return [check_ending(check_run(self._project, int(job.key.name), True, on_progress))]
