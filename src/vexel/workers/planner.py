"""From a shot and its files to a plan, asking the stage what only the source's own code knows."""

import threading
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, Protocol, TypeVar

from pydantic import TypeAdapter, ValidationError
from pydantic_core import PydanticSerializationError

from vexel.core.checks.camera_findings import camera_findings
from vexel.core.checks.clearance_findings import Clearance, clearance_findings, places_to_measure
from vexel.core.checks.preflight import by_chance, source_findings
from vexel.core.checks.reading_findings import reading_findings
from vexel.core.document.shot import Shot
from vexel.core.document.source_spec import SeriesSource, WithCode
from vexel.core.errors import Failure, Mistake
from vexel.core.evaluate.frame_spec import SourceIdentity, digest_of
from vexel.core.evaluate.plan import Plan, make_plan, plan_by_measuring
from vexel.core.evaluate.source_facts import Moment, PlanInputs, SourceAt, SourceFacts, StatesAt, Subject
from vexel.core.evaluate.swept_plan import plan_of_sweep
from vexel.core.evaluate.views.single_camera import finding_of_camera, plan_of_camera
from vexel.core.finding import Finding
from vexel.disk.named_place import named_place
from vexel.sources.files import (
    SourceFiles,
    backdrop_file,
    copied,
    copied_backdrop,
    declared_reads,
    outside_reads,
    source_files,
)
from vexel.sources.outside_files import outside_at
from vexel.sources.pictures.fonts import fonts_of
from vexel.sources.registry import KINDS
from vexel.stage.engine import engine
from vexel.stage.label_findings import label_findings
from vexel.store.user_files import SECRETS, sealing_key, secrets_of
from vexel.workers.stage_process import StageProcess

STATES = "states"
"""Folder among the copies, for the states of simulations."""
_FACTS = TypeAdapter(SourceFacts)
_SUBJECT = TypeAdapter(Subject)
_REPEATS = TypeAdapter(bool)
_READINGS = TypeAdapter(list[tuple[str, str]])
_NEARNESS = TypeAdapter(Clearance)
T = TypeVar("T")


class FactsCache(Protocol):
    """Where measured facts are kept."""

    def get(self, key: str) -> Any:
        """The value kept under a key, or None."""

    def put(self, key: str, value: Any) -> None:
        """Keep a JSON value under a key."""

    def forget(self, key: str) -> None:
        """Keep nothing under a key."""


class Gate(Protocol):
    """Decides which code may run."""

    def check(self, files: tuple[Path, ...], digest: str) -> None:
        """Let code of this content run, or raise `VexelError`."""


class OpenGate:
    """All code may run: the user has named it."""

    def check(self, files: tuple[Path, ...], digest: str) -> None:
        """Nothing is held up."""


class NothingKept:
    """A cache for a plan that is made once."""

    def get(self, key: str) -> Any:
        """Nothing is known."""

    def put(self, key: str, value: Any) -> None:
        """Nothing is kept."""

    def forget(self, key: str) -> None:
        """Nothing was kept."""


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
    gate : Gate
    """

    def __init__(self, copies: Path, stage: StageProcess, cache: FactsCache, gate: Gate) -> None:
        self._copies = copies
        self._gate = gate
        self._stage = stage
        self._cache = cache
        self._asking = threading.Lock()

    def source(self, shot: Shot, folder: Path) -> tuple[SourceIdentity, SourceAt]:
        """The shot's source to the byte, copied so that it cannot change under a run.

        Raises
        ------
        Mistake
            When the file is not there.
        VexelError
            When its code may not run.
        """
        plan = shot.source
        files = source_files(plan.kind, named_place(folder, plan.file), plan.options())
        options = plan.options()
        code, digest = files.code_of(plan.kind)
        if code:
            # Before any outside file is read: those that a received project names wait for trust too.
            self._gate.check(code, digest)
        reads = outside_reads(plan, folder, files, (*secrets_of(), *SECRETS))
        if outside := reads.stamps():
            options["outside"] = outside
            reads.copy_to(self._copies, outside)
        identity = SourceIdentity(plan.kind, files.main, files.digest, options)
        at = self._at(identity, files, self._backdrop(shot, folder))
        if at is None:
            raise Mistake(f"what {files.main} reads was removed while it was copied: try again")
        return identity, at

    def _at(self, source: SourceIdentity, files: SourceFiles, backdrop: Path | None) -> SourceAt | None:
        """From where a stage opens a source, if its code may run; None where a copy of what it reads is gone."""
        code, digest = files.code_of(source.kind)
        if code:
            self._gate.check(code, digest)
        copy = files.copy_to(self._copies)
        states = None
        if KINDS[source.kind].files.keeps_states:
            # What it declares to read elsewhere decides its states too.
            of = digest_of([source.digest, source.options["outside"]]) if "outside" in source.options else source.digest
            states = StatesAt(self._copies / STATES / of, sealing_key(f"states {of}"))
        options = {name: value for name, value in source.options.items() if name not in ("reads", "outside")}
        outside = outside_at(copy.drawing or copy.main, source.options.get("outside", {}), self._copies)
        if outside is None:
            return None
        return SourceAt(source.kind, copy.main, options, source.digest, backdrop, copy.drawing, states, outside)

    def _backdrop(self, shot: Shot, folder: Path) -> Path | None:
        """The image behind the shot, copied so that it cannot change under a run."""
        name = shot.picture.behind.image
        return backdrop_file(named_place(folder, name), self._copies) if name else None

    def facts(self, identity: SourceIdentity, at: SourceAt) -> SourceFacts:
        """What the source reports about itself."""
        key = digest_of(["facts", engine(), asdict(identity)])
        return self._known(key, _FACTS, lambda: self._stage.facts(at))

    def prepare(self, shot: Shot, folder: Path) -> Prepared:
        """Plan a shot whose document is in `folder`.

        Raises
        ------
        VexelError
            When the source or the shot is wrong.
        """
        identity, at = self.source(shot, folder)
        facts = self.facts(identity, at)
        backdrop = at.backdrop.parent.name if at.backdrop else ""
        inputs = PlanInputs(
            engine(), identity, facts, Subject(None), backdrop, fonts_of(label.text for label in shot.labels)
        )

        def measured(moments: list[Moment]) -> Subject:
            key = digest_of(["subject", engine(), asdict(identity), moments])
            layout = shot.picture.laid_out
            return self._known(key, _SUBJECT, lambda: self._stage.measure(at, moments, layout) or Subject(None))

        plan = plan_of_sweep if shot.is_swept else plan_by_measuring
        return Prepared(plan(shot, inputs, measured), at)

    def findings(self, prepared: Prepared) -> list[Finding]:
        """What is off with a shot, as far as only its source tells."""
        plan = prepared.plan
        found = [*source_findings(plan.shot, plan.inputs.facts), *self._chance(prepared), *self._readings(prepared)]
        picture = plan.shot.picture
        found += label_findings(plan.longest_labels(), picture.width, picture.height)
        for number, camera in enumerate(plan.shot.all_cameras):
            own = plan_of_camera(plan, number) if number else plan
            of_it = [*camera_findings(own), *clearance_findings(own, self._nearness(Prepared(own, prepared.at)))]
            found += [finding_of_camera(finding, plan.shot, number, camera.name) for finding in of_it]
        return found

    def _chance(self, prepared: Prepared) -> list[Finding]:
        """Code that gives something else each time, though it is asked the same."""
        plan, traits = prepared.plan, prepared.plan.shot.source.traits
        if not traits.own_text or traits.remembers:
            return []
        moments = [
            (look.dials, look.time_inputs)
            for look in (plan.frame_spec(n).shutter_samples[0] for n in (0, plan.shot.clock.exact.frames - 1))
        ]
        key = digest_of(["repeats", engine(), asdict(plan.inputs.source), moments])
        size = plan.shot.picture.laid_out
        same = self._known(key, _REPEATS, lambda: self._stage.repeats(prepared.at, moments, size))
        return [] if same else [by_chance(plan.shot.source.name)]

    def _readings(self, prepared: Prepared) -> list[Finding]:
        """What code reads beside its own files, but for what the shot declares or ignores."""
        plan = prepared.plan
        spec = plan.shot.source
        if not isinstance(spec, WithCode) or (isinstance(spec, SeriesSource) and not spec.draw):
            return []
        look = plan.frame_spec(0).shutter_samples[0]
        moments = [(look.dials, look.time_inputs)]
        key = digest_of(["readings", engine(), asdict(plan.inputs.source), moments])
        size = plan.shot.picture.laid_out
        read = self._known(key, _READINGS, lambda: self._stage.readings(prepared.at, moments, size))
        return reading_findings(spec, read, self._declared(prepared))

    def _declared(self, prepared: Prepared) -> list[str]:
        """Paths that a source declares to read, as found from its copy."""
        at = prepared.at
        code = at.drawing or at.file
        return [
            str((code.parent / name).resolve()) for name in declared_reads(code, prepared.plan.inputs.source.options)
        ]

    def _nearness(self, prepared: Prepared) -> Clearance | None:
        """How near the shot's own camera comes to its subject; None where that is not to be asked."""
        plan, places = prepared.plan, places_to_measure(prepared.plan)
        if not places:
            return None
        key = digest_of(["nearness", engine(), asdict(plan.inputs.source), places])
        size = plan.shot.picture.laid_out
        return self._known(key, _NEARNESS, lambda: self._stage.nearness(prepared.at, places, size))

    def again(self, shot: Shot, inputs: PlanInputs | None) -> Prepared | None:
        """The plan that a run began with, or None when its source's copy or its stage is gone."""
        if inputs is None:
            return None
        source = inputs.source
        files = copied(self._copies, source.kind, source.main, source.digest, source.options)
        behind = copied_backdrop(self._copies, inputs.backdrop) if inputs.backdrop else None
        same = inputs.engine == engine() and inputs.fonts == fonts_of(label.text for label in shot.labels)
        if not same or files is None or (inputs.backdrop and behind is None):
            return None
        at = self._at(source, files, behind)
        plan = plan_of_sweep if shot.is_swept else make_plan
        return None if at is None else Prepared(plan(shot, inputs), at)

    def _known(self, key: str, form: TypeAdapter[T], ask: Callable[[], T]) -> T:
        """What the cache knows, or else the stage, which several requests at once ask once.

        Only values of the right form are kept; a kept one of another form is dropped, and asked for again.
        """
        kept = self._cached(key, form)
        if kept is None:
            # After an edit the Bench asks for pictures, figures and findings at once: each had the subject measured
            # once more, which took 10 s of 134,000 moving triangles. The first one asks, the others wait.
            with self._asking:
                kept = self._cached(key, form)
                if kept is None:
                    answer = ask()
                    try:
                        plain = form.dump_python(answer, mode="json", warnings="error")
                        kept = form.validate_python(plain)
                    except (PydanticSerializationError, ValidationError):
                        wrong = "the source gave wrong facts: its code interferes with the process that runs it"
                        raise Failure(wrong) from None
                    self._cache.put(key, plain)
        return kept

    def _cached(self, key: str, form: TypeAdapter[T]) -> T | None:
        plain = self._cache.get(key)
        if plain is None:
            return None
        try:
            return form.validate_python(plain)
        except ValidationError:
            self._cache.forget(key)
            return None
