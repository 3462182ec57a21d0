"""Opens a source of any kind."""

from importlib import import_module

from vexel.core.evaluate.source_facts import SourceAt
from vexel.sources.protocols import Source

_KINDS = {
    "model": ("model", "ModelFile"),
    "sketch": ("sketch", "SketchFile"),
    "simulation": ("simulation", "SimulationFile"),
    "series": ("series", "SeriesFile"),
    "object": ("object", "ObjectFile"),
    "stills": ("stills", "StillsFolder"),
    "clip": ("clip", "ClipFile"),
    "page": ("page", "PageFile"),
}
"""Module and class of each kind; imported when it is opened, since each brings libraries of its own."""
GEOMETRY = frozenset({"model", "object"})
"""Kinds that always give geometry, for a camera to look at."""


def get_ready(kind: str) -> None:
    """Import a kind's libraries and start the program that it needs, ahead of its first frame."""
    module = import_module(f"vexel.sources.kinds.{_KINDS[kind][0]}")
    starting = getattr(module, "get_ready", None)
    if starting is not None:
        starting()


def open_source(at: SourceAt) -> Source:
    """Open a source of a kind of the shot document.

    Raises
    ------
    SourceError
        When the file cannot be what the kind says.
    """
    module, name = _KINDS[at.kind]
    source: Source = getattr(import_module(f"vexel.sources.kinds.{module}"), name)(at.file, **at.options)
    return source
