"""A walk from view to view: its times, and where the camera is at each."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.camera_path import CameraPath, rolled, view_of
from vexel.core.camera.framing import Sphere
from vexel.core.document.rig_spec import StopsSpec
from vexel.core.document.stops_timetable import Timetable, way_from
from vexel.core.document.view_spec import ViewSpec
from vexel.core.lanes.easing import Easing
from vexel.core.time.clock import Span

Array = NDArray[np.float64]


@dataclass(frozen=True)
class ViewProgress:
    """Where the camera is between stops.

    Attributes
    ----------
    leaving, reaching : ndarray of int, shape (N,)
        Numbers of the views between which it is.
    share : ndarray, shape (N,)
        How much of the way it has gone, with its easing.
    """

    leaving: NDArray[np.intp]
    reaching: NDArray[np.intp]
    share: Array

    def between(self, values: Array) -> Array:
        """Numbers or vectors, one a view, as they are on the way; shape (N,) or (N, K)."""
        share = self.share if values.ndim == 1 else self.share[:, None]
        first, last = values[self.leaving], values[self.reaching]
        # Written so that at rest it is the view's own value to the bit.
        mixed: Array = np.where(share == 0, first, np.where(share == 1, last, first + share * (last - first)))
        return mixed


def progress_at(stops: StopsSpec, times: Timetable, phases: Array, span: Span) -> ViewProgress:
    """Between which views the camera is at phases of the shot, shape (N,)."""
    steps = times.frames if span == "loop" else max(times.frames - 1, 1)
    # Phases come from frames by a division, so that a whole frame may lie a rounding error beside it.
    places = phases * steps
    whole = np.rint(places)
    places = np.where(np.abs(places - whole) < 1e-6, whole, places)
    arrivals, count = np.array(times.arrivals), len(times.dwells)
    leaving = np.clip(np.searchsorted(arrivals, places, side="right") - 1, 0, len(arrivals) - 1)
    leaving = np.minimum(leaving, count - 1 if not stops.closed else count)
    dwells = np.array([*times.dwells, 0])
    travels = np.array([*times.travels, *([0] * (count + 1 - len(times.travels)))])
    gone = places - arrivals[leaving] - dwells[np.minimum(leaving, count)]
    lasts = travels[np.minimum(leaving, count)]
    part = np.clip(np.where(lasts > 0, gone / np.maximum(lasts, 1), 0.0), 0.0, 1.0)
    share = Easing.parse(stops.ease)(part.copy())
    share = np.where(part <= 0, 0.0, np.where(part >= 1, 1.0, share))
    return ViewProgress(leaving % count, (leaving + 1) % count, share)


def path_between_views(
    stops: StopsSpec, views: Sequence[ViewSpec], gone: ViewProgress, subject: Sphere, focal_mm: float
) -> tuple[CameraPath, Array]:
    """Positions, targets and ups on the walk, and focal lengths.

    Straight, the camera and what it looks at go along lines. Around, the
    camera goes about the subject's middle on the shorter side: its azimuth and
    elevation change evenly, its distance by equal factors.

    Parameters
    ----------
    stops : StopsPlan
    views : sequence of ViewPlan
    gone : Walk
    subject : Sphere
    focal_mm : float
        Of views that say none.

    Returns
    -------
    CameraPath
    ndarray, shape (N,)
        Focal lengths in mm.
    """
    places = np.array([view.position for view in views], dtype=np.float64)
    looks = np.array([view.look for view in views], dtype=np.float64)
    rolls = np.array([view.roll_deg for view in views])
    around = np.array([way_from(stops, view) == "around" for view in views])[gone.leaving]
    positions = np.where(around[:, None], _round(places, gone, subject), gone.between(places))
    targets = _apart(gone.between(looks), positions, places, gone)
    ups = rolled(targets - positions, _shortest(rolls, gone))
    focals = np.array([view.focal_mm or focal_mm for view in views])
    return view_of(positions, targets, ups), np.exp(gone.between(np.log(focals)))


def view_values(views: Sequence[ViewSpec], gone: ViewProgress, usual: Callable[[str], float]) -> dict[str, Array]:
    """What the views show, blended on the way, shape (N,) each; `usual` tells what one shows that says nothing."""
    drives = dict.fromkeys(drive for view in views for drive in view.shows)
    return {drive: gone.between(np.array([view.shows.get(drive, usual(drive)) for view in views])) for drive in drives}


def _round(places: Array, gone: ViewProgress, subject: Sphere) -> Array:
    away = places - np.asarray(subject.centre)
    flat = np.hypot(away[:, 0], away[:, 1])
    distance = np.maximum(np.hypot(flat, away[:, 2]), 1e-12 * max(subject.radius, 1e-300))
    azimuth = np.degrees(np.arctan2(away[:, 0], -away[:, 1]))
    # Straight above there is no azimuth: the way leads on over the neighbour's side.
    steep = flat <= 1e-9 * distance
    a = _shortest(azimuth, gone)
    a = np.where(steep[gone.leaving], azimuth[gone.reaching], np.where(steep[gone.reaching], azimuth[gone.leaving], a))
    e = gone.between(np.arctan2(away[:, 2], flat))
    d = np.exp(gone.between(np.log(distance)))
    a = np.radians(a)
    direction = np.stack([np.cos(e) * np.sin(a), -np.cos(e) * np.cos(a), np.sin(e)], axis=1)
    rounded: Array = np.asarray(subject.centre) + d[:, None] * direction
    resting = (gone.share == 0)[:, None]
    result: Array = np.where(
        resting, places[gone.leaving], np.where((gone.share == 1)[:, None], places[gone.reaching], rounded)
    )
    return result


def _apart(targets: Array, positions: Array, places: Array, gone: ViewProgress) -> Array:
    """Targets; where the camera passes through one, it looks ahead."""
    ahead = places[gone.reaching] - places[gone.leaving]
    touched = np.linalg.norm(targets - positions, axis=1) <= 1e-9 * np.linalg.norm(ahead, axis=1)
    return np.where(touched[:, None], positions + ahead, targets)


def _shortest(degrees: Array, gone: ViewProgress) -> Array:
    """Angles on the shorter side from view to view."""
    first = degrees[gone.leaving]
    turn = (degrees[gone.reaching] - first + 180) % 360 - 180
    result: Array = np.where(turn == -180, first + gone.share * 180, first + gone.share * turn)
    return result
