"""A stage process at every worker of the crew, kept for as long as the crew needs it."""

from collections.abc import Sequence
from typing import Any

from distributed import WorkerPlugin

from vexel.crew.bounds.isolation import Reach
from vexel.crew.bounds.limits import Limits
from vexel.crew.stage_process import StageProcess

_AHEAD: dict[str, list[StageProcess]] = {}
"""Stages that were started before the workers of this process that will have them, by the keeper's name."""


class StagePlugin(WorkerPlugin):  # type: ignore[misc]  # distributed has no types
    """Gives a worker its stage, and ends it with the worker or the crew.

    Parameters
    ----------
    name : str
        Unlike that of any other crew.
    limits : Limits
    kind : str
        Of the source that will be shown first.
    reach : Reach
        Of the stages of other machines.
    """

    def __init__(self, name: str, limits: Limits, kind: str, reach: Reach) -> None:
        self.name, self._limits, self._kind, self._reach = name, limits, kind, reach

    def hand_on(self, stages: Sequence[StageProcess]) -> None:
        """Let the workers of this process have these stages."""
        _AHEAD[self.name] = list(stages)

    def setup(self, worker: Any) -> None:
        """Start the stage, unless it was started before; it gets ready by itself."""
        ahead = _AHEAD.get(self.name)
        self.stage = ahead.pop() if ahead else StageProcess(self._limits, reach=self._reach)
        self.stage.start(self._kind)

    def teardown(self, worker: Any) -> None:
        """End the stage, whatever it is doing."""
        _AHEAD.pop(self.name, None)
        self.stage.end()
