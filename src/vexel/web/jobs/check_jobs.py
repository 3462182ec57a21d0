"""Checks of runs in the background: every byte of their frames is read, which takes a while."""

import threading
import time
from dataclasses import dataclass

from vexel.core.errors import Stopped, VexelError
from vexel.core.wording import counted
from vexel.store.check import Checked, check_run
from vexel.store.project import Project
from vexel.web.events import Events
from vexel.web.schemas.news import RunChanged

NEWS_SECONDS = 0.5
"""A check reads thousands of frames a second; its news comes no more often than this."""


@dataclass(frozen=True)
class CheckState:
    """How a check of a run goes, or went."""

    done: int = 0
    count: int = 0
    going: bool = True
    whole: bool = True
    sentence: str = ""


class Checks:
    """The newest check of each run, since the server was started."""

    def __init__(self, project: Project, events: Events) -> None:
        self._project, self._events = project, events
        self._ended = threading.Event()
        self._lock = threading.Lock()
        self._states: dict[int, CheckState] = {}

    def all(self) -> dict[int, CheckState]:
        """How the checks stand now, by run."""
        return dict(self._states)

    def begin(self, run_id: int) -> None:
        """Check a run, unless that is under way."""
        self._project.ledger.run(run_id)
        with self._lock:
            state = self._states.get(run_id)
            if state is not None and state.going:
                return
            self._states[run_id] = CheckState()
        threading.Thread(target=self._check, args=(run_id,), daemon=True).start()

    def forget(self, run_id: int) -> None:
        """What was found no longer holds: the run goes on."""
        self._states.pop(run_id, None)

    def close(self) -> None:
        """End all checks."""
        self._ended.set()

    def _check(self, run_id: int) -> None:
        last = 0.0

        def on_progress(done: int, count: int) -> None:
            nonlocal last
            if self._ended.is_set():
                raise Stopped
            self._states[run_id] = CheckState(done, count)
            if time.monotonic() - last > NEWS_SECONDS:
                last = time.monotonic()
                self._events.send(RunChanged(id=run_id))

        try:
            found = check_run(self._project, run_id, True, on_progress)
            state = CheckState(found.frames, found.frames, False, found.whole, _sentence(found))
        except Stopped:
            return
        except (VexelError, OSError) as error:
            state = CheckState(going=False, whole=False, sentence=f"The check could not go on: {error}")
        self._set(run_id, state)

    def _set(self, run_id: int, state: CheckState) -> None:
        self._states[run_id] = state
        self._events.send(RunChanged(id=run_id))


def _sentence(found: Checked) -> str:
    if found.whole:
        return f"{counted(found.frames, 'frame')} and all files checked: they are as they were made."
    sentences = []
    if found.damaged:
        sentences.append(f"{len(found.damaged):,} of {counted(found.frames, 'frame')} damaged and set aside.")
    if found.missing:
        sentences.append(f"{found.missing:,} of {counted(found.frames, 'frame')} missing.")
    if found.damaged or found.missing:
        sentences.append("Resume the run to make them again.")
    return " ".join([*sentences, *(f"{file}." for file in found.files)])
