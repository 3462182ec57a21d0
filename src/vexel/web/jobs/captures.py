"""Runs: captures of shots, one after another."""

from collections.abc import Callable, Sequence

from vexel.core.document.shot import Shot
from vexel.core.evaluate.source_facts import PlanInputs
from vexel.disk.room import room_of
from vexel.store.project import Project
from vexel.store.tables import RunRow, now
from vexel.store.takes import Ledger, shot_of
from vexel.web.jobs.endings import run_ending
from vexel.web.jobs.job import Ending, Job, JobKey
from vexel.web.jobs.jobs import Jobs
from vexel.web.jobs.take_files import own_files, remove_files
from vexel.workers.bounds.limits import capture_limits, workers_here
from vexel.workers.bounds.project_reach import reach_in
from vexel.workers.planner import Gate, Planner, Prepared
from vexel.workers.run import Run
from vexel.workers.stage_process import StageProcess
from vexel.workers.stop import Stop
from vexel.workers.worker_pool import LocalWorkers


def run_key(run_id: int) -> JobKey:
    """The key of a run."""
    return JobKey("run", run_id)


class RunRecord:
    """Runs in the ledger."""

    def __init__(self, ledger: Ledger) -> None:
        self._ledger = ledger

    def under_way(self, job: Job) -> None:
        """See `Record`."""
        values = {"message": "", "ended": ""} if job.state == "queued" else {}
        self._ledger.set(int(job.key.name), state=job.state, **values)

    def ended(self, job: Job, ending: Ending) -> None:
        """See `Record`; the time of this sitting is added to that of earlier ones."""
        run_id = int(job.key.name)
        seconds = self._ledger.run(run_id).seconds + job.seconds
        self._ledger.end(run_id, state=ending.state, message=ending.sentence, ended=now(), seconds=seconds)


class Captures:
    """Orders runs and carries them out.

    Parameters
    ----------
    due : callable
        Orders the file that a run was to end in.
    """

    def __init__(self, project: Project, jobs: Jobs, gate: Gate, due: Callable[[int, str], None]) -> None:
        self._project = project
        self._jobs = jobs
        self._gate = gate
        self._due = due
        self._limits = capture_limits()
        self._workers: LocalWorkers | None = None
        self._stages: list[StageProcess] = []

    def capture(self, shot_id: str, draft: bool = False, to_file: bool = False) -> int:
        """Order a run of all frames of a shot as it stands, and of its file if wanted; the run's id."""
        shot = self._project.shots.shot(shot_id)
        shot = shot.draft() if draft else shot
        document, makes = shot.model_dump(mode="json"), shot.recipe if to_file else ""
        run_id = self._project.ledger.begin(shot_id, document, range(shot.pictures), draft=draft, makes=makes)
        self._order(run_id)
        return run_id

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
        self._dismiss()

    def _order(self, run_id: int) -> None:
        self._jobs.order("frames", [Job(run_key(run_id))], self._carry_out)

    def _carry_out(self, jobs: Sequence[Job]) -> list[Ending | Exception]:
        """Make the frames of a run. The workers are kept for the next run unless this one was cut short."""
        (job,) = jobs
        ended_well = False
        try:
            row = self._project.ledger.run(int(job.key.name))
            prepared = self._prepared(row, job.stop)
            numbers = [r.number for r in self._project.ledger.rows(row.id)]
            take = self._project.ledger.take(row.id, prepared.plan.shot.picture.suffix)
            run = Run(prepared, numbers, take, job.stop, room_of(self._project.home))
            kind = prepared.at.kind
            ending = run_ending(run.go(lambda: self._workers_ready(kind), lambda stands: self._jobs.tell(job, stands)))
            ended_well = ending.state != "stopped" and self._workers is not None
        finally:
            # Before the end is recorded: a client that reads it may delete the run.
            if not ended_well:
                self._dismiss()
        if ending.state == "done" and row.makes:
            return [Ending(ending.state, ending.sentence, then=lambda: self._due(row.id, row.makes))]
        return [ending]

    def _prepared(self, row: RunRow, stop: Stop) -> Prepared:
        """The plan of a run: made the first time, then reused."""
        stop.check()
        shot = shot_of(row)
        self._stages = self._stages or [
            StageProcess(self._limits, reach=reach_in(self._project)) for _ in range(workers_here())
        ]
        planner = Planner(self._project.copies, self._stages[0], self._project.facts, self._gate)
        prepared = planner.again(shot, PlanInputs.loads(row.plan)) if row.plan else None
        if prepared is None:
            # A source may take long to answer: the stop ends its process.
            with stop.cutting(self._stages[0].cut):
                prepared = planner.prepare(shot, self._project.shots.folder)
            self._project.ledger.set(row.id, plan=prepared.plan.inputs.dumps())
        return prepared

    def _workers_ready(self, kind: str) -> LocalWorkers:
        if self._workers is None:
            self._workers = LocalWorkers(self._stages, kind)
        return self._workers

    def _dismiss(self) -> None:
        """End the workers, so that none continues with a frame that is no longer needed."""
        if self._workers is not None:
            self._workers.close()
            self._workers = None
        for stage in self._stages:
            stage.end()
        self._stages = []
