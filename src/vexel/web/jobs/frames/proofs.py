"""Proofs: single frames made as a capture makes them, with its limits, and kept for it."""

import os
from dataclasses import dataclass
from itertools import count

from vexel.core.evaluate.frame_spec import digest_of
from vexel.disk.finished import finished
from vexel.store.project import Project
from vexel.web.jobs.job import Job, JobKey
from vexel.web.jobs.jobs import Jobs
from vexel.workers.bounds.limits import capture_limits
from vexel.workers.bounds.project_reach import reach_in
from vexel.workers.planner import Prepared
from vexel.workers.stage_process import StageProcess


@dataclass(frozen=True)
class Proof:
    """A frame at full size and quality, kept under its key; `seconds` is None where its time is not known."""

    key: str
    bytes: int
    seconds: float | None


class Proofs:
    """Makes proofs, one at a time, in a separate stage process."""

    def __init__(self, project: Project, jobs: Jobs) -> None:
        self._project, self._jobs = project, jobs
        self._numbers = count(1)
        self._stage: StageProcess | None = None

    def make(self, prepared: Prepared, frame: int, camera_pass: int) -> Proof:
        """A frame of a plan; made once, and its time is kept with it."""
        spec = prepared.plan.frame_spec(frame, camera_pass)
        frames, suffix = self._project.ledger.frames, prepared.plan.shot.picture.suffix
        known = digest_of(["proof", spec.key])
        there = frames.there([spec.key], suffix)
        if not there:
            job = Job(JobKey("proof", next(self._numbers)))
            with self._jobs.going(job), job.stop.cutting(self.close):
                if self._stage is None:
                    threads = (os.cpu_count() or 1) + 1
                    self._stage = StageProcess(capture_limits(), threads, reach_in(self._project))
                self._stage.warm_up(prepared.at, spec)
                path = frames.path(spec.key, suffix)
                _, seconds, _ = self._stage.make(prepared.at, spec, path)
                there = {spec.key: finished(path)}
                frames.keep(there)
                self._project.facts.put(known, seconds)
        taken = self._project.facts.get(known) or self._project.ledger.seconds_of(spec.key)
        return Proof(spec.key, there[spec.key].bytes, taken)

    def stop(self) -> None:
        """Stop all proofs. Each request that waits for one fails."""
        self._jobs.stop_all("proof")

    def close(self) -> None:
        """End the stage process."""
        stage, self._stage = self._stage, None
        if stage is not None:
            stage.end()
