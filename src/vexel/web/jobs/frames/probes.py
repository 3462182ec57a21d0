"""Probes of shots: some frames, made as a capture makes them, from which the whole is foretold."""

import time
from collections.abc import Sequence
from dataclasses import replace

from vexel.core.evaluate.frame_spec import digest_of
from vexel.core.forecast.foretold import FileProbe
from vexel.core.recipes.shipped import RECIPES
from vexel.output.footage.footage import Footage, footage_of_frames
from vexel.store.frames import KeyedFrames
from vexel.store.project import Project
from vexel.store.settings import project_room
from vexel.web.jobs.frames.forecast import Forecast
from vexel.web.jobs.frames.frame_workers import FrameWorkers
from vexel.web.jobs.job import Ending, Job, JobKey
from vexel.web.jobs.jobs import Jobs
from vexel.web.jobs.media_pool import MediaPool
from vexel.workers.planner import Prepared
from vexel.workers.probing import Probed, Probing


class Probes:
    """Orders probes and carries them out, after the runs that were ordered before."""

    def __init__(
        self, project: Project, jobs: Jobs, workers: FrameWorkers, forecast: Forecast, media: MediaPool
    ) -> None:
        self._project, self._jobs, self._workers = project, jobs, workers
        self._forecast, self._media = forecast, media

    def begin(self, shot_id: str) -> None:
        """Probe a shot as it stands, unless a probe of it is already queued or running."""
        self._project.shots.shot(shot_id)
        self._jobs.order("frames", [Job(JobKey("probe", shot_id))], self._carry_out)

    def newest(self, shot_id: str) -> Job | None:
        """The newest probe of a shot since the server was started."""
        return self._jobs.find(JobKey("probe", shot_id))

    def stop(self, shot_id: str) -> None:
        """Stop the probe of a shot; the frames that it made are kept."""
        self._jobs.stop(JobKey("probe", shot_id))

    def _carry_out(self, jobs: Sequence[Job]) -> list[Ending | Exception]:
        (job,) = jobs
        ended_well, begun = False, time.monotonic()
        try:
            shot = self._project.shots.shot(str(job.key.name))
            prepared = self._workers.prepared(shot, None, job.stop)
            frames = KeyedFrames(self._project.ledger.frames, shot.picture.suffix)
            kind = prepared.at.kind
            probing = Probing(
                prepared,
                frames,
                self._workers.stages(),
                lambda: self._workers.hired(kind),
                job.stop,
                project_room(self._project.home),
                lambda _, key: self._seconds_of(key),
                begun,
                lambda stands: self._jobs.tell(job, stands),
            )
            found = probing.go()
            for key, seconds in frames.seconds.items():
                self._project.facts.put(digest_of(["proof", key]), seconds)
            ended_well = True
        finally:
            if not ended_well:
                self._workers.dismiss()
        probe = replace(found.probe, recipe=shot.recipe, files=self._files(prepared, found))
        self._forecast.keep(prepared.plan, probe)
        return [Ending("done")]

    def _seconds_of(self, key: str) -> float | None:
        return self._project.facts.get(digest_of(["proof", key])) or self._project.ledger.seconds_of(key)

    def _files(self, prepared: Prepared, found: Probed) -> tuple[FileProbe, ...]:
        """Stretches of the files of the shot's recipe, made in a media process."""
        shot, files = prepared.plan.shot, []
        recipe = RECIPES[shot.recipe]
        with self._media.apart() as process:
            for camera_pass in range(len(shot.camera_passes)):
                footage = self._footage(prepared, found.stretches, camera_pass)
                files.append(process.probe_file(footage, found.stretches, recipe, shot.clock.exact))
        return tuple(file for file in files if file is not None)

    def _footage(self, prepared: Prepared, stretches: Sequence[range], camera_pass: int) -> Footage:
        """The frames of stretches at their places, where that before each is held up to the next."""
        plan, frames = prepared.plan, self._project.ledger.frames
        shot = plan.shot
        numbers = {0, *(n for part in stretches for n in part)}
        ready = {n: frames.path(plan.frame_spec(n, camera_pass).key, shot.picture.suffix) for n in numbers}
        return footage_of_frames(ready, shot.clock.exact, "this probe", hold=True).of_shot(shot, camera_pass)
