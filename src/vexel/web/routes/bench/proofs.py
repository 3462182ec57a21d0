"""Blueprint: proofs and probes, frames at full size and quality, which a later capture finds already made."""

import re

from flask import Blueprint, Response, request, send_file

from vexel.core.document.picture_spec import SUFFIXES
from vexel.core.errors import Failure, Missing
from vexel.web.schemas.common import Done
from vexel.web.schemas.shots import ProbeBody, ProofBody, ProofOrder
from vexel.web.services import services
from vexel.web.spec import answers, spec

blueprint = Blueprint("proofs", __name__, url_prefix="/api")


@blueprint.post("/shots/<shot_id>/proof")
@spec.validate(resp=answers(ProofBody))
def prove(shot_id: str, json: ProofOrder) -> ProofBody:
    """Make a frame as a capture would, and keep it for one."""
    shot = services().project.shots.shot(shot_id)
    frame = min(json.frame, shot.clock.exact.frames - 1)
    camera_pass = min(json.camera_pass, len(shot.camera_passes) - 1)
    made = services().proofs.make(services().prepared(shot), frame, camera_pass)
    picture = shot.picture
    return ProofBody(
        key=made.key,
        frame=frame,
        camera_pass=camera_pass,
        name=shot.file_name(shot.index_of(frame, camera_pass).picture),
        picture=f"{made.key}{picture.suffix}",
        width=picture.width,
        height=picture.height,
        samples=picture.samples,
        bytes=made.bytes,
        seconds=made.seconds,
    )


@blueprint.get("/shots/<shot_id>/probe")
@spec.validate(resp=answers(ProbeBody))
def get_probe(shot_id: str) -> ProbeBody:
    """How the newest probe of a shot stands."""
    services().project.shots.shot(shot_id)
    job = services().probes.newest(shot_id)
    if job is None:
        return ProbeBody(state="", progress=None, sentence="")
    return ProbeBody(state=job.state, progress=job.progress, sentence=job.ending.sentence if job.ending else "")


@blueprint.post("/shots/<shot_id>/probe")
@spec.validate(resp=answers(ProbeBody))
def probe(shot_id: str) -> ProbeBody:
    """Make some frames as a capture would, from which `cost` foretells the whole; they are kept for the capture."""
    services().facts(services().project.shots.shot(shot_id))
    services().probes.begin(shot_id)
    return get_probe(shot_id)  # type: ignore[no-any-return]


@blueprint.post("/shots/<shot_id>/probe/stop")
@spec.validate(resp=answers(ProbeBody))
def stop_probe(shot_id: str) -> ProbeBody:
    """Stop the probe of a shot; the frames that it made are kept."""
    services().project.shots.shot(shot_id)
    services().probes.stop(shot_id)
    return get_probe(shot_id)  # type: ignore[no-any-return]


@blueprint.post("/proof/stop")
@spec.validate(resp=answers(Done))
def stop() -> Done:
    """End the proof that is being made."""
    services().proofs.stop()
    return Done()


@blueprint.get("/proofs/<name>")
def proof(name: str) -> Response:
    """The picture of a proof; ``?download=NAME`` saves the file itself."""
    form = re.fullmatch(r"([0-9a-f]{64})(\.\w+)", name)
    if form is None or form[2] not in SUFFIXES.values():
        raise Missing(f"there is no proof {name!r}")
    path = services().project.ledger.frames.path(form[1], form[2])
    if not path.is_file():
        raise Failure("this proof is no longer on disk: make it again")
    if "download" in request.args:
        return send_file(path, as_attachment=True, download_name=request.args["download"])
    if path.suffix == ".png":
        return send_file(path, mimetype="image/png", max_age=31_536_000, etag=form[1])
    with services().media.asked() as process:
        picture = process.png(path)
    return Response(picture, mimetype="image/png", headers={"Cache-Control": "max-age=31536000"})
