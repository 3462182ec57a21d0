"""Blueprint: cameras of a shot, their saved views, and how they move in plan and elevation."""

from base64 import b64decode
from math import isfinite

import numpy as np
from flask import Blueprint, Response
from numpy.typing import NDArray
from pydantic import BaseModel, Field
from werkzeug.utils import secure_filename

from vexel.core.camera.camera_path import view_of
from vexel.core.camera.path_figures import Flight, axes_of, tilts_deg
from vexel.core.checks.path_findings import flight_of
from vexel.core.document.merge_patch import merged
from vexel.core.document.rig_spec import PathPlan, StopsPlan
from vexel.core.document.shot import Shot, read_shot_document
from vexel.core.document.stops_timetable import timetable
from vexel.core.edits.convert_rig import rerigged
from vexel.core.edits.save_view import saved_view
from vexel.core.errors import Mistake
from vexel.core.evaluate.camera_sampling import Filmed
from vexel.core.evaluate.camera_table import camera_of
from vexel.core.evaluate.frame_recipe import CameraPose
from vexel.core.evaluate.plan import Plan
from vexel.core.evaluate.single_camera import plan_of_camera
from vexel.core.wording import counted
from vexel.interchange.camera_file import flight_text
from vexel.interchange.imported_path import rig_of_file
from vexel.store.disk.scratch import scratch_folder
from vexel.store.shots import Made
from vexel.web.routes.shots import told_shot
from vexel.web.schemas import Based, CameraWay, DistanceBody, FlightBody, NewCamera, SaveView, ShotBody, Told, WayFile
from vexel.web.services import patched, studio
from vexel.web.spec import answers, spec

PLACES = 480
"""So many places of a camera's way are told at most."""
TYPES = {".csv": "text/csv", ".json": "application/json", ".gltf": "model/gltf+json"}
blueprint = Blueprint("cameras", __name__, url_prefix="/api")


class FlightQuery(BaseModel):
    """What a drag changes without saving, as a merge patch in JSON, and whose speeds are told."""

    patch: str = ""
    steady: bool = False
    camera: int = Field(default=0, ge=0)
    revision: int = 0


@blueprint.post("/shots/<shot_id>/views")
@spec.validate(resp=answers(ShotBody), tags=["cameras"])
def save_view(shot_id: str, json: SaveView) -> ShotBody:
    """Save the view of a frame, behind those that are saved already."""

    def saved(stands: Shot) -> Made:
        shot = _shown(stands, json.patch)
        view = saved_view(studio().prepared(shot).plan, _frame(shot, json.frame), json.name)
        kept = [old.model_dump(mode="json", exclude_defaults=True) for old in stands.camera.views]
        return {"camera": {"views": [*kept, view]}}, f"saving {view['name']}"

    return told_shot(studio().project.shots.change(shot_id, saved))


@blueprint.post("/shots/<shot_id>/cameras")
@spec.validate(resp=answers(ShotBody), tags=["cameras"])
def add_camera(shot_id: str, json: NewCamera) -> ShotBody:
    """Add a camera that stands where the shot's own one is in a frame."""

    def added(stands: Shot) -> Made:
        shot = _shown(stands, json.patch)
        patch = rerigged(studio().prepared(shot).plan, "still", _frame(shot, json.frame))
        rig = {name: value for name, value in patch["camera"]["rig"].items() if value is not None}
        names = {camera.name for camera in shot.all_cameras}
        name = next(name for n in range(2, 100) if (name := f"camera-{n}") not in names)
        cameras = [camera.model_dump(mode="json", exclude_defaults=True) for camera in shot.cameras]
        lens = shot.camera.lens.model_dump(mode="json", exclude_defaults=True)
        cameras.append({"name": name, "rig": rig} | ({"lens": lens} if lens else {}))
        return {"cameras": cameras}, f"adding {name}"

    return told_shot(studio().project.shots.change(shot_id, added))


@blueprint.get("/shots/<shot_id>/flight")
@spec.validate(resp=answers(FlightBody), tags=["cameras"])
def flight_of_shot(shot_id: str, query: FlightQuery) -> FlightBody:
    """How the cameras of a shot move."""
    saved = studio().project.shots.shot(shot_id)
    plan = studio().planned(patched(saved, query.patch), saved if query.steady else None)
    camera = min(query.camera, len(plan.shot.cameras))
    own = plan if camera == 0 else plan_of_camera(plan, camera)
    sphere = plan.basis.subject.sphere
    if sphere is None:
        raise Mistake(f"no camera looks at this {plan.shot.source.kind}: it gives pictures")
    frames = _some(plan.clock.frames)
    figures = flight_of(own)
    between = np.minimum(frames, max(len(figures.speeds) - 1, 0))
    speeds = figures.speeds[between] if len(figures.speeds) and figures.speeds.any() else np.array([])
    places, stops = _marks(own)
    filming = zip(plan.shot.all_cameras, plan.moves.cameras, strict=True)
    return FlightBody(
        cameras=[_way(c.name, plan, moving, frames) for c, moving in filming],
        centre=sphere.centre,
        radius=sphere.radius,
        outlines=[list(outline) for outline in plan.basis.subject.outlines],
        places=places,
        stops=stops,
        frames=frames.tolist(),
        speeds=speeds.tolist(),
        margins=[float(max(margin, -9.0)) for margin in figures.margins[frames]],
        told=_figures(own, figures),
    )


class PointQuery(BaseModel):
    """A point of a frame, as shares of its width and height from the top left."""

    frame: int = Field(default=0, ge=0)
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)
    patch: str = ""


@blueprint.get("/shots/<shot_id>/distance")
@spec.validate(resp=answers(DistanceBody), tags=["cameras"])
def distance_at(shot_id: str, query: PointQuery) -> DistanceBody:
    """How far away what is seen at a point of a frame is."""
    shot = patched(studio().project.shots.shot(shot_id), query.patch)
    picture = shot.picture.model_copy(update={"passes": ["depth"]})
    small = shot.model_copy(update={"picture": picture, "cameras": []}).rough()
    prepared = studio().prepared(small)
    recipe = prepared.plan.recipe(_frame(small, query.frame))
    distance = studio().stage.distance(prepared.at, recipe, query.x, query.y)
    pose = recipe.looks[0].camera
    if distance is None or pose is None:
        return DistanceBody(distance=None, point=None)
    return DistanceBody(
        distance=distance, point=seen_at(pose, small.picture.width / small.picture.height, query, distance)
    )


def seen_at(pose: CameraPose, aspect: float, at: PointQuery, distance: float) -> tuple[float, float, float]:
    """The point of the world at a point of a frame, so far along the line of sight."""
    path = view_of(*(np.array([vector]) for vector in (pose.position, pose.target, pose.up)))
    forward, right, up = (axis[0] for axis in axes_of(path))
    high = pose.parallel_high / 2 or np.tan(np.radians(pose.view_high_deg) / 2) * distance
    aside = (2 * at.x - 1 + pose.shift[0]) * high * aspect
    upward = (1 - 2 * at.y + pose.shift[1]) * high
    x, y, z = np.array(pose.position) + distance * forward + aside * right + upward * up
    return float(x), float(y), float(z)


@blueprint.get("/shots/<shot_id>/way<any('.csv', '.json', '.gltf'):suffix>")
def way_file(shot_id: str, suffix: str) -> Response:
    """The camera of every frame as a file."""
    text = flight_text(studio().prepared(studio().project.shots.shot(shot_id)).plan, suffix)
    headers = {"Content-Disposition": f'attachment; filename="{shot_id}{suffix}"'}
    return Response(text, mimetype=TYPES[suffix], headers=headers)


@blueprint.post("/shots/<shot_id>/way")
@spec.validate(resp=answers(ShotBody), tags=["cameras"])
def fly_as(shot_id: str, json: WayFile, query: Based) -> ShotBody:
    """Let the camera fly as a file says."""
    shots = studio().project.shots
    shot = shots.shot(shot_id)
    with scratch_folder("way") as folder:
        file = folder / (secure_filename(json.name) or "way")
        try:
            file.write_bytes(b64decode(json.data, validate=True))
        except ValueError:
            raise Mistake(f"{json.name} did not arrive whole: choose it again") from None
        rig = rig_of_file(shot, file, studio().stage.way, json.camera)
    gone = {name: None for name in type(shot.camera.rig).model_fields if name not in rig}
    lanes = [lane.model_dump(mode="json", exclude_defaults=True) for lane in shot.lanes]
    kept = [lane for lane in lanes if not lane["drive"].startswith("rig:")]
    patch = {"camera": {"rig": gone | rig}} | ({"lanes": kept} if len(kept) < len(lanes) else {})
    return told_shot(shots.edit(shot_id, patch, f"the way of {json.name}", revision=query.revision))


def _shown(shot: Shot, patch: dict[str, object]) -> Shot:
    return read_shot_document(merged(shot.model_dump(mode="json"), patch), shot.title) if patch else shot


def _frame(shot: Shot, frame: int) -> int:
    return min(frame, shot.clock.clock().frames - 1)


def _some(frames: int) -> NDArray[np.int64]:
    return np.unique(np.linspace(0, frames - 1, min(frames, PLACES)).round()).astype(int)


def _way(name: str, plan: Plan, camera: Filmed, frames: NDArray[np.int64]) -> CameraWay:
    path, picture = camera.world, plan.shot.picture
    high = camera.views_high_deg[frames]
    wide = np.degrees(2 * np.arctan(np.tan(np.radians(high) / 2) * picture.width / picture.height))
    return CameraWay(
        name=name,
        frames=frames.tolist(),
        positions=path.positions[frames].tolist(),
        looks=path.targets[frames].tolist(),
        ups=path.ups[frames].tolist(),
        views_wide_deg=wide.tolist(),
        views_high_deg=high.tolist(),
    )


def _marks(plan: Plan) -> tuple[list[tuple[float, float, float]], list[int]]:
    """Places of keys or views, and shown frames at which they are reached."""
    camera, clock, path = plan.shot.camera, plan.clock, plan.moves.path
    shown = clock.picks.frames_of(clock.motion)
    if isinstance(camera.rig, StopsPlan):
        arrivals = timetable(camera.rig, camera.views, clock.rate, clock.span).arrivals[: len(camera.views)]
        frames = np.minimum(np.searchsorted(shown, arrivals), clock.frames - 1)
        return [view.position for view in camera.views], frames.tolist()
    if isinstance(camera.rig, PathPlan) and path is not None:
        keys = [key.position for key in camera.rig.keys]
        return keys, [int(np.linalg.norm(path.positions - np.array(key), axis=1).argmin()) for key in keys]
    return [], []


def _figures(plan: Plan, figures: Flight) -> list[Told]:
    """What people ask first of a camera's movement."""
    told = []
    if len(figures.speeds) and figures.speeds.any():
        mean, most = figures.speeds.mean(), figures.speeds.max()
        told.append(Told(name="speed", value=f"{mean:.3g} units a frame, {most:.3g} at most"))
        if figures.turns_deg.max() > 1e-6:
            told.append(Told(name="turn", value=f"{figures.turns_deg.max():.3g}° a frame at most"))
        before = np.isfinite(figures.margins[:-1]) & np.isfinite(figures.margins[1:])
        if before.any() and plan.shot.camera.lens.projection != "panorama":
            most = figures.subject_px[before].max()
            told.append(Told(name="subject moves", value=f"{most:.3g} px a frame at most"))
    lean = float(np.abs(tilts_deg(camera_of(plan).path)).max())
    if lean > 0.05:
        told.append(Told(name="horizon leans", value=f"{lean:.3g}° at most"))
    if len(figures.jolts) and figures.jolts.any():
        told.append(Told(name="speed changes", value=f"{figures.jolts.max():.3g} units a frame² at most"))
    if plan.shot.camera.lens.projection == "panorama":
        return told
    shares, margins = figures.shares[np.isfinite(figures.shares)], figures.margins
    if len(shares):
        told.append(Told(name="subject takes", value=f"{shares.min():.0%} to {shares.max():.0%} of the frame"))
    least = float(margins.min())
    room = f"{least:.0%} of half the frame" if isfinite(least) and least >= 0 else None
    cut = counted(int((margins < -1e-6).sum()), "frame")
    told.append(Told(name="room about it", value=room or f"cut off in {cut}"))
    return told
