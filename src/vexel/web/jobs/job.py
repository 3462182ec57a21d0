"""Work in the background of the server: one job, from its order to its end."""

import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal, NamedTuple, Protocol

from vexel.core.progress import Progress
from vexel.workers.stop import Pause, Stop

JobKind = Literal["run", "file", "check", "probe", "proof", "look", "import", "figures"]
State = Literal["queued", "running", "stopped", "failed", "done"]


class JobKey(NamedTuple):
    """Identifies a job. At most one job of a key is queued or running."""

    kind: JobKind
    name: int | str


@dataclass(frozen=True)
class Ending:
    """What a job came to.

    Attributes
    ----------
    state : State
    sentence : str
        For people; empty where the state says all.
    values : mapping
        What its record keeps beside.
    then : callable, optional
        Called after the ending is recorded.
    """

    state: State
    sentence: str = ""
    values: Mapping[str, Any] = field(default_factory=dict)
    then: Callable[[], None] | None = None


@dataclass(eq=False)
class Job:
    """A job.

    Attributes
    ----------
    key : JobKey
    of : JobKey, optional
        What it works on. That cannot be removed while the job exists.
    stop : Stop
        The request to stop, which the work checks.
    pause : Pause
        The request to pause, which runs check.
    progress : Progress or None
    ending : Ending or None
    """

    key: JobKey
    of: JobKey | None = None
    state: State = "queued"
    stop: Stop = field(default_factory=Stop)
    progress: Progress | None = None
    ending: Ending | None = None
    begun: float = 0.0
    pause: Pause = field(default_factory=Pause)

    @property
    def under_way(self) -> bool:
        """Whether it has not ended."""
        return self.ending is None

    @property
    def seconds(self) -> float:
        """Since it began to run; 0 before that."""
        return time.monotonic() - self.begun if self.begun else 0.0


Work = Callable[[Sequence[Job]], Sequence["Ending | Exception"]]
"""Runs jobs that were ordered together. Returns one ending a job, in their order. An exception ends all of them."""


class Record(Protocol):
    """Where the state of jobs of a kind is written down."""

    def under_way(self, job: Job) -> None:
        """A job is queued, or runs."""

    def ended(self, job: Job, ending: Ending) -> None:
        """A job has ended. A full disk must not lose this."""
