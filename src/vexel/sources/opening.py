"""Opens a source of any kind."""

from collections.abc import Callable
from typing import Any

from vexel.core.plan import SourceAt
from vexel.sources.clip import ClipFile
from vexel.sources.contract import Source
from vexel.sources.model import ModelFile
from vexel.sources.object import ObjectFile
from vexel.sources.page import PageFile
from vexel.sources.series import SeriesFile
from vexel.sources.simulation import SimulationFile
from vexel.sources.sketch import SketchFile
from vexel.sources.stills import StillsFolder

_KINDS: dict[str, Callable[..., Any]] = {
    "model": ModelFile,
    "sketch": SketchFile,
    "simulation": SimulationFile,
    "series": SeriesFile,
    "object": ObjectFile,
    "stills": StillsFolder,
    "clip": ClipFile,
    "page": PageFile,
}


def open_source(at: SourceAt) -> Source:
    """Open a source of a kind of the shot document.

    Raises
    ------
    SourceError
        When the file cannot be what the kind says.
    """
    source: Source = _KINDS[at.kind](at.file, **at.options)
    return source
