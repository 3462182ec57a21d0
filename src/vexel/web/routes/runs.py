"""Blueprint: runs."""

from dataclasses import asdict

from flask import Blueprint

from vexel.core.document.recipes import RECIPES
from vexel.core.document.shot import read_shot
from vexel.core.time.clock import decimal
from vexel.store.tables import RunRow
from vexel.web.routes.outputs import output_body
from vexel.web.schemas import CaptureOrder, CheckBody, RemovalBody, RunBodies, RunBody
from vexel.web.services import studio
from vexel.web.spec import answers, spec

blueprint = Blueprint("runs", __name__, url_prefix="/api")


@blueprint.get("/runs")
@spec.validate(resp=answers(RunBodies))
def list_runs() -> RunBodies:
    """All runs, newest first."""
    return RunBodies(runs=[run_body(row) for row in studio().project.ledger.runs()])


@blueprint.post("/shots/<shot_id>/runs")
@spec.validate(resp=answers(RunBody))
def capture(shot_id: str, json: CaptureOrder) -> RunBody:
    """Capture a shot as it stands, if its source is there and can be read."""
    studio().facts(studio().project.shots.shot(shot_id))
    return _body(studio().desk.capture(shot_id, json.rough, json.to_file))


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
    studio().checks.forget(run_id)
    return _body(run_id)


@blueprint.post("/runs/<int:run_id>/check")
@spec.validate(resp=answers(RunBody))
def check(run_id: int) -> RunBody:
    """Read every frame of a run, and hold it against what was made; damaged ones are set aside."""
    studio().checks.begin(run_id)
    return _body(run_id)


@blueprint.get("/runs/<int:run_id>/removal")
@spec.validate(resp=answers(RemovalBody))
def removal(run_id: int) -> RemovalBody:
    """What goes when a run is deleted: the frames that no other run shows, and its files."""
    project = studio().project
    project.ledger.run(run_id)
    own = project.ledger.own_frames(run_id)
    files = studio().desk.own_files(run_id)
    return RemovalBody(
        frames=len(own), files=len(files), bytes=sum(own.values()) + sum(place.stat().st_size for place in files)
    )


@blueprint.delete("/runs/<int:run_id>")
@spec.validate(resp=answers(RunBodies))
def remove(run_id: int) -> RunBodies:
    """Delete a run; see `removal`."""
    studio().desk.remove(run_id)
    return list_runs()  # type: ignore[no-any-return]


def run_body(row: RunRow) -> RunBody:
    """A run as the screens show it."""
    project, desk = studio().project, studio().desk
    shot = read_shot(row.document)
    check = studio().checks.of(row.id)
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
        seconds=desk.seconds(row),
        bytes=project.ledger.bytes(row.id),
        summary=f"{clock.frames:,} frames · {decimal(clock.seconds)} s at {clock.playback.label}",
        strands=[strand.told for strand in shot.strands],
        panoramas=[shot.lens_of(number).panorama for number in range(len(shot.strands))],
        size=f"{shot.picture.width} × {shot.picture.height}",
        recipe=shot.recipe,
        makes=RECIPES[row.makes].short if row.makes else "",
        rough=row.rough,
        progress=progress,
        check=None if check is None else CheckBody(**asdict(check)),
        outputs=[output_body(output, shot, row.shot_id) for output in project.outputs.of(row.id)],
    )


def _body(run_id: int) -> RunBody:
    return run_body(studio().project.ledger.run(run_id))
