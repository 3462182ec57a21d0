"""Captures into folders, one or several after one another with the same workers."""

import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake, Stopped
from vexel.core.finding import Finding
from vexel.core.progress import Progress
from vexel.disk.room import room_of
from vexel.disk.scratch import ScratchFolder
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


class FolderWorkers:
    """The stages and workers of captures to folders that follow one another, with what was found out about sources.

    Parameters
    ----------
    folder : Path
        Where the documents lie.
    writes : Path
        The folder of the take, or of all takes.
    count : int
        Workers of this machine.
    scheduler : str
        The address of a Dask scheduler, in place of them.
    frame_seconds : float, optional
        The limit of one frame, in place of the usual one.

    Attributes
    ----------
    facts : dict
        What was found out about sources.
    copies : Path
        Their copies.
    stop : Stop
        Ends all of it, in any phase.
    """

    def __init__(
        self, folder: Path, writes: Path, count: int, scheduler: str = "", frame_seconds: float | None = None
    ) -> None:
        self.folder = folder
        self.facts: dict[str, Any] = {}
        self.stop = Stop()
        self._copies = ScratchFolder("copies")
        self.copies = self._copies.path
        self._limits, self._count, self._scheduler = capture_limits(frame_seconds), count, scheduler
        self._reach = Reach((str(writes), str(self.copies / STATES)), secrets_of(homes_of(folder)))
        self._stages: list[StageProcess] = []
        self._workers: Workers | None = None

    @property
    def stages(self) -> Sequence[StageProcess]:
        """The stage of each worker."""
        self._stages = self._stages or [StageProcess(self._limits, reach=self._reach) for _ in range(self._count)]
        return self._stages

    def hired(self, kind: str) -> Workers:
        """The workers, started now where they are not, for a kind of source."""
        if self._workers is None:
            self._workers = self._cluster(kind) if self._scheduler else LocalWorkers(self.stages, kind)
        return self._workers

    def ready(self, kind: str) -> None:
        """Let all stages get ready, while one of them measures the source."""
        if not self._scheduler:
            self.hired(kind)

    def _cluster(self, kind: str) -> Workers:
        try:
            from vexel.workers.cluster.cluster_workers import ClusterWorkers
        except ModuleNotFoundError as error:
            raise Mistake(
                f"--scheduler needs the library {error.name}: pip install 'vexel-capture[cluster]', or leave it out"
            ) from None

        return ClusterWorkers(self._scheduler, self._limits, kind, self._reach)

    def dismiss(self) -> None:
        """End the workers, so that none continues with a frame that is no longer needed."""
        if self._workers is not None:
            self._workers.close()
            self._workers = None
        for stage in self._stages:
            stage.end()
        self._stages = []

    def __enter__(self) -> "FolderWorkers":
        return self

    def __exit__(self, *_: object) -> None:
        self.dismiss()
        self._copies.remove()


@dataclass(frozen=True)
class _Facts:
    """What a take knows, and what was found out for takes before it."""

    take: FolderTake
    found: dict[str, Any]

    def get(self, key: str) -> Any:
        kept = self.take.get(key)
        if kept is None and (kept := self.found.get(key)) is not None:
            self.take.put(key, kept)
        return kept

    def put(self, key: str, value: Any) -> None:
        self.take.put(key, value)
        self.found[key] = value

    def forget(self, key: str) -> None:
        self.take.forget(key)
        self.found.pop(key, None)


@dataclass(frozen=True)
class Sitting:
    """A prepared shot with its workers."""

    prepared: Prepared
    stages: Sequence[StageProcess]
    hired: Callable[[], Workers]


@contextmanager
def sitting(
    shot: Shot,
    take: FolderTake,
    numbers: Sequence[int],
    *,
    by: FolderWorkers,
    looked: Callable[[list[Finding]], None] = lambda found: None,
    gate: Gate,
) -> Iterator[Sitting]:
    """Prepare a shot, and start its workers when they are needed.

    Parameters
    ----------
    take : FolderTake
        Entered already; its ledger is saved in every case.
    numbers : sequence of int
        Pictures of the take; see `vexel.core.document.camera_pass`.
    by : FolderWorkers
        It is dismissed when the sitting is cut short.
    looked : callable
        Receives what only the source knows, before the first frame.
    gate : Gate
        Decides whether the source's code may run.

    Raises
    ------
    Stopped
        While it was prepared.
    VexelError
        When the source or the shot is wrong.
    """
    kind, stop, whole = shot.source.kind, by.stop, False
    if not take.begun:
        by.ready(kind)
    try:
        with stop.cutting(by.stages[0].cut):
            try:
                planner = Planner(by.copies, by.stages[0], _Facts(take, by.facts), gate)
                prepared = planner.prepare(shot, by.folder)
                take.plan, take.depth_ranges = prepared.plan.digest, prepared.plan.depth_ranges()
                plan, count = prepared.plan, shot.pictures
                take.keep_plan(lambda n: plan.picture_spec(n).key if 0 <= n < count else None, set(numbers))
                looked(planner.findings(prepared))
            except ProcessEnded:
                raise Stopped from None
        stop.check()
        yield Sitting(prepared, by.stages, lambda: by.hired(kind))
        whole = not stop.asked
    finally:
        if not whole:
            by.dismiss()
        take.save()


def capture_to_folder(
    shot: Shot,
    take: FolderTake,
    numbers: Sequence[int],
    *,
    by: FolderWorkers,
    run_options: RunOptions | None = None,
    keep_free_mb: float | None = None,
    on_progress: Callable[[Progress], None] = lambda progress: None,
    **options: Any,
) -> Outcome:
    """Make the frames of a take that are missing.

    Parameters
    ----------
    shot, take, numbers, by, options
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
    with sitting(shot, take, numbers, by=by, **options) as at:
        room = room_of(take.folder, keep_free_mb)
        special = replace(run_options or RunOptions(), known_keys=take.known_keys)
        return Run(at.prepared, numbers, take, by.stop, room, special).go(at.hired, on_progress)


def probe_to_folder(
    shot: Shot,
    take: FolderTake,
    *,
    by: FolderWorkers,
    on_progress: Callable[[Progress], None] = lambda progress: None,
    **options: Any,
) -> tuple[Prepared, Probed]:
    """Make the frames of a probe, which stay in the take.

    Parameters
    ----------
    shot, take, by, options
        See `sitting`.
    on_progress : callable

    Raises
    ------
    Stopped, VexelError
        See `sitting`; and when a frame failed.
    """
    begun = time.monotonic()
    with sitting(shot, take, (), by=by, **options) as at:
        room = room_of(take.folder)
        probing = Probing(at.prepared, take, at.stages, at.hired, by.stop, room, take.seconds_of, begun, on_progress)
        return at.prepared, probing.go()


def workers_for(shot: Shot, numbers: Sequence[int]) -> int:
    """How many workers a capture is given: for few frames of a mesh one is enough.

    A second one would read it again, and drawing uses all cores anyway: two frames of 179,000 triangles took 8.7 s
    of processor time with one worker and 9.9 s with two, in the same time.
    """
    traits = shot.source.traits
    # Code takes one core, and may take long: two workers halve that.
    few = len(numbers) <= FEW and traits.gives == "geometry" and not traits.own_text
    return 1 if few else workers_here()
