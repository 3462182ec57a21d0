"""Runs: captures of shots, one after another."""

import json
from collections.abc import Callable, Sequence

from pydantic import BaseModel, ConfigDict, Field

from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.evaluate.source_facts import PlanInputs
from vexel.core.forecast.kept import foretold_document
from vexel.core.progress import Progress
from vexel.store.frame_states import READY
from vexel.store.project import Project
from vexel.store.settings import project_room
from vexel.store.tables import RunRow, now
from vexel.store.takes import Ledger, shot_of
from vexel.web.jobs.endings import run_ending
from vexel.web.jobs.frames.forecast import Forecast
from vexel.web.jobs.frames.frame_workers import FrameWorkers
from vexel.web.jobs.frames.on_end import OnEnd, RunNews
from vexel.web.jobs.job import Ending, Job, JobKey
from vexel.web.jobs.jobs import Jobs
from vexel.web.jobs.take_files import own_files, remove_files
from vexel.workers.bounds.limits import capture_limits
from vexel.workers.planner import Prepared
from vexel.workers.run import Run, RunOptions
from vexel.workers.stop import Stop


def run_key(run_id: int) -> JobKey:
    """The key of a run."""
    return JobKey("run", run_id)


class RunRecord:
    """Runs in the ledger."""

    def __init__(self, ledger: Ledger, on_end: OnEnd | None = None) -> None:
        self._ledger, self._on_end = ledger, on_end

    def under_way(self, job: Job) -> None:
        """See `Record`."""
        values = {"message": "", "ended": ""} if job.state == "queued" else {}
        self._ledger.set(int(job.key.name), state=job.state, **values)

    def ended(self, job: Job, ending: Ending) -> None:
        """See `Record`; the time of this sitting is added to that of earlier ones."""
        run_id = int(job.key.name)
        seconds = self._ledger.run(run_id).seconds + job.seconds
        self._ledger.end(run_id, state=ending.state, message=ending.sentence, ended=now(), seconds=seconds)
        # A stop without a sentence is the user's own.
        if self._on_end is not None and (ending.state != "stopped" or ending.sentence):
            title = shot_of(self._ledger.run(run_id)).title
            self._on_end.tell(RunNews(run_id, title, ending.state, ending.sentence))


class RunLimits(BaseModel):
    """Limits of one run, where they are not the usual ones."""

    model_config = ConfigDict(frozen=True)
    frame_seconds: float | None = Field(default=None, gt=0, le=86_400, description="for one frame; null as set up")
    tries: int = Field(default=1, ge=1, le=20, description="of a frame that fails")


class Captures:
    """Orders runs and carries them out.

    Parameters
    ----------
    due : callable
        Orders the file that a run was to end in.
    """

    def __init__(
        self,
        project: Project,
        jobs: Jobs,
        workers: FrameWorkers,
        forecast: Forecast,
        due: Callable[[int, str], None],
        on_end: OnEnd | None = None,
    ) -> None:
        self._project, self._jobs, self._workers = project, jobs, workers
        self._forecast, self._due, self._on_end = forecast, due, on_end

    def capture(self, shot_id: str, draft: bool = False, to_file: bool = False, limits: RunLimits | None = None) -> int:
        """Order a run of all frames of a shot as it stands, and of its file if wanted; the run's id."""
        options = (limits or RunLimits()).model_dump_json(exclude_defaults=True)
        shot = self._project.shots.shot(shot_id)
        shot = shot.draft() if draft else shot
        document, makes = shot.model_dump(mode="json"), shot.recipe if to_file else ""
        run_id = self._project.ledger.begin(
            shot_id, document, range(shot.pictures), draft=draft, makes=makes, options=options
        )
        self._order(run_id)
        return run_id

    def capture_sweep(
        self,
        shot_id: str,
        shots: Sequence[tuple[Shot, str]],
        limits: RunLimits,
        draft: bool = False,
        to_file: bool = False,
    ) -> list[int]:
        """Order runs of all frames of some shots, which are variants of one; the runs' ids.

        Parameters
        ----------
        shots : sequence of (Shot, str)
            With the name of each variant.
        limits : RunLimits
            Of each run.
        """
        options = limits.model_dump_json(exclude_defaults=True)
        documents = [(shot.model_dump(mode="json"), shot.pictures, variant) for shot, variant in shots]
        makes = shots[0][0].recipe if to_file else ""
        ids = self._project.ledger.begin_sweep(shot_id, documents, draft=draft, makes=makes, options=options)
        for run_id in ids:
            self._order(run_id)
        return ids

    def capture_some(self, shot_id: str, shot: Shot, numbers: Sequence[int]) -> int:
        """Order a run of some pictures of a shot, which may differ from the one that is kept; the run's id."""
        run_id = self._project.ledger.begin(shot_id, shot.model_dump(mode="json"), numbers)
        self._order(run_id)
        return run_id

    def resume(self, run_id: int) -> None:
        """Order that a run that has ended continues."""
        with self._jobs.using(run_key(run_id)):
            self._project.ledger.run(run_id)
            self._jobs.forget(JobKey("check", run_id))
            self._order(run_id)

    def make_again(self, run_id: int, numbers: Sequence[int], reason: str) -> None:
        """Order that pictures of a run that has ended are made again, for a reason that is kept with them.

        Raises
        ------
        Mistake
            While it is queued or running.
        """
        with self._jobs.using(run_key(run_id)):
            if (job := self._jobs.find(run_key(run_id))) is not None and job.under_way:
                raise Mistake(f"run {run_id} is queued or running: wait until it has ended, or stop it")
            self._project.ledger.make_again(run_id, numbers, reason)
            self._jobs.forget(JobKey("check", run_id))
            self._order(run_id)

    def remove(self, run_id: int) -> None:
        """Delete a run with its files and the frames that no other run shows.

        Raises
        ------
        Mistake
            While it is queued or running, or a file is made of it.
        """
        with self._jobs.removing(run_key(run_id)):
            row = self._project.ledger.run(run_id)
            self._jobs.forget(JobKey("check", run_id))
            remove_files(self._project, own_files(self._project, run_id))
            self._project.ledger.remove(run_id, shot_of(row).picture.suffix)

    def seconds(self, row: RunRow) -> float:
        """How long a run took, or takes up to now."""
        job = self._jobs.find(run_key(row.id))
        return row.seconds + (job.seconds if job is not None else 0.0)

    def close(self) -> None:
        """End the workers. Unfinished frames are lost, all others are kept."""
        self._workers.dismiss()

    def _order(self, run_id: int) -> None:
        self._jobs.order("frames", [Job(run_key(run_id))], self._carry_out)

    def _carry_out(self, jobs: Sequence[Job]) -> list[Ending | Exception]:
        """Make the frames of a run. The workers are kept for the next run unless this one was cut short."""
        (job,) = jobs
        ended_well = False
        try:
            row = self._project.ledger.run(int(job.key.name))
            prepared = self._prepared(row, job.stop)
            rows = self._project.ledger.rows(row.id)
            numbers = [one.number for one in rows]
            known = {one.number: one.key for one in rows if one.key and one.state in READY}
            # Of another version of its source all keys are others.
            known = known if row.plan and prepared.plan.inputs.dumps() == row.plan else {}
            take = self._project.ledger.take(row.id, prepared.plan.shot.picture.suffix)
            limits = RunLimits.model_validate_json(row.options or "{}")
            for stage in self._workers.stages():
                stage.limit_to(capture_limits(limits.frame_seconds))
            options = RunOptions(frozenset(self._project.ledger.again(row.id)), limits.tries, job.pause, known)
            run = Run(prepared, numbers, take, job.stop, project_room(self._project.home), options)
            kind = prepared.at.kind
            outcome = run.go(lambda: self._workers.hired(kind), lambda stands: self._tell(job, stands))
            ending = run_ending(outcome)
            ended_well = ending.state != "stopped" and self._workers.are_ready
        finally:
            # Before the end is recorded: a client that reads it may delete the run.
            if not ended_well:
                self._workers.dismiss()
        if ending.state == "done":
            return [Ending(ending.state, ending.sentence, then=lambda: self._due(row.id, row.makes))]
        return [ending]

    def _tell(self, job: Job, stands: Progress) -> None:
        """Pass progress on; the command of the user hears of the begin of a pause that nobody asked for."""
        before = job.progress
        self._jobs.tell(job, stands)
        begins = stands.paused and not (before is not None and before.paused)
        if self._on_end is not None and begins and not job.pause.asked:
            run_id = int(job.key.name)
            title = shot_of(self._project.ledger.run(run_id)).title
            self._on_end.tell(RunNews(run_id, title, "paused", stands.paused))

    def _prepared(self, row: RunRow, stop: Stop) -> Prepared:
        """The plan of a run: made the first time, then reused."""
        prepared = self._workers.prepared(shot_of(row), PlanInputs.loads(row.plan) if row.plan else None, stop)
        if not row.plan:
            values = {"plan": prepared.plan.inputs.dumps()}
            said = self._forecast.foretold(prepared.plan) if row.count == prepared.plan.shot.pictures else None
            if said is not None:
                values["foretold"] = json.dumps(foretold_document(said))
            self._project.ledger.set(row.id, **values)
        return prepared
