"""The crew: a Dask cluster of one worker a core, or any scheduler by its address."""

import logging
import time
import uuid
from collections.abc import Callable, Sequence
from contextlib import suppress
from typing import Any

from vexel.core.errors import Failure, Mistake
from vexel.core.evaluate.source_facts import SourceAt
from vexel.crew.bounds.isolation import NOWHERE, Reach
from vexel.crew.bounds.limits import Limits
from vexel.crew.stage_process import StageProcess
from vexel.crew.worker_task import FrameOrder, FrameResult, make_frames

_SETTINGS = {
    # A profile of every worker takes time from the frames, and no task is ever queued to be stolen.
    "distributed.worker.profile.enabled": False,
    "distributed.scheduler.work-stealing": False,
    # Its logs, which nobody reads, grow for hours: the last thousand messages, each with its task, and two
    # measurements a second for an hour.
    "distributed.admin.log-length": 20,
    "distributed.admin.low-level-log-length": 20,
    "distributed.admin.system-monitor.log-length": 2,
    "distributed.admin.system-monitor.interval": "10s",
    "distributed.diagnostics.computations.max-history": 1,
    "distributed.diagnostics.erred-tasks.max-history": 1,
}
_UNSEEN: dict[str, list[str]] = {"distributed.scheduler.http.routes": [], "distributed.worker.http.routes": []}
"""Pages that tell of tasks and logs, which a cluster of our own has none of."""
_LOCAL_PORT = "127.0.0.1:0"
"""Dask opens a port for its pages even where it is told to have none; left to itself, on every interface."""


class Crew:
    """Workers that make frames, each in a stage process of its own.

    Parameters
    ----------
    limits : Limits
        Of every stage process.
    kind : str
        Of the source that is shown first: the stages get ready for it.
    stages : sequence of StageProcess
        One for each worker here. They may be asked other things while no run goes on.
    scheduler : str
        Address of a running Dask scheduler, instead of workers here. Its
        workers must see the same folders.
    reach : Reach
        Of the stages that its workers start.
    """

    def __init__(
        self, limits: Limits, kind: str, stages: Sequence[StageProcess], scheduler: str = "", reach: Reach = NOWHERE
    ) -> None:
        if not scheduler:
            # They take longer than the cluster, and get ready beside it.
            for stage in stages:
                stage.start(kind)
        import dask
        from distributed import Client, LocalCluster

        from vexel.crew.worker_plugin import StagePlugin

        # Before the cluster: its parts read their settings as they are made.
        dask.config.set(_SETTINGS)
        logging.getLogger("distributed").setLevel(logging.CRITICAL)
        self._cluster: Any = None
        self._clock = _wall_ahead()
        if scheduler:
            try:
                self._client = Client(scheduler, timeout="10s", set_as_default=False)
            except (OSError, ValueError) as error:
                raise Mistake(f"no Dask scheduler answers at {scheduler}: {error}") from None
        else:
            # The work is done in the stage processes; a worker that only waits for its own may be a
            # thread. Nothing but the stages has to be started, and no other machine can reach it.
            with dask.config.set(_UNSEEN):
                self._cluster = LocalCluster(
                    n_workers=len(stages),
                    threads_per_worker=1,
                    processes=False,
                    dashboard_address=_LOCAL_PORT,
                    worker_dashboard_address=_LOCAL_PORT,
                    memory_limit=0,
                    silence_logs=logging.CRITICAL,
                )
            self._client = Client(self._cluster, set_as_default=False)
        self._keeper = f"vexel-{uuid.uuid4()}"
        keeper = StagePlugin(self._keeper, limits, kind, reach)
        if not scheduler:
            keeper.hand_on(stages)
        self._client.register_plugin(keeper, name=self._keeper)
        self._addresses = sorted(self._client.scheduler_info(n_workers=-1)["workers"])
        self.workers = max(len(self._addresses), 1)

    def make(
        self,
        done: Callable[[list[FrameResult] | Exception], None],
        at: SourceAt,
        orders: Sequence[FrameOrder],
        worker: int | None = None,
    ) -> None:
        """Make frames on one worker, a certain one if that can be.

        `done` gets their results, or an exception when the worker crashed.
        """
        self._clock = max(self._clock, _wall_ahead())
        where: dict[str, Any] = {}
        if worker is not None and self._addresses:
            where = {"workers": [self._addresses[worker % self.workers]], "allow_other_workers": True}
        # Impure: two orders of one frame are two orders, of which the first may have failed.
        future = self._client.submit(make_frames, self._keeper, at, orders, pure=False, **where)

        def report(finished: Any) -> None:
            if finished.status == "finished":
                done(finished.result())
            elif finished.status == "error":
                done(Failure(f"the worker crashed: {finished.exception()}"))
            # A cancelled future reports nothing: the run was stopped.

        future.add_done_callback(report)

    def clock_set_back(self) -> float:
        """See `vexel.crew.run.Workers.clock_set_back`."""
        return self._clock - _wall_ahead()

    def close(self) -> None:
        """End the stages, and with them whatever they are doing."""
        with suppress(Exception):
            self._client.unregister_worker_plugin(self._keeper)
        with suppress(Exception):
            self._client.close(timeout=2)
        if self._cluster is not None:
            with suppress(Exception):
                self._cluster.close(timeout=5)


def _wall_ahead() -> float:
    """Seconds by which the wall clock is ahead of the one that never jumps."""
    return time.time() - time.monotonic()
