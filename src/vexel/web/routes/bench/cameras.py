"""Blueprint: cameras of a shot, their saved views, and how they move in plan and elevation."""

from base64 import b64decode

import numpy as np
from flask import Blueprint, Response
from numpy.typing import NDArray
from pydantic import Field
from werkzeug.utils import secure_filename

from vexel.core.checks.camera_figures import camera_figures as figures_in_words
from vexel.core.document.shot import Shot, read_shot_document
from vexel.core.edits.add_camera import add_camera
from vexel.core.edits.import_rig import import_rig
from vexel.core.errors import Mistake
from vexel.core.evaluate.plan import Plan
from vexel.core.evaluate.rig_path import figures_of, rig_path_of
from vexel.core.evaluate.rigs import rig_of
from vexel.core.evaluate.sampled_camera import SampledCamera
from vexel.core.evaluate.views.point_at import point_at
from vexel.core.evaluate.views.saved_view import save_view
from vexel.core.evaluate.views.single_camera import plan_of_camera
from vexel.core.merge_patch import merged
from vexel.disk.scratch import scratch_folder
from vexel.interchange.camera_file import camera_file_text, left_out
from vexel.interchange.imported_path import rig_of_file
from vexel.store.documents.document_store import Made
from vexel.web.routes.shots import saved_shot
from vexel.web.schemas.cameras import CameraPathBody, DistanceBody, NewCamera, PathFiguresBody, PathFile, SaveView
from vexel.web.schemas.common import Based, NamedValue, Preview
from vexel.web.schemas.shots import ShotBody
from vexel.web.services import patched, services
from vexel.web.spec import answers, spec

PLACES = 480
"""At most this many points of a camera path are served."""
TYPES = {".csv": "text/csv", ".json": "application/json", ".gltf": "model/gltf+json"}
blueprint = Blueprint("cameras", __name__, url_prefix="/api")


class FiguresOrder(Preview):
    """Whose speeds are wanted; with `steady` the cameras stay as the saved shot places them."""

    steady: bool = False
    camera: int = Field(default=0, ge=0)


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
def post_camera(shot_id: str, json: NewCamera) -> ShotBody:
    """Add a camera that stands where the shot's own one is in a frame."""

    def added(stands: Shot) -> Made:
        shot = _shown(stands, json.patch)
        patch, name = add_camera(services().prepared(shot).plan, _frame(shot, json.frame))
        return patch, f"adding {name}"

    return saved_shot(services().project.shots.change(shot_id, added))


@blueprint.post("/shots/<shot_id>/camera-figures")
@spec.validate(resp=answers(PathFiguresBody), tags=["cameras"])
def camera_figures(shot_id: str, json: FiguresOrder) -> PathFiguresBody:
    """How the cameras of a shot move."""
    saved = services().project.shots.shot(shot_id)
    plan = services().planned(patched(saved, json.patch), saved if json.steady else None)
    camera = min(json.camera, len(plan.shot.cameras))
    own = plan if camera == 0 else plan_of_camera(plan, camera)
    sphere = plan.inputs.subject.sphere
    if sphere is None:
        raise Mistake(f"a {plan.shot.source.kind} provides pictures, so there is no camera")
    frames = _some(plan.clock.frames)
    figures = figures_of(own)
    between = np.minimum(frames, max(len(figures.speeds) - 1, 0))
    speeds = figures.speeds[between] if len(figures.speeds) and figures.speeds.any() else np.array([])
    places, stops = rig_of(own.shot.camera).marks(rig_path_of(own))
    filming = zip(plan.shot.all_cameras, plan.sampled.cameras, strict=True)
    return PathFiguresBody(
        cameras=[_way(c.name, plan, moving, frames) for c, moving in filming],
        centre=sphere.centre,
        radius=sphere.radius,
        outlines=[list(outline) for outline in plan.inputs.subject.outlines],
        places=places,
        stops=stops,
        frames=frames.tolist(),
        speeds=speeds.tolist(),
        margins=[float(max(margin, -9.0)) for margin in figures.margins[frames]],
        facts=[
            *(NamedValue(name=name, value=value) for name, value in figures_in_words(own, figures)),
            *(
                NamedValue(name=f"not in {suffix} exports", value=", ".join(missing))
                for suffix in TYPES
                if camera == 0 and (missing := left_out(plan, suffix))
            ),
        ],
    )


class FramePoint(Preview):
    """A point of a frame, as shares of its width and height from the top left."""

    frame: int = Field(default=0, ge=0)
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)


@blueprint.post("/shots/<shot_id>/distance")
@spec.validate(resp=answers(DistanceBody), tags=["cameras"])
def distance_at(shot_id: str, json: FramePoint) -> DistanceBody:
    """How far away what is seen at a point of a frame is."""
    shot = patched(services().project.shots.shot(shot_id), json.patch)
    picture = shot.picture.model_copy(update={"passes": ["depth"]})
    small = shot.model_copy(update={"picture": picture, "cameras": []}).draft()
    prepared = services().prepared(small)
    spec = prepared.plan.frame_spec(_frame(small, json.frame))
    distance = services().stage.distance(prepared.at, spec, json.x, json.y)
    pose = spec.shutter_samples[0].camera
    if distance is None or pose is None:
        return DistanceBody(distance=None, point=None)
    return DistanceBody(
        distance=distance, point=point_at(pose, small.picture.width / small.picture.height, json.x, json.y, distance)
    )


@blueprint.get("/shots/<shot_id>/camera-path<any('.csv', '.json', '.gltf'):suffix>")
def camera_file(shot_id: str, suffix: str) -> Response:
    """The camera of every frame as a file."""
    text = camera_file_text(services().prepared(services().project.shots.shot(shot_id)).plan, suffix)
    headers = {"Content-Disposition": f'attachment; filename="{shot_id}{suffix}"'}
    return Response(text, mimetype=TYPES[suffix], headers=headers)


@blueprint.post("/shots/<shot_id>/camera-path")
@spec.validate(resp=answers(ShotBody), tags=["cameras"])
def import_path(shot_id: str, json: PathFile, query: Based) -> ShotBody:
    """Let the camera follow the path of a file."""
    shots = services().project.shots
    shot = shots.shot(shot_id)
    with scratch_folder("way") as folder:
        file = folder / (secure_filename(json.name) or "way")
        try:
            file.write_bytes(b64decode(json.data, validate=True))
        except ValueError:
            raise Mistake(f"{json.name} did not arrive whole: choose it again") from None
        rig = rig_of_file(shot, file, services().stage.way, json.camera)
    patch = import_rig(shot, rig)
    return saved_shot(shots.edit(shot_id, patch, f"importing {json.name}", revision=query.revision))


def _shown(shot: Shot, patch: dict[str, object]) -> Shot:
    return read_shot_document(merged(shot.model_dump(mode="json"), patch), shot.title) if patch else shot


def _frame(shot: Shot, frame: int) -> int:
    return min(frame, shot.clock.exact.frames - 1)


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
