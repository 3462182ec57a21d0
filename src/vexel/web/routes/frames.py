"""Blueprint: the frames of a run, as rows of the ledger, as pictures and as copied files."""

from collections.abc import Iterator
from pathlib import Path

from flask import Blueprint, Response, request, send_file
from pydantic import BaseModel, Field

from vexel.core.errors import Failure, Missing
from vexel.core.wording import slug
from vexel.output.compiling.sequence import zipped_frames
from vexel.store.frame_states import READY
from vexel.store.takes import shot_of
from vexel.web.jobs.output_names import take_name
from vexel.web.jobs.take_files import named_frames
from vexel.web.schemas.common import MOST_NUMBER
from vexel.web.schemas.runs import FrameBodies, FrameBody, StatesBody
from vexel.web.services import services
from vexel.web.spec import answers, spec

blueprint = Blueprint("frames", __name__, url_prefix="/api/runs")
FOR_EVER = "max-age=31536000"


class LedgerQuery(BaseModel):
    """Which rows of the ledger."""

    state: str = ""
    offset: int = Field(default=0, ge=0, le=MOST_NUMBER)
    limit: int = Field(default=100, ge=1, le=1000)


@blueprint.get("/<int:run_id>/frames")
@spec.validate(resp=answers(FrameBodies))
def frames(run_id: int, query: LedgerQuery) -> FrameBodies:
    """Rows of the ledger."""
    ledger = services().project.ledger
    ledger.run(run_id)
    counts = ledger.counts(run_id)
    wanted = [query.state] if query.state else []
    rows = ledger.rows(run_id, wanted, query.offset, query.limit)
    total = counts.get(query.state, 0) if query.state else sum(counts.values())
    return FrameBodies(total=total, offset=query.offset, frames=[_frame(row) for row in rows])


@blueprint.get("/<int:run_id>/states")
@spec.validate(resp=answers(StatesBody))
def states(run_id: int) -> StatesBody:
    """State of every frame, one letter each."""
    ledger = services().project.ledger
    ledger.run(run_id)
    return StatesBody(states="".join(row.state[0] for row in ledger.rows(run_id)))


@blueprint.get("/<int:run_id>/frames/<int:number>.png")
def frame(run_id: int, number: int) -> Response:
    """The picture of a frame; ``?small=1`` shows it in a list, ``?download=1`` saves the file itself under its name."""
    name, path = _picture(run_id, number, deep="small" not in request.args)
    if "download" in request.args:
        return send_file(path, as_attachment=True, download_name=name)
    if "small" in request.args:
        with services().media.asked() as process:
            small = process.thumbnail(path)
        return Response(small, mimetype="image/jpeg", headers={"Cache-Control": FOR_EVER})
    if path.suffix != ".png":
        # No browser shows the format, so that a look at it is made.
        with services().media.asked() as process:
            picture = process.png(path)
        return Response(picture, mimetype="image/png", headers={"Cache-Control": FOR_EVER})
    return send_file(path, mimetype="image/png", max_age=31_536_000, etag=path.stem)


@blueprint.get("/<int:run_id>/frames.zip")
def zipped(run_id: int) -> Response:
    """All finished frames under their names, in one archive that is made while it is sent."""
    run = services().project.ledger.run(run_id)
    chunks: Iterator[bytes] = zipped_frames(named_frames(services().project, run_id))
    name = f"{slug(shot_of(run).title)}.{take_name(run)}.frames.zip"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(chunks, mimetype="application/zip", headers=headers)


def _picture(run_id: int, number: int, deep: bool) -> tuple[str, Path]:
    """Name and place of a finished picture of a take, which is held against what was made; `deep` to the byte."""
    ledger = services().project.ledger
    run = ledger.run(run_id)
    row = ledger.frame(run_id, number)
    if row is None or row.state not in READY:
        raise Missing(f"frame {number} of run {run_id} has not been made")
    shot = shot_of(run)
    suffix = shot.picture.suffix
    if row.key not in ledger.frames.there([row.key], suffix, deep=deep):
        ledger.frames.set_aside([row.key], suffix)
        raise Failure(f"frame {number} of run {run_id} is damaged or missing: resume the run to make it again")
    path = ledger.frames.path(row.key, suffix)
    return shot.file_name(number), path


def _frame(row: object) -> FrameBody:
    return FrameBody.model_validate(row, from_attributes=True)
