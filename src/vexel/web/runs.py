"""Blueprint: runs, their ledger and their frames."""

from flask import Blueprint, Response, send_file
from pydantic import BaseModel, Field

from vexel.core.clock import decimal
from vexel.core.errors import Mistake
from vexel.core.shot import read_shot
from vexel.output.footage import png_of
from vexel.store.states import READY
from vexel.store.tables import RunRow
from vexel.web.bodies import FrameBodies, FrameBody, RunBodies, RunBody, StatesBody
from vexel.web.outputs import output_body
from vexel.web.spec import answers, spec
from vexel.web.studio import studio

blueprint = Blueprint("runs", __name__, url_prefix="/api")


class LedgerQuery(BaseModel):
    """Which rows of the ledger."""

    state: str = ""
    offset: int = Field(default=0, ge=0)
    limit: int = Field(default=100, ge=1, le=1000)


@blueprint.get("/runs")
@spec.validate(resp=answers(RunBodies))
def list_runs() -> RunBodies:
    """All runs, newest first."""
    return RunBodies(runs=[run_body(row) for row in studio().project.ledger.runs()])


@blueprint.post("/shots/<shot_id>/runs")
@spec.validate(resp=answers(RunBody))
def capture(shot_id: str) -> RunBody:
    """Capture a shot as it stands."""
    return _body(studio().desk.capture(shot_id))


@blueprint.get("/runs/<int:run_id>")
@spec.validate(resp=answers(RunBody))
def get_run(run_id: int) -> RunBody:
    """A run."""
    return _body(run_id)


@blueprint.post("/runs/<int:run_id>/stop")
@spec.validate(resp=answers(RunBody))
def stop(run_id: int) -> RunBody:
    """Stop a run; finished frames are kept."""
    studio().desk.stop(run_id)
    return _body(run_id)


@blueprint.post("/runs/<int:run_id>/resume")
@spec.validate(resp=answers(RunBody))
def resume(run_id: int) -> RunBody:
    """Make the frames that are missing, with the source as it was when the run began."""
    studio().desk.resume(run_id)
    return _body(run_id)


@blueprint.get("/runs/<int:run_id>/frames")
@spec.validate(resp=answers(FrameBodies))
def frames(run_id: int, query: LedgerQuery) -> FrameBodies:
    """Rows of the ledger."""
    ledger = studio().project.ledger
    counts = ledger.counts(run_id)
    wanted = [query.state] if query.state else []
    rows = ledger.rows(run_id, wanted, query.offset, query.limit)
    total = counts.get(query.state, 0) if query.state else sum(counts.values())
    return FrameBodies(total=total, offset=query.offset, frames=[_frame(row) for row in rows])


@blueprint.get("/runs/<int:run_id>/states")
@spec.validate(resp=answers(StatesBody))
def states(run_id: int) -> StatesBody:
    """State of every frame, one letter each."""
    return StatesBody(states="".join(row.state[0] for row in studio().project.ledger.rows(run_id)))


@blueprint.get("/runs/<int:run_id>/frames/<int:number>.png")
def frame(run_id: int, number: int) -> Response:
    """The picture of a frame."""
    ledger = studio().project.ledger
    row = ledger.frame(run_id, number)
    if row is None or row.state not in READY:
        raise Mistake(f"frame {number} of run {run_id} has not been made")
    path = ledger.frames.path(row.key, read_shot(ledger.run(run_id).document).picture.suffix)
    if not path.exists():
        raise Mistake(f"frame {number} of run {run_id} is no longer on disk: resume the run to make it again")
    if path.suffix != ".png":
        # No browser shows the format, so that a look at it is made.
        looked_at = png_of(path)
        return Response(looked_at, mimetype="image/png", headers={"Cache-Control": "max-age=31536000"})
    return send_file(path, mimetype="image/png", max_age=31_536_000, etag=row.key)


def run_body(row: RunRow) -> RunBody:
    """A run as the screens show it."""
    project, desk = studio().project, studio().desk
    shot = read_shot(row.document)
    clock, counts, progress = shot.clock.clock(), project.ledger.counts(row.id), desk.progress.get(row.id)
    return RunBody(
        id=row.id,
        shot_id=row.shot_id,
        title=shot.title,
        state=row.state,
        message=row.message,
        count=row.count,
        made=counts.get("made", 0),
        kept=counts.get("kept", 0),
        failed=counts.get("failed", 0),
        waiting=counts.get("waiting", 0),
        created=row.created,
        ended=row.ended,
        seconds=row.seconds,
        bytes=project.ledger.bytes(row.id),
        summary=f"{clock.frames:,} frames · {decimal(clock.seconds)} s at {clock.playback.label}",
        strands=[strand.told for strand in shot.strands],
        panoramas=[shot.lens_of(number).panorama for number in range(len(shot.strands))],
        size=f"{shot.picture.width} × {shot.picture.height}",
        recipe=shot.recipe,
        progress=progress,
        outputs=[output_body(output, shot, row.shot_id) for output in project.outputs.of(row.id)],
    )


def _body(run_id: int) -> RunBody:
    return run_body(studio().project.ledger.run(run_id))


def _frame(row: object) -> FrameBody:
    return FrameBody.model_validate(row, from_attributes=True)
