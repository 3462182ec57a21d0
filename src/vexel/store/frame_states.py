"""States of runs and frames, as the ledger keeps them."""

from dataclasses import dataclass

from vexel.disk.finished import Finished

UNDER_WAY = ("queued", "running")
"""Of runs and compilings that are not over."""
READY = ("made", "kept")
"""Of frames that are there."""


@dataclass(frozen=True)
class FrameState:
    """A ledger row as the run controller reports it.

    Attributes
    ----------
    number : int
    key : str
    state : str
        ``waiting``, ``made``, ``kept`` (it was there already) or ``failed``.
    seconds : float
    bytes : int
    error : str
    digest : str
    written : int
        See `vexel.disk.finished.Finished`, as `bytes`.
    reason : str
        Why it was captured again, if it was.
    """

    number: int
    key: str
    state: str
    seconds: float = 0.0
    bytes: int = 0
    error: str = ""
    digest: str = ""
    written: int = 0
    reason: str = ""

    @property
    def file(self) -> Finished:
        """The frame's finished file."""
        return Finished(self.bytes, self.digest, self.written)
