"""A stage process at every worker of the crew, kept for as long as the crew needs it."""

from typing import Any

from distributed import WorkerPlugin

from vexel.crew.limits import Limits
from vexel.crew.stage_process import StageProcess


class StageKeeper(WorkerPlugin):  # type: ignore[misc]  # distributed has no types
    """Starts a worker's stage ahead of its first frame, and ends it with the worker or the crew.

    Parameters
    ----------
    limits : Limits
    kind : str
        Of the source that will be shown first.
    """

    def __init__(self, limits: Limits, kind: str) -> None:
        self._limits, self._kind = limits, kind

    def setup(self, worker: Any) -> None:
        """Start the stage, which gets ready by itself."""
        self.stage = StageProcess(self._limits)
        self.stage.start(self._kind)

    def teardown(self, worker: Any) -> None:
        """End the stage, whatever it is doing."""
        self.stage.end()
