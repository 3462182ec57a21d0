"""What files that FFmpeg's muxers write have in common."""

from pathlib import Path
from typing import Any

from vexel.output.job.job import Job
from vexel.output.writers.search import SizeSearch
from vexel.output.writers.writer import Writer


class ContainerWriter(Writer):
    """Encodes pictures into a container; once, or as often as a size needs.

    Attributes
    ----------
    search : SizeSearch or None
        The search for a size, where one is set.
    """

    def __init__(self, job: Job, part: Path, search: SizeSearch | None) -> None:
        super().__init__(job, part)
        self.search = search
        self._container: Any = None
        self._stream: Any = None

    @property
    def may_repeat(self) -> bool:
        """Whether it may ask for another round."""
        return self.search is not None

    def weighed(self, size: int) -> int:
        """What a size is held against the one that is wanted by."""
        return size

    def finishing(self) -> None:
        """Write what comes after the last picture."""

    def finished(self) -> None:
        """Change what only the whole file tells."""

    def end(self) -> bool:
        """Finish the file; another round where its size is not yet that wanted."""
        self._container.mux(self._stream.encode())
        self.finishing()
        self.close()
        self.finished()
        if self.search and self.search.another(self.weighed(self.part.stat().st_size)):
            return True
        self.notes.extend(self.search.notes if self.search else [])
        return False

    def close(self) -> None:
        """Close what is open."""
        if self._container is not None:
            self._container.close()
            self._container = None
