"""What the blueprints share: the project, the viewfinder's stage, the desk and the bulletin."""

import json
import os
import threading
from collections import OrderedDict
from dataclasses import dataclass

from flask import current_app

from vexel.core.budget import alike
from vexel.core.errors import Mistake
from vexel.core.facts import SourceFacts
from vexel.core.plan import Plan, make_plan
from vexel.core.recipe import digest_of
from vexel.core.shot import Shot, edited, read_shot
from vexel.crew.limits import capture_limits, view_limits
from vexel.crew.planner import Planner, Prepared
from vexel.crew.stage_process import StageProcess
from vexel.store.project import Project
from vexel.store.shots import spelled
from vexel.store.write import write_whole
from vexel.web.bulletin import Bulletin
from vexel.web.desk import Desk

KEPT_PLANS = 16
MOST_COUNTED = 5_000
"""Of shots with more pictures it is not worked out which of them are there already: a key takes about a millisecond."""


RUNS_LOOKED_AT = 10
FEWEST_MEASURED = 8
"""A run that made fewer pictures says little of the next one."""


@dataclass(frozen=True)
class Measured:
    """What a picture cost in an earlier run: seconds of waiting, with all workers at it, and bytes."""

    run: int
    seconds: float
    bytes: float


@dataclass(frozen=True)
class Proof:
    """A frame at full size and quality, kept under its key; `seconds` is None where its time is not known."""

    key: str
    bytes: int
    seconds: float | None


class Studio:
    """A project with all that works on it."""

    def __init__(self, project: Project, cores: int) -> None:
        self.project = project
        self.bulletin = Bulletin()
        self.desk = Desk(project, self.bulletin)
        # One thread more than cores, since the renderer's own thread waits for the others.
        self.stage = StageProcess(view_limits(), threads=cores + 1)
        self.planner = Planner(project.copies, self.stage, project.facts)
        self._proofs: StageProcess | None = None
        self._keys: OrderedDict[tuple[str, str], list[str]] = OrderedDict()
        self._plans: OrderedDict[tuple[str, str], Prepared] = OrderedDict()
        self._lock = threading.Lock()

    def prepared(self, shot: Shot) -> Prepared:
        """The plan of a shot, remembered while neither shot nor source changes."""
        key = self._identity(shot)
        with self._lock:
            if key in self._plans:
                self._plans.move_to_end(key)
                return self._plans[key]
        made = self.planner.prepare(shot, self.project.shots.folder)
        with self._lock:
            self._plans[key] = made
            while len(self._plans) > KEPT_PLANS:
                self._plans.popitem(last=False)
        return made

    def _identity(self, shot: Shot) -> tuple[str, str]:
        """All that decides the frames of a shot."""
        identity, _ = self.planner.source(shot, self.project.shots.folder)
        return spelled(shot), identity.digest

    def facts(self, shot: Shot) -> SourceFacts:
        """What the shot's source says of itself."""
        return self.planner.facts(*self.planner.source(shot, self.project.shots.folder))

    def view(self, shot: Shot, frame: int, quick: bool, steady: Shot | None = None, strand: int = 0) -> bytes:
        """A frame of a shot as PNG bytes, or JPEG for a passing look.

        The subject is that of the shot `steady`, if given: nothing is measured
        anew while a key is dragged, and the camera does not follow it.
        """
        prepared = self.prepared(shot if steady is None else steady)
        plan = self.planned(shot, steady)
        return self.stage.view(prepared.at, plan.recipe(frame, strand), quick)

    def planned(self, shot: Shot, steady: Shot | None = None) -> Plan:
        """The plan of a shot, with the subject as it is in the shot `steady` if that is given."""
        plan = self.prepared(shot if steady is None else steady).plan
        return plan if steady is None else make_plan(shot, plan.basis)

    def glance(self, shot: Shot, frame: int) -> bytes:
        """A small frame of a shot as PNG bytes, kept under its key for the next look at the list."""
        prepared = self.prepared(shot)
        recipe = prepared.plan.recipe(frame)
        file = self.project.glances / f"{recipe.key}.png"
        if not file.is_file():
            write_whole(file, self.stage.view(prepared.at, recipe, False))
        return file.read_bytes()

    def proof(self, shot: Shot, frame: int, strand: int) -> Proof:
        """A frame as a capture makes it, with a capture's limits; made once."""
        prepared = self.prepared(shot)
        recipe = prepared.plan.recipe(frame, strand)
        frames, suffix = self.project.ledger.frames, shot.picture.suffix
        known = digest_of(["proof", recipe.key])
        if frames.size(recipe.key, suffix) is None:
            if self._proofs is None:
                self._proofs = StageProcess(capture_limits(), threads=(os.cpu_count() or 1) + 1)
            self._proofs.warm_up(prepared.at, recipe)
            _, seconds = self._proofs.make(prepared.at, recipe, frames.path(recipe.key, suffix))
            self.project.facts.put(known, seconds)
        taken = self.project.facts.get(known) or self.project.ledger.seconds_of(recipe.key)
        return Proof(recipe.key, frames.size(recipe.key, suffix) or 0, taken)

    def measured(self, shot_id: str, shot: Shot) -> "Measured | None":
        """What a picture cost in the newest run of a shot that was made alike."""
        for row in self.project.ledger.runs(shot_id)[:RUNS_LOOKED_AT]:
            made, size = self.project.ledger.made(row.id)
            if made >= FEWEST_MEASURED and row.ended and alike(read_shot(row.document), shot):
                return Measured(row.id, row.seconds / made, size / made)
        return None

    def stop_proof(self) -> None:
        """End the proof that is being made; whoever waits for it is told so."""
        stage, self._proofs = self._proofs, None
        if stage is not None:
            stage.end()

    def left(self, shot: Shot) -> int | None:
        """How many pictures of a shot are not there yet; None where there are too many to count."""
        pictures = shot.clock.clock().frames * len(shot.strands)
        if pictures > MOST_COUNTED:
            return None
        plan, identity = self.prepared(shot).plan, self._identity(shot)
        with self._lock:
            keys = self._keys.get(identity)
        if keys is None:
            keys = [plan.pictured(number).key for number in range(pictures)]
            with self._lock:
                self._keys[identity] = keys
                while len(self._keys) > KEPT_PLANS:
                    self._keys.popitem(last=False)
        frames, suffix = self.project.ledger.frames, shot.picture.suffix
        return sum(frames.size(key, suffix) is None for key in keys)

    def close(self) -> None:
        """End everything that works."""
        self.stop_proof()
        self.desk.close()
        self.stage.close()


def patched(shot: Shot, patch: str) -> Shot:
    """The shot with a merge patch applied, not saved: what a drag shows.

    Raises
    ------
    Mistake
        When the text is no patch, or the shot would be wrong with it.
    """
    if not patch:
        return shot
    try:
        change = json.loads(patch)
    except ValueError as error:
        raise Mistake(f"patch is no JSON: {error}") from None
    if not isinstance(change, dict):
        raise Mistake("patch must be a JSON object")
    return edited(shot, change)


def studio() -> Studio:
    """The studio of the running application."""
    return current_app.extensions["vexel"]  # type: ignore[no-any-return]
