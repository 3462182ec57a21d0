"""The workers of the server, which runs and probes use in turn."""

from collections.abc import Sequence

from vexel.core.document.shot import Shot
from vexel.core.evaluate.source_facts import PlanInputs
from vexel.store.project import Project
from vexel.workers.bounds.limits import capture_limits, workers_here
from vexel.workers.bounds.project_reach import reach_in
from vexel.workers.planner import Gate, Planner, Prepared
from vexel.workers.stage_process import StageProcess
from vexel.workers.stop import Stop
from vexel.workers.worker_pool import LocalWorkers


class FrameWorkers:
    """Workers with their stages. They are kept for the next job, unless one was cut short.

    Only the line of jobs that make frames uses them, one job after another.
    """

    def __init__(self, project: Project, gate: Gate) -> None:
        self._project, self._gate = project, gate
        self._limits = capture_limits()
        self._workers: LocalWorkers | None = None
        self._stages: list[StageProcess] = []

    @property
    def are_ready(self) -> bool:
        """Whether they were started."""
        return self._workers is not None

    def stages(self) -> Sequence[StageProcess]:
        """The stage of each worker."""
        reach = reach_in(self._project)
        self._stages = self._stages or [StageProcess(self._limits, reach=reach) for _ in range(workers_here())]
        return self._stages

    def prepared(self, shot: Shot, inputs: PlanInputs | None, stop: Stop) -> Prepared:
        """The plan of a shot: that which an earlier sitting began with, or a new one."""
        stop.check()
        stage = self.stages()[0]
        planner = Planner(self._project.copies, stage, self._project.facts, self._gate)
        prepared = planner.again(shot, inputs)
        if prepared is None:
            # A source may take long to answer: the stop ends its process.
            with stop.cutting(stage.cut):
                prepared = planner.prepare(shot, self._project.shots.folder)
        return prepared

    def hired(self, kind: str) -> LocalWorkers:
        """The workers, started now where they are not."""
        if self._workers is None:
            self._workers = LocalWorkers(self.stages(), kind)
        return self._workers

    def dismiss(self) -> None:
        """End the workers, so that none continues with a frame that is no longer needed."""
        if self._workers is not None:
            self._workers.close()
            self._workers = None
        for stage in self._stages:
            stage.end()
        self._stages = []
