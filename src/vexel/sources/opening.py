"""Opens a source of any kind."""

from collections.abc import Callable
from typing import Any

from vexel.core.plan import SourceAt
from vexel.sources.contract import Source
from vexel.sources.model import ModelFile
from vexel.sources.object import ObjectFile
from vexel.sources.sketch import SketchFile

_KINDS: dict[str, Callable[..., Any]] = {"model": ModelFile, "object": ObjectFile, "sketch": SketchFile}


def open_source(at: SourceAt) -> Source:
    """Open a source of a kind of the shot document.

    Raises
    ------
    SourceError
        When the file cannot be what the kind says.
    """
    source: Source = _KINDS[at.kind](at.file, **at.options)
    return source
