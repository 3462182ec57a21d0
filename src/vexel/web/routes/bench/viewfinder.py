"""Blueprint: live pictures of a shot, from the stage process."""

import shlex
from contextlib import suppress
from dataclasses import asdict

from flask import Blueprint, Response
from pydantic import BaseModel, Field

from vexel.core.checks.seam import Difference, measured_seam, seam_of, seam_trial
from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.forecast.estimate import capture_cost, room_findings
from vexel.core.sweep.variants import chosen, pictures_of
from vexel.store.settings import project_room
from vexel.store.storage.unused import GROUPS, unused
from vexel.web.schemas.common import FindingBody, Preview
from vexel.web.schemas.shots import CostBody, ForetoldBody, LeftBody, SeamBody
from vexel.web.services import patched, services
from vexel.web.spec import answers, spec

blueprint = Blueprint("viewfinder", __name__, url_prefix="/api")


class FrameOrder(BaseModel):
    """Which frame, and how large.

    `width` and `height` are the room that the picture may take; `samples` is
    capped by the shot's own; `quick` takes JPEG for a passing look. `camera_pass`
    is one of the shot's cameras with one of its passes.
    """

    frame: int = Field(default=0, ge=0)
    width: int = Field(default=960, ge=16, le=4096)
    height: int = Field(default=540, ge=16, le=4096)
    samples: int = Field(default=1, ge=1, le=16)
    quick: bool = False
    camera_pass: int = Field(default=0, ge=0)
    revision: int = 0


class ViewQuery(FrameOrder):
    """A frame of the saved shot; a `glance` is kept for the list."""

    glance: bool = False


class ViewBody(FrameOrder, Preview):
    """A frame as it would be; with `steady` the camera stays as the saved shot places it."""

    steady: bool = False


@blueprint.get("/shots/<shot_id>/view")
@spec.validate(tags=["viewfinder"])
def view(shot_id: str, query: ViewQuery) -> Response:
    """A frame from the same code as the final one, only smaller or with fewer samples."""
    shot = services().project.shots.shot(shot_id)
    if query.glance:
        shot = fitted(shot, query)
        return _answer(services().glance(shot, min(query.frame, shot.clock.exact.frames - 1)))
    return _picture(shot, query)


@blueprint.post("/shots/<shot_id>/view")
@spec.validate(tags=["viewfinder"])
def preview(shot_id: str, json: ViewBody) -> Response:
    """A frame with a patch that is not saved."""
    saved = services().project.shots.shot(shot_id)
    return _picture(patched(saved, json.patch), json, saved if json.steady else None)


def _picture(shot: Shot, query: FrameOrder, placed_by: Shot | None = None) -> Response:
    shot = fitted(shot, query)
    frame = min(query.frame, shot.clock.exact.frames - 1)
    camera_pass = min(query.camera_pass, len(shot.camera_passes) - 1)
    return _answer(services().view(shot, frame, query.quick, placed_by, camera_pass))


def _answer(data: bytes) -> Response:
    kind = "image/png" if data.startswith(b"\x89PNG") else "image/jpeg"
    return Response(data, mimetype=kind, headers={"Cache-Control": "no-store"})


@blueprint.get("/shots/<shot_id>/cost")
@spec.validate(resp=answers(CostBody))
def cost(shot_id: str) -> CostBody:
    """What a capture is expected to cost: by its probe, else as measured by an earlier run, else from one frame."""
    shot = services().project.shots.shot(shot_id)
    prepared = services().prepared(shot)
    if (said := services().forecast.foretold(prepared.plan)) is not None:
        middle = (said.bytes.low * said.bytes.high) ** 0.5
        return CostBody(
            foretold=ForetoldBody(**asdict(said)),
            run=None,
            frame=None,
            frame_seconds=0.0,
            frame_bytes=middle / max(said.left, 1),
            seconds=(said.seconds.low * said.seconds.high) ** 0.5 if said.seconds is not None else 0.0,
            bytes=round(middle),
            findings=_room_findings(shot_id, shot, round(said.bytes.high)),
        )
    frames, camera_passes = shot.clock.exact.frames, len(shot.camera_passes)
    left = services().forecast.left(prepared.plan) if shot.sweep is None else None
    pictures = frames * camera_passes if left is None else left
    if measured := services().forecast.measured(shot_id, shot):
        return CostBody(
            foretold=None,
            run=measured.run,
            frame=None,
            frame_seconds=measured.seconds * camera_passes,
            frame_bytes=measured.bytes * camera_passes,
            seconds=measured.seconds * pictures,
            bytes=round(measured.bytes * pictures),
            findings=_room_findings(shot_id, shot, round(measured.bytes * pictures)),
        )
    if shot.source.traits.remembers and frames > 1:
        # A capture continues from frame to frame; the way from the first to the middle is not part of a frame's cost.
        services().stage.estimate(prepared.at, prepared.plan.frame_spec(frames // 2 - 1))
    specs = [prepared.plan.frame_spec(frames // 2, camera_pass) for camera_pass in range(camera_passes)]
    estimates = [services().stage.estimate(prepared.at, spec) for spec in specs]
    size, seconds = (sum(values) for values in zip(*estimates, strict=True))
    # This stage uses all cores for one frame, as the workers do for several at once.
    expected = capture_cost(pictures / camera_passes, seconds, size, workers=1)
    return CostBody(
        foretold=None,
        run=None,
        frame=frames // 2,
        frame_seconds=seconds,
        frame_bytes=size,
        seconds=expected.seconds,
        bytes=expected.bytes,
        findings=_room_findings(shot_id, shot, expected.bytes),
    )


@blueprint.get("/shots/<shot_id>/left")
@spec.validate(resp=answers(LeftBody))
def left(shot_id: str) -> LeftBody:
    """How much of a shot is yet to be captured."""
    shot = services().project.shots.shot(shot_id)
    return LeftBody(count=shot.pictures, left=_left(shot))


@blueprint.post("/shots/<shot_id>/seam")
@spec.validate(resp=answers(SeamBody))
def measure_seam(shot_id: str) -> SeamBody:
    """Measure on small pictures whether the source of a shot closes its loop."""
    shot = services().project.shots.shot(shot_id)
    facts = services().facts(shot)
    known = seam_of(shot, facts)
    if known.state != "source":
        return SeamBody(seam=known)
    trial = seam_trial(fitted(shot, FrameOrder(width=480, height=480)), facts)
    prepared = services().prepared(trial.shot)
    frames = sorted({frame for pair in trial.pairs for frame in pair})
    specs = [prepared.plan.frame_spec(frame) for frame in frames]
    pairs = [(frames.index(first), frames.index(second)) for first, second in trial.pairs]
    found = services().stage.differences(prepared.at, specs, pairs)
    return SeamBody(seam=measured_seam(trial, [Difference(*one) for one in found]))


def _room_findings(shot_id: str, shot: Shot, needed: int) -> list[FindingBody]:
    project = services().project
    room = project_room(project.home)
    if shot.sweep is not None:
        # A probe and a guess are of the shot itself; the list of variants reports what is wrong with the sweep.
        with suppress(Mistake):
            needed = round(needed * pictures_of(shot, len(chosen(shot.sweep))) / shot.pictures)
    if not [*room_findings(shot, needed, room.free, room.keep)]:
        return []
    of_no_use = [group.name for group in GROUPS if not group.made_again]
    freed = sum(one.bytes for one in unused(project, of_no_use))
    command = shlex.join(["vexel", "capture", str(project.home / "shots" / f"{shot_id}.json"), "--to"]) + " FOLDER"
    return [FindingBody(**asdict(one)) for one in room_findings(shot, needed, room.free, room.keep, freed, command)]


def _left(shot: Shot) -> int | None:
    return services().forecast.left(services().prepared(shot).plan)


def fitted(shot: Shot, query: FrameOrder) -> Shot:
    """The shot at the largest size of its shape that fits, with the samples asked for."""
    picture = shot.picture
    scale = min(query.width / picture.width, query.height / picture.height, 1.0)
    return shot.sized(
        max(round(picture.width * scale), 1),
        max(round(picture.height * scale), 1),
        min(query.samples, picture.samples),
    )
