"""One sitting of a capture into a folder, with its own workers."""

import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path
from typing import Any

from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake, Stopped
from vexel.core.finding import Finding
from vexel.core.progress import Progress
from vexel.disk.room import room_of
from vexel.disk.scratch import scratch_folder
from vexel.store.consent import homes_of
from vexel.store.folder_take import FolderTake
from vexel.store.user_files import secrets_of
from vexel.workers.bounded_process import ProcessEnded
from vexel.workers.bounds.isolation import Reach
from vexel.workers.bounds.limits import capture_limits, workers_here
from vexel.workers.planner import STATES, Gate, Planner, Prepared
from vexel.workers.probing import Probed, Probing
from vexel.workers.run import Outcome, Run, RunOptions
from vexel.workers.stage_process import StageProcess
from vexel.workers.stop import Stop
from vexel.workers.worker_pool import LocalWorkers, Workers

FEW = 2
"""Frames of a mesh that one worker makes."""


@dataclass(frozen=True)
class Sitting:
    """A prepared shot with its workers."""

    prepared: Prepared
    stages: Sequence[StageProcess]
    hired: Callable[[], Workers]


@contextmanager
def sitting(
    shot: Shot,
    folder: Path,
    take: FolderTake,
    numbers: Sequence[int],
    *,
    workers: int | None = None,
    scheduler: str = "",
    looked: Callable[[list[Finding]], None] = lambda found: None,
    stop: Stop,
    gate: Gate,
    frame_seconds: float | None = None,
) -> Iterator[Sitting]:
    """Prepare a shot, and start its workers when they are needed. They end with the block.

    Parameters
    ----------
    folder : Path
        Where the shot's document lies.
    take : FolderTake
        Entered already; its ledger is saved in every case.
    numbers : sequence of int
        Pictures of the take; see `vexel.core.document.camera_pass`.
    looked : callable
        Receives what only the source knows, before the first frame.
    stop : Stop
        Ends it, in any phase.
    gate : Gate
        Decides whether the source's code may run.
    frame_seconds : float, optional
        The limit of one frame, in place of the usual one.

    Raises
    ------
    Stopped
        While it was prepared.
    VexelError
        When the source or the shot is wrong.
    """
    limits, kind = capture_limits(frame_seconds), shot.source.kind

    with scratch_folder("copies") as copies:
        reach = Reach((str(take.folder), str(copies / STATES)), secrets_of(homes_of(folder)))
        count = workers or (1 if _by_one(shot, numbers) else workers_here())
        stages = [StageProcess(limits, reach=reach) for _ in range(count)]

        @cache
        def hired() -> Workers:
            if not scheduler:
                return LocalWorkers(stages, kind)
            try:
                from vexel.workers.cluster.cluster_workers import ClusterWorkers
            except ModuleNotFoundError as error:
                raise Mistake(
                    f"--scheduler needs the library {error.name}: pip install 'vexel-capture[cluster]', or leave it out"
                ) from None

            return ClusterWorkers(scheduler, limits, kind, reach)

        if not scheduler and not take.begun:
            # For a new take all stages get ready while one of them measures the source.
            hired()
        try:
            with stop.cutting(stages[0].cut):
                try:
                    planner = Planner(copies, stages[0], take, gate)
                    prepared = planner.prepare(shot, folder)
                    take.plan, take.depth_ranges = prepared.plan.digest, prepared.plan.depth_ranges()
                    plan, count = prepared.plan, shot.pictures
                    take.keep_plan(lambda n: plan.picture_spec(n).key if 0 <= n < count else None, set(numbers))
                    looked(planner.findings(prepared))
                except ProcessEnded:
                    raise Stopped from None
            stop.check()
            yield Sitting(prepared, stages, hired)
        finally:
            if hired.cache_info().currsize:
                hired().close()
            for stage in stages:
                stage.end()
            take.save()


def capture_to_folder(
    shot: Shot,
    folder: Path,
    take: FolderTake,
    numbers: Sequence[int],
    *,
    stop: Stop,
    run_options: RunOptions | None = None,
    keep_free_mb: float | None = None,
    on_progress: Callable[[Progress], None] = lambda progress: None,
    **options: Any,
) -> Outcome:
    """Make the frames of a take that are missing.

    Parameters
    ----------
    shot, folder, take, numbers, stop, options
        See `sitting`.
    run_options : RunOptions, optional
    keep_free_mb : float, optional
        See `room_of`.
    on_progress : callable

    Raises
    ------
    Stopped, VexelError
        See `sitting`.
    """
    with sitting(shot, folder, take, numbers, stop=stop, **options) as at:
        room = room_of(take.folder, keep_free_mb)
        special = replace(run_options or RunOptions(), known_keys=take.known_keys)
        return Run(at.prepared, numbers, take, stop, room, special).go(at.hired, on_progress)


def probe_to_folder(
    shot: Shot,
    folder: Path,
    take: FolderTake,
    *,
    workers: int | None = None,
    stop: Stop,
    on_progress: Callable[[Progress], None] = lambda progress: None,
    **options: Any,
) -> tuple[Prepared, Probed]:
    """Make the frames of a probe, which stay in the take.

    Parameters
    ----------
    shot, folder, take, workers, stop, options
        See `sitting`.
    on_progress : callable

    Raises
    ------
    Stopped, VexelError
        See `sitting`; and when a frame failed.
    """
    begun = time.monotonic()
    with sitting(shot, folder, take, (), workers=workers or workers_here(), stop=stop, **options) as at:
        room = room_of(take.folder)
        probing = Probing(at.prepared, take, at.stages, at.hired, stop, room, take.seconds_of, begun, on_progress)
        return at.prepared, probing.go()


def _by_one(shot: Shot, numbers: Sequence[int]) -> bool:
    """Whether one worker is enough for a mesh: a second one would read it again, and drawing uses all cores anyway.

    Two frames of 179,000 triangles took 8.7 s of processor time with one worker and 9.9 s with two, in the same time.
    """
    traits = shot.source.traits
    # Code takes one core, and may take long: two workers halve that.
    return len(numbers) <= FEW and traits.gives == "geometry" and not traits.own_text
