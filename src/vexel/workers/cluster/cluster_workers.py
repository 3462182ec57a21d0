"""Workers of a Dask scheduler, by its address."""

import logging
import time
import uuid
from collections.abc import Sequence
from contextlib import suppress
from typing import Any

import dask
from distributed import Client

from vexel.core.errors import Failure, Mistake
from vexel.core.evaluate.source_facts import SourceAt
from vexel.workers.bounds.isolation import Reach
from vexel.workers.bounds.limits import Limits
from vexel.workers.cluster.worker_plugin import StagePlugin, make_frames_there
from vexel.workers.worker_pool import Done
from vexel.workers.worker_task import FrameOrder


class ClusterWorkers:
    """See `vexel.workers.worker_pool.Workers`.

    Parameters
    ----------
    scheduler : str
        Address of a running Dask scheduler, whose workers must see the same folders.
    limits : Limits
        Of every stage process.
    kind : str
        Of the source that is shown first: the stages get ready for it.
    reach : Reach
        Of the stages.

    Raises
    ------
    Mistake
        When no scheduler answers.
    """

    def __init__(self, scheduler: str, limits: Limits, kind: str, reach: Reach) -> None:
        # No task is ever queued to be stolen.
        dask.config.set({"distributed.scheduler.work-stealing": False})
        logging.getLogger("distributed").setLevel(logging.CRITICAL)
        self._clock = _wall_ahead()
        try:
            self._client = Client(scheduler, timeout="15s", set_as_default=False)
        except (OSError, ValueError) as error:
            raise Mistake(f"no Dask scheduler answers at {scheduler}: {error}") from None
        self._plugin = f"vexel-{uuid.uuid4()}"
        self._client.register_plugin(StagePlugin(self._plugin, limits, kind, reach), name=self._plugin)
        self._addresses = sorted(self._client.scheduler_info(n_workers=-1)["workers"])
        self.count = max(len(self._addresses), 1)

    def make(self, done: Done, at: SourceAt, orders: Sequence[FrameOrder], worker: int | None = None) -> None:
        """See `Workers.make`."""
        self._clock = max(self._clock, _wall_ahead())
        where: dict[str, Any] = {}
        if worker is not None and self._addresses:
            where = {"workers": [self._addresses[worker % self.count]], "allow_other_workers": True}
        # Impure: two orders of one frame are two orders, of which the first may have failed.
        future = self._client.submit(make_frames_there, self._plugin, at, orders, pure=False, **where)

        def report(finished: Any) -> None:
            if finished.status == "finished":
                done(finished.result())
            elif finished.status == "error":
                done(Failure(f"the worker crashed: {finished.exception()}"))
            # A cancelled future reports nothing: the run was stopped.

        future.add_done_callback(report)

    def clock_set_back(self) -> float:
        """See `Workers.clock_set_back`: Dask sends its messages by the wall clock."""
        return self._clock - _wall_ahead()

    def close(self) -> None:
        """See `Workers.close`."""
        with suppress(Exception):
            self._client.unregister_worker_plugin(self._plugin)
        with suppress(Exception):
            self._client.close(timeout=2)


def _wall_ahead() -> float:
    """Seconds by which the wall clock is ahead of the one that never jumps."""
    return time.time() - time.monotonic()
