"""The rig that goes from one saved view to the next, with a rest at each."""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.camera_path import CameraPath, rolled, view_of
from vexel.core.camera.framing import Sphere
from vexel.core.document.shot import Shot
from vexel.core.document.stops_spec import StopsSpec, Timetable
from vexel.core.document.view_spec import ViewSpec
from vexel.core.evaluate.rigs.path_conversion import stands
from vexel.core.evaluate.rigs.rig import Rig, RigPath, SaveView, Tracks
from vexel.core.evaluate.rigs.stops_findings import stops_findings
from vexel.core.evaluate.rigs.view_progress import ViewProgress
from vexel.core.evaluate.source_facts import Point, Subject
from vexel.core.finding import Finding
from vexel.core.time.clock import Clock, Span

Array = NDArray[np.float64]
STOPS = 4
"""Number of views that are saved along the way of a camera that has none yet."""


class StopsRig(Rig[StopsSpec]):
    """A camera that goes from saved view to saved view."""

    def sample(self, shot: Shot, subject: Subject, phases: Array, tracks: Tracks) -> tuple[CameraPath, Array]:
        """See `Rig.sample`."""
        assert subject.sphere is not None
        progress = self.progress(shot.clock.exact, phases)
        path, focal = path_between_views(
            self.spec, self.camera.views, progress, subject.sphere, self.camera.lens.focal_mm
        )
        return path, tracks.get("lens:focal", focal)

    def progress(self, clock: Clock, phases: Array) -> ViewProgress:
        """See `Rig.progress`."""
        return progress_at(self.spec, self._timetable(clock), phases, clock.span)

    def marks(self, path: RigPath) -> tuple[list[Point], list[int]]:
        """See `Rig.marks`."""
        clock, views = path.clock, self.camera.views
        arrivals = self._timetable(clock).arrivals[: len(views)]
        shown = clock.selection.frames_of(clock.motion)
        # The first frame that is this far; or, run backwards, that has not yet gone back behind it.
        come = (
            shown[None] >= np.asarray(arrivals)[:, None]
            if not clock.selection.runs_back(0, clock.motion)
            else (shown[None] <= np.asarray(arrivals)[:, None])
        )
        frames = np.where(come.any(axis=1), come.argmax(axis=1), clock.frames - 1)
        return [view.position for view in views], frames.tolist()

    def findings(self, path: RigPath) -> list[Finding]:
        """See `Rig.findings`."""
        return stops_findings(self.spec, self._timetable(path.clock), path)

    @classmethod
    def converted(cls, path: RigPath, frame: int, save_view: SaveView) -> dict[str, Any]:
        """See `Rig.converted`."""
        views = {} if path.shot.camera.views else {"views": _views_along(path, save_view)}
        return {"rig": {"kind": "stops"}} | views

    def _timetable(self, clock: Clock) -> Timetable:
        return self.spec.timetable(self.camera.views, clock.rate, clock.span)


def _views_along(path: RigPath, save_view: SaveView) -> list[dict[str, Any]]:
    """Views along the way that the camera takes now: one of a camera that stands."""
    if stands(path):
        return [save_view(0, "View 1")]
    count = len(getattr(path.shot.camera.rig, "keys", ())) or STOPS
    # A turn returns to its start, which is not one more view.
    places = np.arange(count) / (count if path.clock.span == "loop" else max(count - 1, 1))
    frames = dict.fromkeys(np.rint(places * (path.clock.frames - 1)).astype(int).tolist())
    return [save_view(frame, f"View {n}") for n, frame in enumerate(frames, start=1)]


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
    share = stops.easing(part.copy())
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
    around = np.array([stops.way_from(view) == "around" for view in views])[gone.leaving]
    positions = np.where(around[:, None], _round(places, gone, subject), gone.between(places))
    targets = _apart(gone.between(looks), positions, places, gone)
    ups = rolled(targets - positions, _shortest(rolls, gone))
    focals = np.array([view.focal_mm or focal_mm for view in views])
    return view_of(positions, targets, ups), np.exp(gone.between(np.log(focals)))


def view_values(views: Sequence[ViewSpec], gone: ViewProgress, usual: Callable[[str], float]) -> dict[str, Array]:
    """What the views show, blended on the way, shape (N,) each; `usual` gives the value of a view that sets none."""
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
