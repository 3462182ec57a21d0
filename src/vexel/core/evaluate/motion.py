"""What moves by the document and its source's facts alone: lanes, dials, and the way between saved views."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vexel.core.document.camera_spec import LightSpec
from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.evaluate.lane_sampling import eased_tracks, shot_phases
from vexel.core.evaluate.rigs import rig_of
from vexel.core.evaluate.rigs.stops import view_values
from vexel.core.evaluate.rigs.view_progress import ViewProgress
from vexel.core.evaluate.source_facts import SourceFacts
from vexel.core.lanes.dial import check_values
from vexel.core.lanes.targets import LIST_OFFSET

Array = NDArray[np.float64]
Tracks = Mapping[str, Array]
"""Values of lanes, each of shape (M,), by what they drive."""


@dataclass(frozen=True)
class Motion:
    """What moves at M phases of a shot, before anybody looks at its source.

    Attributes
    ----------
    phases : ndarray, shape (M,)
        Before the easing of the shot as a whole, 0 to 1.
    run : ndarray, shape (M,)
        With that easing.
    tracks : mapping of str to ndarray, shape (M,)
        All lanes, and what saved views show.
    dials : mapping of str to ndarray, shape (M,)
    list_offsets : ndarray of int, shape (M,)
        By how many slots the source is ahead of the time.
    progress : ViewProgress or None
        Progress of the shot's own camera between its views.
    """

    phases: Array
    run: Array
    tracks: Tracks
    dials: Mapping[str, Array]
    list_offsets: NDArray[np.int64]
    progress: ViewProgress | None


def motion_of(shot: Shot, facts: SourceFacts, phases: Array) -> Motion:
    """Work out what moves at given phases, shape (M,).

    Raises
    ------
    Mistake
        When the shot sets or drives a dial that is not there, or its lanes do not hold together.
    """
    run = shot_phases(shot, phases)
    progress = rig_of(shot.camera).progress(shot.clock.exact, run)
    tracks = eased_tracks(shot, run)
    if progress is not None:
        tracks = _of_views(shot, facts, progress) | tracks
    offsets = np.floor(tracks.get(LIST_OFFSET, np.zeros_like(phases)) + 1e-9).astype(np.int64)
    return Motion(phases, run, tracks, _dials(shot, facts, tracks, phases), offsets, progress)


def light_drives(light: LightSpec) -> dict[str, float]:
    """The light as the document sets it, by the names of its drives."""
    return {
        "light:azimuth": light.azimuth_deg,
        "light:elevation": light.elevation_deg,
        "light:strength": light.strength,
    }


def _of_views(shot: Shot, facts: SourceFacts, progress: ViewProgress) -> dict[str, Array]:
    dials: dict[str, float] = {dial.name: dial.default for dial in facts.dials} | getattr(shot.source, "dials", {})
    light = light_drives(shot.light)

    def usual(drive: str) -> float:
        return light[drive] if drive in light else dials.get(drive.removeprefix("dial:"), 1.0)

    return view_values(shot.camera.views, progress, usual)


def _dials(shot: Shot, facts: SourceFacts, tracks: Tracks, phases: Array) -> dict[str, Array]:
    known = {dial.name: dial for dial in facts.dials}
    values = {name: np.full_like(phases, dial.default) for name, dial in known.items()}
    for name, value in getattr(shot.source, "dials", {}).items():
        check_values(known, name, [value], f"source.dials.{name}")
        values[name] = np.full_like(phases, value)
    driven = [
        (f"lanes[{n}]", lane.dial, [key[1] for key in lane.keys]) for n, lane in enumerate(shot.lanes) if lane.dial
    ]
    driven += [
        (f"camera.views[{n}]", drive.removeprefix("dial:"), [value])
        for n, view in enumerate(shot.camera.views)
        for drive, value in view.shows.items()
        if drive.startswith("dial:")
    ]
    for where, name, keys in driven:
        check_values(known, name, keys, where)
        if f"dial:{name}" not in tracks:
            continue
        if name in facts.settings:
            kind = shot.source.kind
            raise Mistake(
                f"{where}: {name} decides the whole course of the {kind}, so nothing may drive it: "
                f"set it in source.dials{', or let show() take it' if kind == 'simulation' else ''}"
            )
        dial = known[name]
        # An easing may swing past its keys, and a lane that follows may go anywhere: the dial stops them.
        values[name] = np.clip(tracks[f"dial:{name}"], dial.low, dial.high)
    return values
