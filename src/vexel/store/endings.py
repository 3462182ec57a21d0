"""How jobs ended, written down at the latest when the disk has room again."""

import logging
import threading
from collections.abc import Callable, Mapping
from typing import Any, TypeVar

from sqlalchemy.exc import DatabaseError

RETRY_SECONDS = 1.0
R = TypeVar("R", bound=Any)
log = logging.getLogger("vexel")


class Endings:
    """Values of rows that a full or locked disk did not take, and that hold all the same.

    Parameters
    ----------
    write : callable
        Sets columns of a row, by its id.
    """

    def __init__(self, write: Callable[..., None]) -> None:
        self._write = write
        self._lock = threading.Lock()
        self._waiting: dict[int, dict[str, Any]] = {}

    def set(self, row_id: int, values: Mapping[str, Any]) -> None:
        """Write values now, with those that are waiting; where that fails, only those wait on."""
        with self._lock:
            self._write(row_id, **(self._waiting.get(row_id, {}) | dict(values)))
            self._waiting.pop(row_id, None)

    def record(self, row_id: int, values: Mapping[str, Any]) -> None:
        """Write the values, now or as soon as that can be."""
        with self._lock:
            self._waiting[row_id] = self._waiting.get(row_id, {}) | dict(values)
        if not self.settle():
            log.warning("how job %s ended is kept in memory until the disk takes it", row_id)
            self._later()

    def settle(self) -> bool:
        """Write what is waiting; whether nothing waits any more."""
        with self._lock:
            for row_id, values in list(self._waiting.items()):
                try:
                    self._write(row_id, **values)
                except DatabaseError:
                    return False
                del self._waiting[row_id]
        return True

    def on(self, row: R) -> R:
        """A row, detached, with the values that are not written yet."""
        if row is not None and self._waiting:
            for name, value in self._waiting.get(row.id, {}).items():
                setattr(row, name, value)
        return row

    def _later(self) -> None:
        timer = threading.Timer(RETRY_SECONDS, self._again)
        timer.daemon = True
        timer.start()

    def _again(self) -> None:
        if not self.settle():
            self._later()
