"""The crew: a Dask cluster of one process a core, or any scheduler by its address."""

import logging
import os
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from vexel.core.errors import Failure, Mistake
from vexel.crew.limits import Limits
from vexel.crew.work import warm

_SETTINGS = {
    # A worker's stage process is its child, and daemons may have none.
    "distributed.worker.daemon": False,
    # A profile of every worker takes time from the frames, and no task is ever queued to be stolen.
    "distributed.worker.profile.enabled": False,
    "distributed.scheduler.work-stealing": False,
}


class Crew:
    """Workers that run functions in processes of their own.

    Parameters
    ----------
    workers : int, optional
        How many; all cores by default.
    scheduler : str
        Address of a running Dask scheduler, instead of a cluster here. Its
        workers must see the same folders.
    """

    def __init__(self, workers: int | None = None, scheduler: str = "") -> None:
        import dask
        from distributed import Client, LocalCluster

        dask.config.set(_SETTINGS)
        logging.getLogger("distributed").setLevel(logging.CRITICAL)
        self._cluster: Any = None
        if scheduler:
            try:
                self._client = Client(scheduler, timeout="10s", set_as_default=False)
            except (OSError, ValueError) as error:
                raise Mistake(f"no Dask scheduler answers at {scheduler}: {error}") from None
            self.workers = max(len(self._client.scheduler_info()["workers"]), 1)
            return
        self.workers = workers or os.cpu_count() or 1
        self._cluster = LocalCluster(
            n_workers=self.workers,
            threads_per_worker=1,
            dashboard_address=None,
            memory_limit=0,
            # Whoever reaches the scheduler may run code, so it takes only those with its certificate.
            security=True,
            silence_logs=logging.CRITICAL,
        )
        self._client = Client(self._cluster, set_as_default=False)

    def warm(self, limits: Limits) -> None:
        """Let every worker start its stage, which gets ready by itself."""
        self._client.run(warm, limits)

    def submit(
        self, done: Callable[[Any], None], work: Callable[..., Any], *arguments: Any, worker: int | None = None
    ) -> None:
        """Run ``work(*arguments)`` on a worker, a certain one if that can be.

        `done` gets the result, or an exception.
        """
        where: dict[str, Any] = {}
        if worker is not None:
            known = sorted(self._client.scheduler_info()["workers"])
            where = {"workers": [known[worker % len(known)]], "allow_other_workers": True} if known else {}
        future = self._client.submit(work, *arguments, pure=False, **where)

        def report(finished: Any) -> None:
            if finished.status == "finished":
                done(finished.result())
            elif finished.status == "error":
                done(Failure(f"the worker process broke down: {finished.exception()}"))
            # A cancelled future reports nothing: the run was stopped.

        future.add_done_callback(report)

    def close(self) -> None:
        """End the workers, and with them whatever they are doing."""
        with suppress(Exception):
            self._client.close(timeout=2)
        if self._cluster is not None:
            with suppress(Exception):
                self._cluster.close(timeout=5)
