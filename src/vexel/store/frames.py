"""Frames on disk under their keys."""

from pathlib import Path


class FrameStore:
    """A folder that holds each frame once, named by its key.

    Frames come here by `vexel.store.write.write_whole`, so what is there is whole.
    """

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def path(self, key: str, suffix: str = ".png") -> Path:
        """Where the frame of this key is, or will be."""
        return self._folder / key[:2] / f"{key}{suffix}"

    def size(self, key: str, suffix: str = ".png") -> int | None:
        """Bytes of the frame, or None when it is not there."""
        try:
            return self.path(key, suffix).stat().st_size
        except FileNotFoundError:
            return None
