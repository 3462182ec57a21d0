"""All that moves in a shot, as arrays: camera, dials, light and whatever else lanes drive."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from vexel.core.dial import check_values, nearest_name
from vexel.core.drives import LIST_OFFSET, before_camera, bounds_of
from vexel.core.errors import Mistake
from vexel.core.facts import SourceFacts, Subject
from vexel.core.framing import Sphere, clipping, distance_to_fill
from vexel.core.lens import field_of_view_deg
from vexel.core.motion import lane_tracks, shot_phases
from vexel.core.path import fly
from vexel.core.recipe import CameraPose, steady
from vexel.core.rig import CameraPath, Direction, orbit, rolled
from vexel.core.rig_plan import OrbitPlan, PathPlan, StillPlan
from vexel.core.shot import Shot

Array = NDArray[np.float64]
Tracks = Mapping[str, Array]
"""Values of lanes, each of shape (M,), by what they drive."""


@dataclass(frozen=True)
class Moves:
    """What moves, at M phases of a shot.

    Attributes
    ----------
    path : CameraPath or None
        None where no camera looks.
    views_high_deg : ndarray, shape (M,)
        Vertical field of view.
    parallel_highs : ndarray, shape (M,)
        Height that the frame of a parallel projection covers, 0 in perspective.
    lens_radii, focuses : ndarray, shape (M,)
        Radius of the lens's opening, 0 where all is sharp, and the distance
        that is sharp, in the source's units.
    dials : mapping of str to ndarray, shape (M,)
    stage : mapping of str to ndarray, shape (M,)
        What the stage itself takes, by the names of its drives: the light,
        opacities of parts, ends of colour maps.
    list_offsets : ndarray of int, shape (M,)
    tracks : mapping of str to ndarray, shape (M,)
        All lanes, as they run.
    """

    path: CameraPath | None
    views_high_deg: Array
    parallel_highs: Array
    lens_radii: Array
    focuses: Array
    dials: Mapping[str, Array]
    stage: Mapping[str, Array]
    list_offsets: NDArray[np.int64]
    tracks: Tracks

    def pose(self, row: int, sphere: Sphere) -> CameraPose | None:
        """The camera of one row; its clipping planes hold the subject, even when it goes round another point."""
        path = self.path
        if path is None:
            return None
        gap = path.positions[row] - np.asarray(sphere.centre)
        near, far = clipping(float(np.linalg.norm(gap)), sphere.radius)
        return CameraPose(
            position=_triple(path.positions[row]),
            target=_triple(path.targets[row]),
            up=_triple(path.ups[row]),
            view_high_deg=steady(self.views_high_deg[row]),
            near=steady(near),
            far=steady(far),
            parallel_high=steady(self.parallel_highs[row]),
            lens_radius=steady(self.lens_radii[row]),
            focus=steady(self.focuses[row]) if self.lens_radii[row] else 0.0,
        )


def moves_at(shot: Shot, facts: SourceFacts, subject: Subject, phases: Array) -> Moves:
    """Work out all that moves at given phases, shape (M,).

    Raises
    ------
    Mistake
        When the shot sets or drives what is not there, or takes it where it cannot go.
    """
    tracks = lane_tracks(shot, phases)
    check_drives(shot, tracks, facts, subject)
    run = shot_phases(shot, phases)
    path, focal = _camera(shot, subject.sphere, run, tracks)
    _, high = _views(shot, focal)
    stage = {} if path is None else _stage(shot, tracks, phases)
    dials = dial_values(shot, facts, tracks, phases)
    parallel = _parallel_highs(shot, subject.sphere, tracks, path, high)
    return Moves(
        path, high, parallel, *_blur(shot, tracks, path, focal), dials, stage, list_offsets(tracks, phases), tracks
    )


def list_offsets(tracks: Tracks, phases: Array) -> NDArray[np.int64]:
    """By how many slots the source is ahead of the time, shape (M,)."""
    values = tracks.get(LIST_OFFSET, np.zeros_like(phases))
    return np.floor(values + 1e-9).astype(np.int64)


def _camera(shot: Shot, sphere: Sphere | None, run: Array, tracks: Tracks) -> tuple[CameraPath | None, Array]:
    """Where the camera is, None where none looks, and its focal length in mm, shape (M,)."""
    rig, lens = shot.camera.rig, np.full_like(run, shot.camera.lens.focal_mm)
    focal = tracks.get("lens:focal", lens)
    if sphere is None:
        return None, focal
    if isinstance(rig, PathPlan):
        path, flown = fly(rig, run, sphere)
        if flown is not None and "lens:focal" not in tracks:
            focal = np.where(np.isnan(flown), lens, flown)
        return path, focal
    return _camera_round(rig, sphere, run, tracks, _views(shot, focal)), focal


def _views(shot: Shot, focal: Array) -> tuple[Array, Array]:
    """Horizontal and vertical field of view in degrees, shape (M,) each."""
    wide, high = shot.camera.lens.lens().used_sensor_mm(shot.picture.width, shot.picture.height)
    return field_of_view_deg(wide, focal), field_of_view_deg(high, focal)


def _camera_round(
    rig: StillPlan | OrbitPlan, sphere: Sphere, run: Array, tracks: Tracks, views: tuple[Array, Array]
) -> CameraPath:
    """A camera that stands before its subject, or goes round it."""
    fill = tracks.get("rig:fill", np.full_like(run, rig.fill))
    turns: float = 0.0
    direction: Direction = "ccw"
    if isinstance(rig, OrbitPlan):
        turns, direction = rig.turns, rig.direction
    path = orbit(
        run,
        turns=turns,
        direction=direction,
        start_deg=rig.start_deg + tracks.get("rig:azimuth", np.zeros_like(run)),
        elevation_deg=tracks.get("rig:elevation", np.full_like(run, rig.elevation_deg)),
        centre=rig.centre or sphere.centre,
        distance=distance_to_fill(sphere.radius, fill, np.minimum(*views)) * tracks.get("rig:distance", 1.0),
    )
    if isinstance(rig, OrbitPlan) or rig.roll_deg == 0:
        return path
    return replace(path, ups=rolled(path.targets - path.positions, rig.roll_deg))


def _parallel_highs(
    shot: Shot, sphere: Sphere | None, tracks: Tracks, path: CameraPath | None, high_deg: Array
) -> Array:
    """Height that the frame covers in parallel projection: by the fill, or what a lens sees at its target."""
    none, rig, picture = np.zeros_like(high_deg), shot.camera.rig, shot.picture
    if shot.camera.lens.projection == "perspective" or path is None or sphere is None:
        return none
    if isinstance(rig, PathPlan):
        distance = np.linalg.norm(path.targets - path.positions, axis=1)
        highs: Array = 2 * distance * np.tan(np.radians(high_deg) / 2)
        return highs
    fill = tracks.get("rig:fill", none + rig.fill) / tracks.get("rig:distance", 1.0)
    result: Array = 2 * sphere.radius / fill * picture.height / min(picture.width, picture.height)
    return result


def _blur(shot: Shot, tracks: Tracks, path: CameraPath | None, focal: Array) -> tuple[Array, Array]:
    """Radius of the lens's opening, which is its focal length by its stop, and the distance that is sharp."""
    lens, none = shot.camera.lens, np.zeros_like(focal)
    if lens.f_stop is None or path is None:
        return none, none
    looked_at = np.linalg.norm(path.targets - path.positions, axis=1)
    distance = tracks.get("lens:focus", looked_at if lens.focus is None else none + lens.focus)
    return focal / lens.f_stop / 2 / lens.unit_mm, distance


def _stage(shot: Shot, tracks: Tracks, phases: Array) -> dict[str, Array]:
    light = shot.light
    still = {
        "light:azimuth": light.azimuth_deg,
        "light:elevation": light.elevation_deg,
        "light:strength": light.strength,
    }
    stage = {drive: np.full_like(phases, value) for drive, value in still.items()}
    for drive, values in tracks.items():
        if drive in still or drive.startswith("range-"):
            stage[drive] = values
        elif drive.startswith("opacity:"):
            # An easing may swing past its keys; there is nothing more solid than solid.
            stage[drive] = np.clip(values, 0.0, 1.0)
    return stage


def check_drives(shot: Shot, tracks: Tracks, facts: SourceFacts, subject: Subject) -> None:
    """Refuse lanes that drive what is not there, or take it where it cannot go.

    Raises
    ------
    Mistake
        Naming the lane.
    """
    for number, lane in enumerate(shot.lanes):
        kind, _, name = lane.drive.partition(":")
        if before_camera(lane.drive) and subject.sphere is None:
            raise Mistake(
                f"lanes[{number}]: {lane.drive} is of the camera's world, but this {shot.source.kind} gives pictures, "
                "which no camera looks at: leave it out"
            )
        if lane.drive == LIST_OFFSET and facts.slots is None:
            raise Mistake(f"lanes[{number}]: {shot.source.kind} has no list of pictures or slices: leave it out")
        if kind == "opacity" and name not in subject.parts:
            raise Mistake(f"lanes[{number}]: there is no part {name!r}; {nearest_name(name, subject.parts)}")
        if kind.startswith("range-") and name not in subject.arrays:
            raise Mistake(f"lanes[{number}]: no colours show an array {name!r}; {nearest_name(name, subject.arrays)}")
        if lane.drive == "lens:focus" and shot.camera.lens.f_stop is None:
            raise Mistake(
                f"lanes[{number}]: {lane.drive} changes nothing while all is sharp: set camera.lens.f_stop, such as 2.8"
            )
        bounds, values = bounds_of(lane.drive), tracks[lane.drive]
        if bounds is None:
            continue
        if kind == "opacity":
            values = np.array([key[1] for key in lane.keys] or [0.0])
        least, most = float(values.min()), float(values.max())
        if least < bounds[0] or most > bounds[1]:
            raise Mistake(
                f"lanes[{number}]: {lane.drive} goes from {least:g} to {most:g}, outside {bounds[0]:g} to {bounds[1]:g}"
            )


def dial_values(shot: Shot, facts: SourceFacts, tracks: Tracks, phases: Array) -> dict[str, Array]:
    """Value of every dial at the phases of the tracks, each of shape (M,)."""
    known = {dial.name: dial for dial in facts.dials}
    values = {name: np.full_like(phases, dial.default) for name, dial in known.items()}
    for name, value in getattr(shot.source, "dials", {}).items():
        check_values(known, name, [value], f"source.dials.{name}")
        values[name] = np.full_like(phases, value)
    for number, lane in enumerate(shot.lanes):
        if not lane.dial:
            continue
        check_values(known, lane.dial, (key[1] for key in lane.keys), f"lanes[{number}]")
        if lane.dial in facts.settings:
            kind = shot.source.kind
            raise Mistake(
                f"lanes[{number}]: {lane.dial} decides the whole course of the {kind}, so no lane may drive it: "
                f"set it in source.dials{', or let show() take it' if kind == 'simulation' else ''}"
            )
        dial = known[lane.dial]
        # An easing may swing past its keys, and a lane that follows may go anywhere: the dial stops them.
        values[lane.dial] = np.clip(tracks[lane.drive], dial.low, dial.high)
    return values


def _triple(values: Array) -> tuple[float, float, float]:
    x, y, z = (steady(v) for v in values)
    return x, y, z
