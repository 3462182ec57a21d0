"""What a capture has left to make, and what a picture of it cost before."""

import threading
from dataclasses import dataclass

from cachetools import LRUCache

from vexel.core.checks.estimate import alike
from vexel.core.document.shot import Shot
from vexel.core.evaluate.plan import Plan
from vexel.store.project import Project
from vexel.store.takes import shot_of

MOST_COUNTED = 5_000
"""Of shots with more pictures it is not worked out which of them are there already: a key takes about a millisecond."""
KEPT = 16
RUNS_LOOKED_AT = 10
FEWEST_MEASURED = 8
"""A run that made fewer pictures says little of the next one."""


@dataclass(frozen=True)
class Measured:
    """What a picture cost in an earlier run: seconds of waiting, with all workers at it, and bytes."""

    run: int
    seconds: float
    bytes: float


class Forecast:
    """Looks ahead at captures of a project."""

    def __init__(self, project: Project) -> None:
        self._project = project
        self._keys: LRUCache[tuple[str, str], list[str]] = LRUCache(KEPT)
        self._lock = threading.Lock()

    def left(self, plan: Plan, identity: tuple[str, str]) -> int | None:
        """How many pictures of a plan are not there yet; None where there are too many to count.

        Parameters
        ----------
        identity : (str, str)
            All that decides the pictures, under which their keys are remembered.
        """
        shot = plan.shot
        pictures = shot.pictures
        if pictures > MOST_COUNTED:
            return None
        with self._lock:
            keys = self._keys.get(identity)
        if keys is None:
            keys = [plan.picture_spec(number).key for number in range(pictures)]
            with self._lock:
                self._keys[identity] = keys
        frames, suffix = self._project.ledger.frames, shot.picture.suffix
        there = frames.there(list(dict.fromkeys(keys)), suffix)
        return sum(key not in there for key in keys)

    def measured(self, shot_id: str, shot: Shot) -> Measured | None:
        """What a picture cost in the newest run of a shot that was made alike."""
        for row in self._project.ledger.runs(shot_id)[:RUNS_LOOKED_AT]:
            made, size = self._project.ledger.made(row.id)
            if made >= FEWEST_MEASURED and row.ended and alike(shot_of(row), shot):
                return Measured(row.id, row.seconds / made, size / made)
        return None
