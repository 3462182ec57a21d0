"""States of a simulation on disk, shared by all processes that show it.

One process steps at a time, under a lock; the others take the state it left
and show it meanwhile. The latest states stay for them, and of all earlier
ones enough to come back to any step quickly.

A state is any object of the user's code, so it is pickled, and a pickle runs
code when it is read. Each is sealed with a key of this user's, which no
project contains: a foreign one is never unpickled.
"""

import fcntl
import hmac
import os
import pickle
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from vexel.core.evaluate.source_facts import StatesAt
from vexel.disk.write import write_whole

SUFFIX = ".state"
LATEST = 12
"""Number of latest states that stay at any distance."""
_SEAL = "sha256"
_SEAL_BYTES = 32


class Checkpoints:
    """Saved states of one simulation with one choice of settings.

    Parameters
    ----------
    at : StatesAt
    settings : str
        Tells this choice of settings from others; the name of a folder.
    """

    def __init__(self, at: StatesAt, settings: str) -> None:
        self._folder, self._key, self._settings = at.folder / settings, at.key, settings
        self._folder.mkdir(parents=True, exist_ok=True)
        self._passing: list[int] = []
        self._lock = (self._folder / "lock").open("w")

    @contextmanager
    def stepping(self) -> Iterator[None]:
        """Hold the right to step; it ends with the process, however that ends."""
        # On a disk without locks two may step at once: they come to the same states, each named when it is whole.
        with suppress(OSError):
            fcntl.flock(self._lock, fcntl.LOCK_EX)
        try:
            yield
        finally:
            with suppress(OSError):
                fcntl.flock(self._lock, fcntl.LOCK_UN)

    def nearest(self, step: int) -> int | None:
        """The latest saved step that is not past a step."""
        last = self._path(step).name
        # Names sort as steps do; this is asked at every frame, so no path is made of each.
        names = os.listdir(self._folder)  # noqa: PTH208
        found = max((name for name in names if name.endswith(SUFFIX) and name <= last), default="")
        return int(number) if (number := found.removesuffix(SUFFIX)).isdecimal() else None

    def load(self, step: int) -> Any:
        """The state after a step; None when it is not there, not whole or not sealed by us, and then it is removed."""
        try:
            data = self._path(step).read_bytes()
        except OSError:
            return None
        seal, state = data[:_SEAL_BYTES], data[_SEAL_BYTES:]
        if hmac.compare_digest(seal, self._seal(step, state)):
            # What is sealed was written by this project, and it is loaded in a bounded process.
            return pickle.loads(state)  # noqa: S301
        with suppress(OSError):
            self._path(step).unlink()
        return None

    def save(self, step: int, state: Any, lasting: bool) -> None:
        """Keep the state after a step, for good or until some later ones are there."""
        target = self._path(step)
        pickled = pickle.dumps(state, protocol=5)
        write_whole(target, self._seal(step, pickled) + pickled)
        if not lasting:
            self._passing.append(step)
        while len(self._passing) > LATEST:
            with suppress(FileNotFoundError):
                self._path(self._passing.pop(0)).unlink()

    def _path(self, step: int) -> Path:
        return self._folder / f"{step:012d}{SUFFIX}"

    def _seal(self, step: int, state: bytes) -> bytes:
        # With the place that it is for: a state of other settings or another step is as wrong as a forged one.
        seal = hmac.new(self._key, f"{self._settings}/{step}\0".encode(), _SEAL)
        seal.update(state)
        return seal.digest()
