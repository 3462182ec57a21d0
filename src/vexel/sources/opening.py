"""Opens a source of any kind."""

from collections.abc import Callable
from pathlib import Path

from vexel.sources.contract import Source
from vexel.sources.model import ModelFile
from vexel.sources.object import ObjectFile

_KINDS: dict[str, Callable[[Path, str], Source]] = {"model": ModelFile, "object": ObjectFile}


def open_source(kind: str, file: Path, up: str = "auto") -> Source:
    """Open a source of a kind of the shot document.

    Raises
    ------
    SourceError
        When the file cannot be what the kind says.
    """
    return _KINDS[kind](file, up)
