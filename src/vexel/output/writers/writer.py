"""What a writer is: something that takes a file's pictures in order, once or several times over."""

from abc import ABC, abstractmethod
from pathlib import Path
from typing import Any

from vexel.output.job.job import Job
from vexel.output.job.pictures import Pixels
from vexel.output.job.receipt import Check


class Writer(ABC):
    """Writes one file.

    Attributes
    ----------
    notes : list of str
        What the receipt is to say beside its checks.
    checks : list of Check
        Lines of the receipt that only the writer can give.
    needs_pictures : bool
        Whether frames are read for it.
    """

    needs_pictures = True

    @property
    def may_repeat(self) -> bool:
        """Whether it may ask for another round."""
        return False

    def __init__(self, job: Job, part: Path) -> None:
        self.job = job
        self.part = part
        self.notes: list[str] = []
        self.checks: list[Check] = []

    def prepare(self, pixels: Pixels) -> Any:
        """What is made of a placed picture in a reading thread, several at a time."""
        return pixels

    @abstractmethod
    def add(self, prepared: Any, number: int) -> None:
        """Take the next picture, in order."""

    @abstractmethod
    def end(self) -> bool:
        """End a round over all pictures; whether another is wanted."""

    def close(self) -> None:  # noqa: B027
        """Let go of all that is open, whether the file is whole or not; not every writer holds something."""
