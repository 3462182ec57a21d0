"""Source kind ``simulation``: a Python file that advances a state by a fixed inner step."""

import copy
import hashlib
import json
import math
import secrets
import tempfile
import time
from collections.abc import Iterator, Mapping
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from vexel.core.errors import SourceError
from vexel.core.evaluate.source_facts import SourceFacts, StatesAt
from vexel.sources.code.checkpoints import Checkpoints
from vexel.sources.code.code_file import CodeFile
from vexel.sources.code.decorators import Simulation
from vexel.sources.code.watch import Reading
from vexel.sources.kinds.sketch import shown
from vexel.sources.protocols import FrameRequest, Shown

SAVING_SHARE = 0.01
"""Keeping states may take this share of the time that stepping takes: one a frame had cost 68 % at 6 ms a frame."""
FETCH_SAVES = 10
"""Stepping is preferred to fetching a state that costs as much as this number of savings."""
LASTING_SECONDS = 0.25
"""A state is kept for good after this much stepping, so that coming back costs about as much."""


class SimulationFile:
    """A simulation file, loaded; see `CodeFile` for what it may raise.

    Parameters
    ----------
    file : Path
    seed : int
        Of the random numbers that start and show are given.
    states : StatesAt, optional
        Where states are kept; by default in a folder of this process's own.
    """

    def __init__(self, file: Path, seed: int = 0, states: StatesAt | None = None, **_: Any) -> None:
        self._code = CodeFile(file, Simulation)
        self._seed = seed
        self._kept_at = states or StatesAt(Path(tempfile.mkdtemp(prefix="states-")), secrets.token_bytes(32))
        self._settings: dict[str, float] | None = None
        simulation = self._code.marked
        self.facts = SourceFacts(
            tuple(simulation.dials),
            ("step",),
            settings=tuple(setting.name for setting in simulation.settings),
            step=str(simulation.step),
        )

    @property
    def readings(self) -> list[Reading]:
        """What its code read beside its own files; see `vexel.sources.code.watch`."""
        return self._code.watch.readings

    def show(self, asked: FrameRequest) -> Shown:
        """Advance the state to the frame's step and show it; see `Source.show`."""
        simulation, step = self._code.marked, int(asked.time_inputs["step"])
        self._set(asked.dials)
        self._reach(step)
        given = {"state": self._state, "time": float(step * simulation.step), "step": step}
        driven = {d.name: asked.dials.get(d.name, d.default) for d in simulation.shown.dials}

        def draw(more: dict[str, Any]) -> Any:
            arguments = {name: (given | more)[name] for name in simulation.shown.takes if name != "self"}
            return self._code.call(self._thing.show, **driven, **arguments)

        return shown(asked, simulation.shown.takes, self._seed, draw, self._wrong)

    def _wrong(self, error: Exception) -> SourceError:
        return SourceError(f"{self._code.file.name}, line {self._code.line}: show() returned {error}", self._code.line)

    def _set(self, dials: Mapping[str, float]) -> None:
        """Start again when settings differ."""
        simulation = self._code.marked
        settings = {s.name: dials.get(s.name, s.default) for s in simulation.settings}
        if settings == self._settings:
            return
        identity = json.dumps([sorted(settings.items()), self._seed])
        name = hashlib.sha256(identity.encode()).hexdigest()[:24]
        self._states = Checkpoints(self._kept_at, name)
        self._thing, self._state = self._code.call(simulation.begun, dials, np.random.default_rng(self._seed))
        if self._state is None:
            raise SourceError(f"{self._code.file.name}: start() returned None; it must return the first state")
        self._first = copy.deepcopy(self._state)
        self._at, self._since, self._unsaved = 0, 0.0, 0.0
        self._step_seconds, self._save_seconds = math.inf, 0.0
        self._settings = settings

    def _reach(self, step: int) -> None:
        """Advance the state to a step, from the nearest one that is known."""
        if step == self._at:
            return
        if self._at < step and (step - self._at) * self._step_seconds < FETCH_SAVES * self._save_seconds:
            self._advance(step)
            return
        # One process steps at a time; the others wait for its state, which is sooner than stepping themselves.
        with self._states.stepping():
            if (found := self._fetched(step)) is not None:
                self._at, self._state = found
            elif self._at > step:
                self._state, self._at = copy.deepcopy(self._first), 0
            if self._at < step:
                self._advance(step)

    def _fetched(self, step: int) -> tuple[int, Any] | None:
        """The saved state nearest to a step, with its step; None where none is nearer than the present one."""
        refused = -1
        while (known := self._states.nearest(step)) is not None and known != refused:
            if self._at <= step and known <= self._at:
                return None
            if (loaded := self._states.load(known)) is not None:
                return known, loaded
            refused = known
        return None

    def _advance(self, step: int) -> None:
        """Step on, and keep the state that is reached."""
        begun, from_step = time.perf_counter(), self._at
        self._code.call(self._run, step)
        took = time.perf_counter() - begun
        self._step_seconds = took / (step - from_step)
        self._since += took
        self._unsaved += took
        if bad := not_finite(self._state):
            raise SourceError(self._when_it_broke(from_step, step, bad))
        if self._unsaved * SAVING_SHARE >= self._save_seconds:
            self._save(step)

    def _save(self, step: int) -> None:
        begun, lasting = time.perf_counter(), self._since >= LASTING_SECONDS
        self._states.save(step, self._state, lasting)
        self._save_seconds, self._unsaved = time.perf_counter() - begun, 0.0
        if lasting:
            self._since = 0.0

    def _run(self, step: int) -> None:
        advance = self._thing.advance
        state = self._state
        for _ in range(step - self._at):
            following = advance(state)
            if following is not None:
                state = following
        self._state, self._at = state, step

    def _when_it_broke(self, from_step: int, to_step: int, bad: str) -> str:
        """Step over the stretch again, to find the step at which it broke."""
        known = self._states.nearest(from_step)
        loaded = None if known is None else self._states.load(known)
        self._state, self._at = (copy.deepcopy(self._first), 0) if loaded is None else (loaded, known or 0)
        while self._at < to_step:
            self._code.call(self._run, self._at + 1)
            if bad := not_finite(self._state):
                break
        broken, self._settings = self._at, None
        seconds = float(broken * Fraction(self._code.marked.step))
        return (
            f"{self._code.file.name}: after step {broken:,} ({seconds:g} s) {bad} is no longer a finite number: "
            "make the inner step smaller, or look at what advance() divides by"
        )


def not_finite(state: Any, name: str = "the state") -> str:
    """Name of the first number in a state that is NaN or infinite; empty when all are finite."""
    for part, value in _parts(state, name):
        if isinstance(value, float | complex) and not np.isfinite(value):
            return part
        # A sum is finite only if all its terms are, or if they overflow; it needs no temporary array.
        broken = isinstance(value, np.ndarray) and value.dtype.kind in "fc" and not np.isfinite(value.sum())
        if broken and not np.isfinite(value).all():
            return part
    return ""


def _parts(state: Any, name: str) -> Iterator[tuple[str, Any]]:
    if isinstance(state, dict):
        for key, value in state.items():
            yield from _parts(value, str(key))
    elif isinstance(state, list | tuple):
        for number, value in enumerate(state):
            yield from _parts(value, f"{name}[{number}]")
    elif hasattr(state, "__dict__") and not isinstance(state, np.ndarray):
        yield from _parts(vars(state), name)
    else:
        yield name, state
