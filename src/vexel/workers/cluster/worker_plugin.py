"""A stage process at every worker of a cluster, kept for as long as a run needs it."""

from collections.abc import Sequence
from typing import Any

from distributed import WorkerPlugin, get_worker

from vexel.core.evaluate.source_facts import SourceAt
from vexel.workers.bounds.isolation import Reach
from vexel.workers.bounds.limits import Limits
from vexel.workers.stage_process import StageProcess
from vexel.workers.worker_task import FrameOrder, FrameResult, make_frames


class StagePlugin(WorkerPlugin):  # type: ignore[misc]  # distributed has no types
    """Gives a worker its stage, and ends it with the worker or the run.

    Parameters
    ----------
    name : str
        Unlike that of any other run.
    limits : Limits
    kind : str
        Of the source that will be shown first.
    reach : Reach
    """

    def __init__(self, name: str, limits: Limits, kind: str, reach: Reach) -> None:
        self.name, self._limits, self._kind, self._reach = name, limits, kind, reach

    def setup(self, worker: Any) -> None:
        """Start the stage; it gets ready by itself."""
        self.stage = StageProcess(self._limits, reach=self._reach)
        self.stage.start(self._kind)

    def teardown(self, worker: Any) -> None:
        """End the stage, also in the middle of a frame."""
        self.stage.end()


def make_frames_there(plugin: str, at: SourceAt, orders: Sequence[FrameOrder]) -> list[FrameResult]:
    """The task of a worker: see `make_frames`.

    Parameters
    ----------
    plugin : str
        Name of the worker's `StagePlugin`.
    """
    return make_frames(get_worker().plugins[plugin].stage, at, orders)
