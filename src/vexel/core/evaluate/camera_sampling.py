"""The camera of a shot, for all frames at once: where its rig takes it, and what its lens sees."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.camera_path import CameraPath, rolled_by, rotated, view_of
from vexel.core.camera.framing import Sphere
from vexel.core.document.camera_spec import CameraSpec
from vexel.core.document.shot import Shot
from vexel.core.evaluate.motion import Motion
from vexel.core.evaluate.rigs import Rig, rig_of
from vexel.core.evaluate.sampled_camera import SampledCamera, views_deg
from vexel.core.evaluate.source_facts import Subject

Array = NDArray[np.float64]


def sample_camera(shot: Shot, number: int, subject: Subject, motion: Motion) -> SampledCamera | None:
    """Work out one camera of a shot, counted from its own one on; None where the source gives pictures.

    Parameters
    ----------
    shot : Shot
    number : int
    subject : Subject
    motion : Motion
        Its lanes drive the shot's own camera alone.
    """
    if subject.sphere is None:
        return None
    camera, run, tracks = shot.all_cameras[number], motion.run, motion.tracks if number == 0 else {}
    rig, turning = rig_of(camera), rig_of(shot.camera)
    world, focal = rig.sample(shot, subject, run, tracks)
    if (lean := rig.lean(shot, motion.phases)) is not None:
        world = rolled_by(world, lean)
    # What the shot's own rig turns before its camera, all cameras see turning.
    turns, (centre, axis) = turning.turns(run), turning.turning_axis(subject)
    path = _before_turning(world, centre, axis, turns.subject) if turns.subject.any() else world
    _, high = views_deg(shot, camera, focal)
    return SampledCamera(
        path,
        high,
        _parallel_highs(shot, rig, subject.sphere, tracks, path, high),
        *_blur(camera, tracks, path, focal),
        _shifts(shot, camera, run),
        turns.light,
        turns.subject,
        axis,
        world,
    )


def _before_turning(
    path: CameraPath, centre: tuple[float, float, float], axis: tuple[float, float, float], degrees: Array
) -> CameraPath:
    """The camera as a subject sees it that turns: in its own coordinates all else turns the other way."""
    middle = np.asarray(centre, dtype=np.float64)
    positions, targets = (
        middle + rotated(points - middle, -degrees, axis) for points in (path.positions, path.targets)
    )
    return replace(view_of(positions, targets, rotated(path.ups, -degrees, axis)), elevations_deg=path.elevations_deg)


def _shifts(shot: Shot, camera: CameraSpec, run: Array) -> Array:
    size = camera.lens.lens().used_sensor_mm(shot.picture.width, shot.picture.height)
    shift = np.array([2 * moved / side for moved, side in zip(camera.lens.shift_mm, size, strict=True)])
    return np.broadcast_to(shift, (len(run), 2))


def _parallel_highs(
    shot: Shot, rig: Rig[Any], sphere: Sphere, tracks: Mapping[str, Array], path: CameraPath, high_deg: Array
) -> Array:
    """Height that the frame covers in parallel projection: by the fill, or what a lens sees at its target."""
    none, picture = np.zeros_like(high_deg), shot.picture
    if rig.camera.lens.projection != "parallel":
        return none
    if rig.fill is None:
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
