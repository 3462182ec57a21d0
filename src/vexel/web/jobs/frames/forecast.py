"""What a capture has left to make, and what a picture of it cost before."""

import threading
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

from cachetools import LRUCache

from vexel.core.document.shot import Shot
from vexel.core.evaluate.frame_spec import digest_of
from vexel.core.evaluate.plan import Plan
from vexel.core.forecast.estimate import alike
from vexel.core.forecast.foretold import Foretold, Probe, foretold
from vexel.core.forecast.kept import probe_document, probe_of
from vexel.core.forecast.left import left_frames, picture_keys
from vexel.store.project import Project
from vexel.store.takes import shot_of

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
        self._keys: LRUCache[str, list[str]] = LRUCache(KEPT)
        self._lock = threading.Lock()

    def left(self, plan: Plan) -> int | None:
        """How many pictures of a plan are not there yet; None where there are too many to count."""
        keys = self._keys_of(plan)
        if keys is None:
            return None
        there = self._there(plan, keys)
        return sum(key not in there for key in keys)

    def keep(self, plan: Plan, probe: Probe) -> None:
        """Keep the probe of a plan, in place of an earlier one."""
        key = _probe_key(plan)
        self._project.facts.forget(key)
        self._project.facts.put(key, probe_document(probe))

    def foretold(self, plan: Plan) -> Foretold | None:
        """What the probe of a plan foretells of all that is left; None without a probe.

        Of a shot with variants all of its frames count: those that are there are of none of them.
        """
        probe = probe_of(self._project.facts.get(_probe_key(plan)))
        if probe is None:
            return None
        if probe.recipe != plan.shot.recipe:
            probe = replace(probe, files=())
        camera_passes, keys = len(plan.shot.camera_passes), self._keys_of(plan)
        has_variants = plan.shot.sweep is not None and not plan.shot.is_swept
        if keys is None:
            there = set() if has_variants else {frame.frame for frame in probe.frames}
            left = [frame for frame in range(plan.clock.frames) if frame not in there]
        else:
            left = left_frames(keys, camera_passes, () if has_variants else self._there(plan, keys))
        by_steps = plan.inputs.facts.sequential
        return foretold(probe, left, (lambda n: plan.course_place(n * camera_passes)) if by_steps else None)

    def _keys_of(self, plan: Plan) -> list[str] | None:
        digest = plan.digest
        with self._lock:
            keys = self._keys.get(digest)
        if keys is None and (keys := picture_keys(plan)) is not None:
            with self._lock:
                self._keys[digest] = keys
        return keys

    def _there(self, plan: Plan, keys: Sequence[str]) -> Collection[str]:
        return self._project.ledger.frames.there(list(dict.fromkeys(keys)), plan.shot.picture.suffix)

    def measured(self, shot_id: str, shot: Shot) -> Measured | None:
        """What a picture cost in the newest run of a shot that was made alike."""
        for row in self._project.ledger.runs(shot_id, RUNS_LOOKED_AT):
            made, size = self._project.ledger.made(row.id)
            if made >= FEWEST_MEASURED and row.ended and alike(shot_of(row), shot):
                return Measured(row.id, row.seconds / made, size / made)
        return None


def _probe_key(plan: Plan) -> str:
    return digest_of(["probe", plan.digest])
