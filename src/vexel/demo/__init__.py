"""The demo project: the wall screens of Tern Point, an invented marine field station."""

import shutil
from pathlib import Path

from vexel.core.document.shot import Shot, read_shot
from vexel.core.errors import Mistake
from vexel.core.wording import nearest_name
from vexel.demo.sample_footage import draw_quay, draw_survey

HERE = Path(__file__).parent

_SOURCES = {
    "shell-growth": ("Spiral shell", "model", "A shell that grows by the logarithmic-spiral law; five dials"),
    "mooring-buoy": ("Mooring buoy", "object", "The station's buoy as a mesh with its own colours"),
    "basin-floor": ("Basin floor", "model", "Depths of the tidal basin, coloured by height; four dials"),
    "tide-week": ("Tide of a week", "sketch", "The gauge's trace, drawn from five harmonic constituents"),
    "lighthouse": ("Lighthouse", "page", "An SVG page: the light flashes twice every ten seconds over a moving sea"),
    "ripples": ("Ripples", "simulation", "Shallow-water waves that cross the basin and come back from its walls"),
    "gauge": ("Gauge readings", "series", "A week of hourly readings from a table, against the computed tide"),
    "survey": ("Survey stills", "stills", "36 numbered pictures of the tide coming in; one of them is missing"),
    "quay": ("Quay", "clip", "Two seconds of video, any frame by its number"),
}


_FILMED = ("buoy-walk", "basin-flight", "shell-light", "shell-cameras", "basin-sphere")
"""Shots that film some of these sources in other ways: saved views, a path, a light, three cameras, a sphere."""


def demo_sources() -> list[dict[str, str]]:
    """Name, title, kind and a line about each demo source."""
    return [
        {"name": name, "title": title, "kind": kind, "about": about} for name, (title, kind, about) in _SOURCES.items()
    ]


def demo_shot(name: str, home: Path) -> Shot:
    """The shot that shows a demo source; its files are copied into the project.

    Raises
    ------
    Mistake
        When there is no such source.
    """
    if name not in _SOURCES:
        raise Mistake(f"there is no demo source {name!r}; {nearest_name(name, _SOURCES)}")
    _bring_sources(home)
    return read_shot((HERE / "shots" / f"{name}.json").read_bytes(), name)


def lay_out(home: Path) -> None:
    """Lay out the demo project in a folder, unless one is there already."""
    if (home / "shots").exists():
        return
    (home / "shots").mkdir(parents=True)
    _bring_sources(home)
    for name in (*_SOURCES, *_FILMED):
        shutil.copyfile(HERE / "shots" / f"{name}.json", home / "shots" / f"{name}.json")


def _bring_sources(home: Path) -> None:
    (home / "sources").mkdir(parents=True, exist_ok=True)
    for file in (HERE / "sources").iterdir():
        target = home / "sources" / file.name
        if file.is_file() and not target.exists():
            shutil.copyfile(file, target)
    if not (home / "sources/survey").exists():
        draw_survey(home / "sources/survey")
    if not (home / "sources/quay.mp4").exists():
        draw_quay(home / "sources/quay.mp4")
