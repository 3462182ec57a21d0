"""All that moves in a shot, as arrays: camera, dials, light and all other values that lanes drive."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from vexel.core.camera.camera_path import CameraPath, rotated
from vexel.core.camera.framing import Sphere, clipping
from vexel.core.camera.path_figures import axes_of
from vexel.core.document.background import rgb
from vexel.core.document.lane_spec import LaneSpec
from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.evaluate.camera_sampling import sample_camera
from vexel.core.evaluate.frame_spec import CameraPose, steady
from vexel.core.evaluate.motion import Array, Motion, Tracks, light_drives
from vexel.core.evaluate.sampled_camera import SampledCamera
from vexel.core.evaluate.source_facts import SourceFacts, Subject
from vexel.core.lanes.targets import LIST_OFFSET, bounds_of, needs_camera
from vexel.core.wording import nearest_name


@dataclass(frozen=True)
class SampledShot:
    """All that moves, at M phases of a shot.

    Attributes
    ----------
    motion : Motion
    cameras : tuple of SampledCamera
        The shot's own, and the further ones; none where no camera looks.
    stage : tuple of mapping of str to ndarray, shape (M,)
        What the stage itself takes, for each camera, by the names of its
        drives: the light, opacities of parts, ends of colour maps.
    """

    motion: Motion
    cameras: tuple[SampledCamera, ...]
    stage: tuple[Mapping[str, Array], ...]

    @property
    def camera(self) -> SampledCamera | None:
        """The shot's own camera."""
        return self.cameras[0] if self.cameras else None

    @property
    def path(self) -> CameraPath | None:
        """The way of the shot's own camera."""
        return self.cameras[0].path if self.cameras else None


def sample_shot(shot: Shot, facts: SourceFacts, subject: Subject, motion: Motion) -> SampledShot:
    """Work out cameras and light for what moves.

    Raises
    ------
    Mistake
        When the shot drives what is not there, or takes it where it cannot go.
    """
    check_drives(shot, motion.tracks, facts, subject)
    found = [sample_camera(shot, number, subject, motion) for number in range(len(shot.all_cameras))]
    cameras = tuple(camera for camera in found if camera is not None)
    stage = tuple(_stage(shot, motion.tracks, camera) | _shadows(shot, subject, camera) for camera in cameras)
    return SampledShot(motion, cameras, stage)


def pose_of(shot: Shot, number: int, camera: SampledCamera, row: int, sphere: Sphere) -> CameraPose:
    """The camera of one row; its clipping planes hold the subject, even when it goes round another point."""
    path, lens = camera.path, shot.all_cameras[number].lens
    gap = path.positions[row] - np.asarray(sphere.centre)
    away = float(np.linalg.norm(path.targets[row] - path.positions[row])) or 1.0
    near, far = clipping(float(np.linalg.norm(gap)), sphere.radius)
    round_about = lens.projection == "panorama"
    return CameraPose(
        position=_triple(path.positions[row], away),
        target=_triple(path.targets[row], away),
        up=_triple(path.ups[row]),
        view_high_deg=steady(camera.views_high_deg[row]),
        near=steady(near),
        far=steady(far),
        parallel_high=steady(camera.parallel_highs[row]),
        lens_radius=steady(camera.lens_radii[row]),
        focus=steady(camera.focuses[row]) if camera.lens_radii[row] else 0.0,
        shift=(steady(camera.shifts[row][0]), steady(camera.shifts[row][1])),
        panorama=lens.covers if round_about else "",
        eyes=lens.eyes if round_about else "one",
        eye_gap=lens.eye_mm / lens.unit_mm if round_about and lens.eyes != "one" else 0.0,
    )


def _stage(shot: Shot, tracks: Tracks, camera: SampledCamera) -> dict[str, Array]:
    still = light_drives(shot.light)
    stage = {drive: np.full_like(camera.views_high_deg, value) for drive, value in still.items()}
    for drive, values in tracks.items():
        if drive in still or drive.startswith("range-"):
            stage[drive] = values
        elif drive.startswith("opacity:"):
            # An easing may swing past its keys; there is nothing more solid than solid.
            stage[drive] = np.clip(values, 0.0, 1.0)
    stage["light:azimuth"] = stage["light:azimuth"] + camera.light_deg
    if shot.light.stands == "world":
        stage["light:azimuth"], stage["light:elevation"] = _from_camera(
            stage["light:azimuth"], stage["light:elevation"], camera
        )
    return stage


def _shadows(shot: Shot, subject: Subject, camera: SampledCamera) -> dict[str, Array]:
    """What casts and takes shadows; nothing where none is wanted, so that the keys of such frames stay."""
    light, picture = shot.light, shot.picture
    shades: dict[str, float] = {}
    if light.shadow:
        shades |= {"shadow": light.shadow, "shadow:soft": light.soft_deg}
    if light.surround:
        shades["surround"] = light.surround
    above: dict[str, Array] = {}
    if light.environment:
        shades |= {"environment": light.environment}
        for name, colour in (("sky", light.sky), ("earth", light.earth)):
            shades |= {f"environment:{name}:{n}": code / 255 for n, code in enumerate(rgb(colour))}
        above = _above(camera)
    if picture.ground and subject.box is not None:
        shades |= {"ground": subject.box[0][2], "ground:contact": picture.contact}
    return {name: np.full_like(camera.views_high_deg, value) for name, value in shades.items()} | above


def _above(camera: SampledCamera) -> dict[str, Array]:
    """Where the world's up is as a camera sees it: to the right, up, and toward it."""
    up = np.tile(np.array([0.0, 0.0, 1.0]), (len(camera.views_high_deg), 1))
    if camera.subject_deg.any():
        up = rotated(up, -camera.subject_deg, camera.subject_axis)
    return {f"environment:up:{n}": (up * axis).sum(axis=1) for n, axis in enumerate(_view_axes(camera.path))}


def _from_camera(azimuths_deg: Array, elevations_deg: Array, camera: SampledCamera) -> tuple[Array, Array]:
    """Azimuth and elevation, relative to a camera, of a light that is fixed in the world; degrees, shape (M,)."""
    a, e = np.radians(azimuths_deg), np.radians(elevations_deg)
    toward = np.stack([np.sin(a) * np.cos(e), -np.cos(a) * np.cos(e), np.sin(e)], axis=1)
    if camera.subject_deg.any():
        toward = rotated(toward, -camera.subject_deg, camera.subject_axis)
    right, up, back = ((toward * axis).sum(axis=1) for axis in _view_axes(camera.path))
    return np.degrees(np.arctan2(right, back)), np.degrees(np.arcsin(np.clip(up, -1, 1)))


def _view_axes(path: CameraPath) -> tuple[Array, Array, Array]:
    forward, right, up = axes_of(path)
    return right, up, -forward


def check_drives(shot: Shot, tracks: Tracks, facts: SourceFacts, subject: Subject) -> None:
    """Refuse lanes that drive what is not there, or take it where it cannot go.

    Raises
    ------
    Mistake
        Naming the lane.
    """
    for number, view in enumerate(shot.camera.views):
        for drive in view.shows:
            part = drive.removeprefix("opacity:")
            if drive != part and subject.sphere is not None and part not in subject.parts:
                raise Mistake(f"camera.views[{number}]: there is no part {part!r}; {nearest_name(part, subject.parts)}")
    for number, lane in enumerate(shot.lanes):
        if wrong := _missing(shot, lane.drive, facts, subject) or _beyond(lane, tracks[lane.drive]):
            raise Mistake(f"lanes[{number}]: {wrong}")


def _missing(shot: Shot, drive: str, facts: SourceFacts, subject: Subject) -> str:
    """Why there is nothing that a lane drives; empty where there is."""
    kind, _, name = drive.partition(":")
    if needs_camera(drive) and subject.sphere is None:
        source = shot.source.kind
        return f"{drive} needs a camera, but a {source} provides pictures without a camera: remove the lane"
    if drive == LIST_OFFSET and facts.source_frames is None:
        return f"{shot.source.kind} has no list of pictures or slices: remove the lane"
    if kind == "opacity" and name not in subject.parts:
        return f"there is no part {name!r}; {nearest_name(name, subject.parts)}"
    if kind.startswith("range-") and name not in subject.arrays:
        return f"no part is coloured by an array {name!r}; {nearest_name(name, subject.arrays)}"
    if drive == "lens:focus" and shot.camera.lens.f_stop is None:
        return f"{drive} has no effect while everything is in focus: set camera.lens.f_stop, such as 2.8"
    return ""


def _beyond(lane: LaneSpec, values: Array) -> str:
    """Where a lane takes what it drives beyond its bounds; empty where it stays within."""
    bounds = bounds_of(lane.drive)
    if bounds is None:
        return ""
    if lane.drive.startswith("opacity:"):
        # Its keys alone count: an easing may swing past them.
        values = np.array([key[1] for key in lane.keys] or [0.0])
    least, most = float(values.min()), float(values.max())
    if bounds[0] <= least and most <= bounds[1]:
        return ""
    return f"{lane.drive} goes from {least:g} to {most:g}, outside {bounds[0]:g} to {bounds[1]:g}"


def _triple(values: Array, scale: float | None = None) -> tuple[float, float, float]:
    x, y, z = (steady(v, scale) for v in values)
    return x, y, z
