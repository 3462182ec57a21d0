"""Blueprint: cameras of a shot, their saved views, and how they move in plan and elevation."""

from base64 import b64decode
from math import isfinite

import numpy as np
from flask import Blueprint, Response
from numpy.typing import NDArray
from pydantic import BaseModel, Field
from werkzeug.utils import secure_filename

from vexel.core.camera.camera_path import view_of
from vexel.core.camera.path_figures import PathFigures, axes_of, tilts_deg
from vexel.core.checks.path_findings import figures_of
from vexel.core.document.merge_patch import merged
from vexel.core.document.rig_spec import PathSpec, StopsSpec
from vexel.core.document.shot import Shot, read_shot_document
from vexel.core.document.stops_timetable import timetable
from vexel.core.edits.convert_rig import convert_rig
from vexel.core.edits.save_view import save_view
from vexel.core.errors import Mistake
from vexel.core.evaluate.camera_sampling import SampledCamera
from vexel.core.evaluate.camera_table import camera_of
from vexel.core.evaluate.frame_recipe import CameraPose
from vexel.core.evaluate.plan import Plan
from vexel.core.evaluate.single_camera import plan_of_camera
from vexel.core.wording import counted
from vexel.interchange.camera_file import camera_file_text
from vexel.interchange.imported_path import rig_of_file
from vexel.store.disk.scratch import scratch_folder
from vexel.store.shots import Made
from vexel.web.routes.shots import saved_shot
from vexel.web.schemas import (
    Based,
    CameraPathBody,
    DistanceBody,
    NamedValue,
    NewCamera,
    PathFiguresBody,
    PathFile,
    SaveView,
    ShotBody,
)
from vexel.web.services import patched, services
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
def put_view(shot_id: str, json: SaveView) -> ShotBody:
    """Save the view of a frame, behind those that are saved already."""

    def saved(stands: Shot) -> Made:
        shot = _shown(stands, json.patch)
        view = save_view(services().prepared(shot).plan, _frame(shot, json.frame), json.name)
        kept = [old.model_dump(mode="json", exclude_defaults=True) for old in stands.camera.views]
        return {"camera": {"views": [*kept, view]}}, f"saving {view['name']}"

    return saved_shot(services().project.shots.change(shot_id, saved))


@blueprint.post("/shots/<shot_id>/cameras")
@spec.validate(resp=answers(ShotBody), tags=["cameras"])
def add_camera(shot_id: str, json: NewCamera) -> ShotBody:
    """Add a camera that stands where the shot's own one is in a frame."""

    def added(stands: Shot) -> Made:
        shot = _shown(stands, json.patch)
        patch = convert_rig(services().prepared(shot).plan, "still", _frame(shot, json.frame))
        rig = {name: value for name, value in patch["camera"]["rig"].items() if value is not None}
        names = {camera.name for camera in shot.all_cameras}
        name = next(name for n in range(2, 100) if (name := f"camera-{n}") not in names)
        cameras = [camera.model_dump(mode="json", exclude_defaults=True) for camera in shot.cameras]
        lens = shot.camera.lens.model_dump(mode="json", exclude_defaults=True)
        cameras.append({"name": name, "rig": rig} | ({"lens": lens} if lens else {}))
        return {"cameras": cameras}, f"adding {name}"

    return saved_shot(services().project.shots.change(shot_id, added))


@blueprint.get("/shots/<shot_id>/camera-figures")
@spec.validate(resp=answers(PathFiguresBody), tags=["cameras"])
def camera_figures(shot_id: str, query: FlightQuery) -> PathFiguresBody:
    """How the cameras of a shot move."""
    saved = services().project.shots.shot(shot_id)
    plan = services().planned(patched(saved, query.patch), saved if query.steady else None)
    camera = min(query.camera, len(plan.shot.cameras))
    own = plan if camera == 0 else plan_of_camera(plan, camera)
    sphere = plan.basis.subject.sphere
    if sphere is None:
        raise Mistake(f"no camera looks at this {plan.shot.source.kind}: it gives pictures")
    frames = _some(plan.clock.frames)
    figures = figures_of(own)
    between = np.minimum(frames, max(len(figures.speeds) - 1, 0))
    speeds = figures.speeds[between] if len(figures.speeds) and figures.speeds.any() else np.array([])
    places, stops = _marks(own)
    filming = zip(plan.shot.all_cameras, plan.sampled.cameras, strict=True)
    return PathFiguresBody(
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
    shot = patched(services().project.shots.shot(shot_id), query.patch)
    picture = shot.picture.model_copy(update={"passes": ["depth"]})
    small = shot.model_copy(update={"picture": picture, "cameras": []}).rough()
    prepared = services().prepared(small)
    recipe = prepared.plan.recipe(_frame(small, query.frame))
    distance = services().stage.distance(prepared.at, recipe, query.x, query.y)
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


@blueprint.get("/shots/<shot_id>/camera-path<any('.csv', '.json', '.gltf'):suffix>")
def camera_file(shot_id: str, suffix: str) -> Response:
    """The camera of every frame as a file."""
    text = camera_file_text(services().prepared(services().project.shots.shot(shot_id)).plan, suffix)
    headers = {"Content-Disposition": f'attachment; filename="{shot_id}{suffix}"'}
    return Response(text, mimetype=TYPES[suffix], headers=headers)


@blueprint.post("/shots/<shot_id>/camera-path")
@spec.validate(resp=answers(ShotBody), tags=["cameras"])
def import_path(shot_id: str, json: PathFile, query: Based) -> ShotBody:
    """Let the camera fly as a file says."""
    shots = services().project.shots
    shot = shots.shot(shot_id)
    with scratch_folder("way") as folder:
        file = folder / (secure_filename(json.name) or "way")
        try:
            file.write_bytes(b64decode(json.data, validate=True))
        except ValueError:
            raise Mistake(f"{json.name} did not arrive whole: choose it again") from None
        rig = rig_of_file(shot, file, services().stage.way, json.camera)
    gone = {name: None for name in type(shot.camera.rig).model_fields if name not in rig}
    lanes = [lane.model_dump(mode="json", exclude_defaults=True) for lane in shot.lanes]
    kept = [lane for lane in lanes if not lane["drive"].startswith("rig:")]
    patch = {"camera": {"rig": gone | rig}} | ({"lanes": kept} if len(kept) < len(lanes) else {})
    return saved_shot(shots.edit(shot_id, patch, f"the way of {json.name}", revision=query.revision))


def _shown(shot: Shot, patch: dict[str, object]) -> Shot:
    return read_shot_document(merged(shot.model_dump(mode="json"), patch), shot.title) if patch else shot


def _frame(shot: Shot, frame: int) -> int:
    return min(frame, shot.clock.clock().frames - 1)


def _some(frames: int) -> NDArray[np.int64]:
    return np.unique(np.linspace(0, frames - 1, min(frames, PLACES)).round()).astype(int)


def _way(name: str, plan: Plan, camera: SampledCamera, frames: NDArray[np.int64]) -> CameraPathBody:
    path, picture = camera.world, plan.shot.picture
    high = camera.views_high_deg[frames]
    wide = np.degrees(2 * np.arctan(np.tan(np.radians(high) / 2) * picture.width / picture.height))
    return CameraPathBody(
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
    camera, clock, path = plan.shot.camera, plan.clock, plan.sampled.path
    shown = clock.selection.frames_of(clock.motion)
    if isinstance(camera.rig, StopsSpec):
        arrivals = timetable(camera.rig, camera.views, clock.rate, clock.span).arrivals[: len(camera.views)]
        frames = np.minimum(np.searchsorted(shown, arrivals), clock.frames - 1)
        return [view.position for view in camera.views], frames.tolist()
    if isinstance(camera.rig, PathSpec) and path is not None:
        keys = [key.position for key in camera.rig.keys]
        return keys, [int(np.linalg.norm(path.positions - np.array(key), axis=1).argmin()) for key in keys]
    return [], []


def _figures(plan: Plan, figures: PathFigures) -> list[NamedValue]:
    """What people ask first of a camera's movement."""
    told = []
    if len(figures.speeds) and figures.speeds.any():
        mean, most = figures.speeds.mean(), figures.speeds.max()
        told.append(NamedValue(name="speed", value=f"{mean:.3g} units a frame, {most:.3g} at most"))
        if figures.turns_deg.max() > 1e-6:
            told.append(NamedValue(name="turn", value=f"{figures.turns_deg.max():.3g}° a frame at most"))
        before = np.isfinite(figures.margins[:-1]) & np.isfinite(figures.margins[1:])
        if before.any() and plan.shot.camera.lens.projection != "panorama":
            most = figures.subject_px[before].max()
            told.append(NamedValue(name="subject moves", value=f"{most:.3g} px a frame at most"))
    lean = float(np.abs(tilts_deg(camera_of(plan).path)).max())
    if lean > 0.05:
        told.append(NamedValue(name="horizon leans", value=f"{lean:.3g}° at most"))
    if len(figures.jolts) and figures.jolts.any():
        told.append(NamedValue(name="speed changes", value=f"{figures.jolts.max():.3g} units a frame² at most"))
    if plan.shot.camera.lens.projection == "panorama":
        return told
    shares, margins = figures.shares[np.isfinite(figures.shares)], figures.margins
    if len(shares):
        told.append(NamedValue(name="subject takes", value=f"{shares.min():.0%} to {shares.max():.0%} of the frame"))
    least = float(margins.min())
    room = f"{least:.0%} of half the frame" if isfinite(least) and least >= 0 else None
    cut = counted(int((margins < -1e-6).sum()), "frame")
    told.append(NamedValue(name="room about it", value=room or f"cut off in {cut}"))
    return told
