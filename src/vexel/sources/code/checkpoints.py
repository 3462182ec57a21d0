"""States of a simulation on disk, shared by all processes that show it.

One process steps at a time, under a lock; the others take the state it left
and show it meanwhile. The latest states stay for them, and of all earlier
ones enough to come back to any step quickly.
"""

import fcntl
import os
import pickle
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

SUFFIX = ".state"
LATEST = 12
"""How many of the latest states stay whatever their distance."""


class Checkpoints:
    """Saved states of one simulation with one choice of settings.

    Parameters
    ----------
    folder : Path
    """

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        folder.mkdir(parents=True, exist_ok=True)
        self._passing: list[int] = []
        self._lock = (folder / "lock").open("w")

    @contextmanager
    def stepping(self) -> Iterator[None]:
        """Hold the right to step; it ends with the process, however that ends."""
        fcntl.flock(self._lock, fcntl.LOCK_EX)
        try:
            yield
        finally:
            fcntl.flock(self._lock, fcntl.LOCK_UN)

    def nearest(self, step: int) -> int | None:
        """The latest saved step that is not past a step."""
        last = self._path(step).name
        # Names sort as steps do; this is asked at every frame, so no path is made of each.
        names = os.listdir(self._folder)  # noqa: PTH208
        found = max((name for name in names if name.endswith(SUFFIX) and name <= last), default="")
        return int(found.removesuffix(SUFFIX)) if found else None

    def load(self, step: int) -> Any:
        """The state after a step; None when it is not there or not whole."""
        try:
            return pickle.loads(self._path(step).read_bytes())
        except (OSError, EOFError, pickle.UnpicklingError, ValueError):
            return None

    def save(self, step: int, state: Any, lasting: bool) -> None:
        """Keep the state after a step, for good or until some later ones are there."""
        target = self._path(step)
        partial = target.with_suffix(f".{os.getpid()}")
        partial.write_bytes(pickle.dumps(state, protocol=5))
        partial.rename(target)
        if not lasting:
            self._passing.append(step)
        while len(self._passing) > LATEST:
            with suppress(FileNotFoundError):
                self._path(self._passing.pop(0)).unlink()

    def _path(self, step: int) -> Path:
        return self._folder / f"{step:012d}{SUFFIX}"
