"""From a shot and its files to a plan, asking the stage what only the source's own code knows."""

from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, Protocol

from vexel.core.dial import Dial
from vexel.core.framing import Sphere
from vexel.core.plan import (
    Basis,
    Plan,
    SourceAt,
    SourceFacts,
    Subject,
    dial_values,
    given,
    make_plan,
    measured_frames,
)
from vexel.core.recipe import SourceIdentity, digest_of, steady
from vexel.core.shot import ObjectSource, Shot
from vexel.crew.stage_process import StageProcess
from vexel.sources.files import source_files
from vexel.stage.engine import engine


class FactsCache(Protocol):
    """Where measured facts are kept."""

    def get(self, key: str) -> Any:
        """The value kept under a key, or None."""

    def put(self, key: str, value: Any) -> None:
        """Keep a JSON value under a key."""


@dataclass(frozen=True)
class Prepared:
    """A plan, and from where a stage opens its source."""

    plan: Plan
    at: SourceAt


class Planner:
    """Plans shots.

    Parameters
    ----------
    copies : Path
        Folder for copies of sources, each under its digest.
    stage : StageProcess
        Asked only for what the cache does not know.
    cache : FactsCache
    """

    def __init__(self, copies: Path, stage: StageProcess, cache: FactsCache) -> None:
        self._copies = copies
        self._stage = stage
        self._cache = cache

    def source(self, shot: Shot, folder: Path) -> tuple[SourceIdentity, SourceAt]:
        """The shot's source to the byte, copied so that it cannot change under a run.

        Raises
        ------
        Mistake
            When the file is not there.
        """
        plan = shot.source
        files = source_files(plan.kind, (folder / plan.file).resolve())
        up = plan.up if isinstance(plan, ObjectSource) else "auto"
        identity = SourceIdentity(plan.kind, files.main, files.digest, up)
        return identity, (plan.kind, files.copy_to(self._copies), up)

    def facts(self, identity: SourceIdentity, at: SourceAt) -> SourceFacts:
        """What the source says of itself."""
        key = digest_of(["facts", engine(), asdict(identity)])
        kept = self._cache.get(key)
        if kept is None:
            kept = asdict(self._stage.facts(at))
            self._cache.put(key, kept)
        return SourceFacts(tuple(Dial(**dial) for dial in kept["dials"]), kept["takes_instant"])

    def prepare(self, shot: Shot, folder: Path) -> Prepared:
        """Plan a shot whose document lies in `folder`.

        Raises
        ------
        VexelError
            When the source or the shot is wrong.
        """
        identity, at = self.source(shot, folder)
        facts = self.facts(identity, at)
        subject = self._subject(shot, identity, at, facts)
        return Prepared(make_plan(shot, Basis(engine(), identity, facts, subject)), at)

    def again(self, shot: Shot, basis: Basis) -> Prepared | None:
        """The plan that a run began with, or None when its source's copy or its stage is gone."""
        source = basis.source
        main = self._copies / source.digest / source.main
        if basis.engine != engine() or not main.is_file():
            return None
        return Prepared(make_plan(shot, basis), (source.kind, main, source.up))

    def _subject(self, shot: Shot, identity: SourceIdentity, at: SourceAt, facts: SourceFacts) -> Subject:
        clock = shot.clock.clock()
        values = dial_values(shot, facts, clock.phases())
        moments = []
        for frame in measured_frames(shot, facts):
            dials = {name: steady(array[frame]) for name, array in values.items()}
            moments.append((dials, given(clock.instant(frame)) if facts.takes_instant else None))
        told = [[dials, instant and asdict(instant)] for dials, instant in moments]
        key = digest_of(["subject", engine(), asdict(identity), told])
        kept = self._cache.get(key)
        if kept is None:
            kept = self._stage.measure(at, moments)
            self._cache.put(key, kept)
        (x, y, z), radius, ranges = kept
        return Subject(Sphere((x, y, z), radius), {name: (a, b) for name, (a, b) in ranges.items()})
