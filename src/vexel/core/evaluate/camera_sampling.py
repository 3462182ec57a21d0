"""The camera of a shot, for all frames at once: where its rig takes it, and what its lens sees."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.camera_path import CameraPath, orbit, rolled, rotated, view_of
from vexel.core.camera.framing import Sphere, distance_to_fill
from vexel.core.camera.lens import field_of_view_deg
from vexel.core.document.camera_spec import CameraSpec
from vexel.core.document.rig_spec import OrbitSpec, PathSpec, StillSpec, StopsSpec
from vexel.core.document.shot import Shot
from vexel.core.document.stops_timetable import timetable
from vexel.core.evaluate.orbit_rig import Turns, turns_at
from vexel.core.evaluate.path_rig import path_along_keys
from vexel.core.evaluate.source_facts import Subject
from vexel.core.evaluate.stops_rig import ViewProgress, path_between_views, progress_at

Array = NDArray[np.float64]
PANORAMA_DEG = 90.0
"""A camera that looks all round stands as one would that sees this much."""


@dataclass(frozen=True)
class SampledCamera:
    """A camera at M phases of a shot.

    Attributes
    ----------
    path : CameraPath
    views_high_deg : ndarray, shape (M,)
        Vertical field of view.
    parallel_highs : ndarray, shape (M,)
        Height that the frame of a parallel projection covers, else 0.
    lens_radii, focuses : ndarray, shape (M,)
        Radius of the lens's opening, 0 where all is sharp, and the distance
        that is sharp, in the source's units.
    shifts : ndarray, shape (M, 2)
        Where the frame's middle lies, right and up of the optical axis, in
        halves of its width and height.
    light_deg : ndarray, shape (M,)
        How far the light has turned.
    subject_deg : ndarray, shape (M,)
        How far the subject has turned, about `subject_axis`.
    world : CameraPath
        The way beside a subject that turns; `path` is as that sees it.
    """

    path: CameraPath
    views_high_deg: Array
    parallel_highs: Array
    lens_radii: Array
    focuses: Array
    shifts: Array
    light_deg: Array
    subject_deg: Array
    subject_axis: tuple[float, float, float]
    world: CameraPath


def sample_camera(
    shot: Shot, camera: CameraSpec, subject: Subject, run: Array, tracks: Mapping[str, Array]
) -> SampledCamera | None:
    """Work out one camera of a shot at phases with the shot's easing, shape (M,); None where none looks."""
    if subject.sphere is None:
        return None
    own = camera is shot.camera
    tracks = tracks if own else {}
    sphere, none = subject.sphere, np.zeros_like(run)
    world, focal = _on_rig(shot, camera, subject, run, tracks)
    path = world
    rig = shot.camera.rig
    turns, axis = Turns(none, none, none), (0.0, 0.0, 1.0)
    if isinstance(rig, OrbitSpec):
        turns, axis = turns_at(rig, run), rig.axis
        if turns.subject.any():
            path = _before_turning(path, centre_of(rig, subject), axis, turns.subject)
    _, high = _views(shot, camera, focal)
    return SampledCamera(
        path,
        high,
        _parallel_highs(shot, camera, sphere, tracks, path, high),
        *_blur(camera, tracks, path, focal),
        _shifts(shot, camera, run),
        turns.light,
        turns.subject,
        axis,
        world,
    )


def view_progress(shot: Shot, camera: CameraSpec, run: Array) -> ViewProgress | None:
    """How far a camera has walked between its views; None on any other rig."""
    if not isinstance(camera.rig, StopsSpec):
        return None
    clock = shot.clock.clock()
    return progress_at(camera.rig, timetable(camera.rig, camera.views, clock.rate, clock.span), run, clock.span)


def centre_of(rig: StillSpec | OrbitSpec, subject: Subject) -> tuple[float, float, float]:
    """The point that a rig stands before, or goes round."""
    assert subject.sphere is not None
    if rig.centre == "centroid":
        return subject.centroid or subject.sphere.centre
    return rig.centre or subject.sphere.centre


def _on_rig(
    shot: Shot, camera: CameraSpec, subject: Subject, run: Array, tracks: Mapping[str, Array]
) -> tuple[CameraPath, Array]:
    """Where the rig takes the camera, and its focal length in mm, shape (M,)."""
    rig, lens = camera.rig, np.full_like(run, camera.lens.focal_mm)
    focal = tracks.get("lens:focal", lens)
    sphere = subject.sphere
    assert sphere is not None
    if isinstance(rig, PathSpec):
        path, flown = path_along_keys(rig, run, sphere)
        if flown is not None and "lens:focal" not in tracks:
            focal = np.where(np.isnan(flown), lens, flown)
        return path, focal
    gone = view_progress(shot, camera, run)
    if isinstance(rig, StopsSpec) and gone is not None:
        path, walked_focal = path_between_views(rig, camera.views, gone, sphere, camera.lens.focal_mm)
        return path, focal if "lens:focal" in tracks else walked_focal
    assert isinstance(rig, StillSpec | OrbitSpec)
    return _round(shot, camera, rig, subject, run, tracks, focal), focal


def _round(
    shot: Shot,
    camera: CameraSpec,
    rig: StillSpec | OrbitSpec,
    subject: Subject,
    run: Array,
    tracks: Mapping[str, Array],
    focal: Array,
) -> CameraPath:
    """A camera that stands before its subject, or goes round it."""
    assert subject.sphere is not None
    centre = centre_of(rig, subject)
    if isinstance(rig, StillSpec) and rig.position is not None:
        positions, targets = (
            np.tile(np.asarray(point, dtype=np.float64), (len(run), 1)) for point in (rig.position, centre)
        )
        return view_of(positions, targets, rolled(targets - positions, rig.roll_deg))
    fill = tracks.get("rig:fill", np.full_like(run, rig.fill))
    going = turns_at(rig, run).camera if isinstance(rig, OrbitSpec) else np.zeros_like(run)
    shorter = np.minimum(*_views(shot, camera, focal))
    off = distance_to_fill(subject.sphere.radius, fill, shorter) if rig.distance is None else rig.distance
    path = orbit(
        rig.start_deg + tracks.get("rig:azimuth", np.zeros_like(run)) + going,
        elevation_deg=tracks.get("rig:elevation", np.full_like(run, rig.elevation_deg)),
        centre=centre,
        distance=off * tracks.get("rig:distance", np.ones_like(run)),
        axis=rig.axis if isinstance(rig, OrbitSpec) else (0.0, 0.0, 1.0),
    )
    if isinstance(rig, OrbitSpec) or rig.roll_deg == 0:
        return path
    a = np.radians(rig.roll_deg)
    right = np.cross(path.targets - path.positions, path.ups)
    right /= np.linalg.norm(right, axis=1, keepdims=True)
    return replace(path, ups=path.ups * np.cos(a) + right * np.sin(a))


def _before_turning(
    path: CameraPath, centre: tuple[float, float, float], axis: tuple[float, float, float], degrees: Array
) -> CameraPath:
    """The camera as a subject sees it that turns: in its own coordinates all else turns the other way."""
    middle = np.asarray(centre, dtype=np.float64)
    positions, targets = (
        middle + rotated(points - middle, -degrees, axis) for points in (path.positions, path.targets)
    )
    return replace(view_of(positions, targets, rotated(path.ups, -degrees, axis)), elevations_deg=path.elevations_deg)


def _views(shot: Shot, camera: CameraSpec, focal: Array) -> tuple[Array, Array]:
    """Horizontal and vertical field of view in degrees, shape (M,) each."""
    if camera.lens.projection == "panorama":
        return np.full_like(focal, PANORAMA_DEG), np.full_like(focal, PANORAMA_DEG)
    wide, high = camera.lens.lens().used_sensor_mm(shot.picture.width, shot.picture.height)
    return field_of_view_deg(wide, focal), field_of_view_deg(high, focal)


def _shifts(shot: Shot, camera: CameraSpec, run: Array) -> Array:
    size = camera.lens.lens().used_sensor_mm(shot.picture.width, shot.picture.height)
    shift = np.array([2 * moved / side for moved, side in zip(camera.lens.shift_mm, size, strict=True)])
    return np.broadcast_to(shift, (len(run), 2))


def _parallel_highs(
    shot: Shot, camera: CameraSpec, sphere: Sphere, tracks: Mapping[str, Array], path: CameraPath, high_deg: Array
) -> Array:
    """Height that the frame covers in parallel projection: by the fill, or what a lens sees at its target."""
    none, rig, picture = np.zeros_like(high_deg), camera.rig, shot.picture
    if camera.lens.projection != "parallel":
        return none
    if isinstance(rig, PathSpec | StopsSpec) or rig.distance or (isinstance(rig, StillSpec) and rig.position):
        distance = np.linalg.norm(path.targets - path.positions, axis=1)
        highs: Array = 2 * distance * np.tan(np.radians(high_deg) / 2)
        return highs
    fill = tracks.get("rig:fill", none + rig.fill) / tracks.get("rig:distance", 1.0)
    result: Array = 2 * sphere.radius / fill * picture.height / min(picture.width, picture.height)
    return result


def _blur(camera: CameraSpec, tracks: Mapping[str, Array], path: CameraPath, focal: Array) -> tuple[Array, Array]:
    """Radius of the lens's opening, which is its focal length by its stop, and the distance that is sharp."""
    lens, none = camera.lens, np.zeros_like(focal)
    if lens.f_stop is None:
        return none, none
    looked_at = np.linalg.norm(path.targets - path.positions, axis=1)
    distance = tracks.get("lens:focus", looked_at if lens.focus is None else none + lens.focus)
    return focal / lens.f_stop / 2 / lens.unit_mm, distance
