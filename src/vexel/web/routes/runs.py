"""Blueprint: runs."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import asdict

from flask import Blueprint

from vexel.core.document.naming import chosen_frames
from vexel.core.errors import Mistake
from vexel.core.forecast.kept import foretold_of
from vexel.core.recipes.shipped import RECIPES
from vexel.core.time.clock import decimal
from vexel.core.wording import counted
from vexel.output.exporting.handover import listed
from vexel.store.tables import OutputRow, RunRow
from vexel.store.takes import shot_of
from vexel.web.jobs.frames.captures import RunLimits
from vexel.web.jobs.frames.forecast import Measured
from vexel.web.jobs.job import JobKey
from vexel.web.jobs.run_handover import handed_of_run
from vexel.web.jobs.take_files import own_files
from vexel.web.routes.outputs import output_body
from vexel.web.schemas.news import JobChanged
from vexel.web.schemas.runs import (
    AgainOrder,
    CameraPassBody,
    CaptureOrder,
    CheckBody,
    FailureBodies,
    FailureBody,
    HandoverBody,
    HandoverFile,
    QueueBody,
    QueueOrder,
    RemovalBody,
    RunBodies,
    RunBody,
)
from vexel.web.schemas.shots import ForetoldBody
from vexel.web.services import services
from vexel.web.spec import answers, spec

blueprint = Blueprint("runs", __name__, url_prefix="/api")
MOST_LISTED = 1000
"""Newest runs that are listed."""


@blueprint.get("/runs")
@spec.validate(resp=answers(RunBodies))
def list_runs() -> RunBodies:
    """All runs, newest first."""
    return run_bodies()


@blueprint.post("/shots/<shot_id>/runs")
@spec.validate(resp=answers(RunBody))
def capture(shot_id: str, json: CaptureOrder) -> RunBody:
    """Capture a shot as it stands, if its source is there and can be read."""
    services().facts(services().project.shots.shot(shot_id))
    limits = RunLimits(frame_seconds=json.frame_seconds, tries=json.tries)
    return _body(services().captures.capture(shot_id, json.draft, json.to_file, limits))


@blueprint.get("/runs/<int:run_id>")
@spec.validate(resp=answers(RunBody))
def get_run(run_id: int) -> RunBody:
    """A run."""
    return _body(run_id)


@blueprint.post("/runs/<int:run_id>/stop")
@spec.validate(resp=answers(RunBody))
def stop(run_id: int) -> RunBody:
    """Stop a run; finished frames are kept."""
    services().jobs.stop(JobKey("run", run_id))
    return _body(run_id)


@blueprint.post("/runs/<int:run_id>/resume")
@spec.validate(resp=answers(RunBody))
def resume(run_id: int) -> RunBody:
    """Make the missing frames, with the source as of the run's start."""
    services().captures.resume(run_id)
    return _body(run_id)


@blueprint.post("/runs/<int:run_id>/pause")
@spec.validate(resp=answers(RunBody))
def pause(run_id: int) -> RunBody:
    """Pause a running run, and with it the queue: running frames are finished, no other is begun."""
    services().project.ledger.run(run_id)
    services().jobs.pause(JobKey("run", run_id), True)
    return _body(run_id)


@blueprint.post("/runs/<int:run_id>/continue")
@spec.validate(resp=answers(RunBody))
def continue_(run_id: int) -> RunBody:
    """Let a paused run continue."""
    services().project.ledger.run(run_id)
    services().jobs.pause(JobKey("run", run_id), False)
    return _body(run_id)


@blueprint.post("/runs/<int:run_id>/again")
@spec.validate(resp=answers(RunBody))
def make_again(run_id: int, json: AgainOrder) -> RunBody:
    """Make frames of a run again: by their numbers, or those that failed with an error."""
    ledger = services().project.ledger
    shot = shot_of(ledger.run(run_id))
    if json.error is not None:
        numbers = ledger.numbers_of(run_id, json.error)
    else:
        wanted = chosen_frames(json.frames, shot.clock.exact.frames) if json.frames else []
        passes = range(len(shot.camera_passes)) if json.camera_pass is None else [json.camera_pass]
        there = {row.number for row in ledger.rows(run_id)}
        asked = {
            shot.index_of(frame, one).picture for frame in wanted for one in passes if one < len(shot.camera_passes)
        }
        numbers = sorted(asked & there)
    if not numbers:
        raise Mistake("no frame of this run is named: write numbers such as 12,40-62x2")
    services().captures.make_again(run_id, numbers, json.reason)
    return _body(run_id)


@blueprint.get("/runs/<int:run_id>/failures")
@spec.validate(resp=answers(FailureBodies))
def failures(run_id: int) -> FailureBodies:
    """Errors that frames of a run failed with."""
    services().project.ledger.run(run_id)
    found = services().project.ledger.failures(run_id)
    return FailureBodies(failures=[FailureBody(error=error, count=count, first=n) for error, count, n in found])


@blueprint.get("/queue")
@spec.validate(resp=answers(QueueBody))
def get_queue() -> QueueBody:
    """Runs in the order in which they are made."""
    return _queue()


def _queue() -> QueueBody:
    jobs, project = services().jobs, services().project
    queued = [int(key.name) for key in jobs.queued("frames") if key.kind == "run"]
    running = next((run for run, state, _ in reversed(project.ledger.states()) if state == "running"), None)
    job = jobs.find(JobKey("run", running)) if running is not None else None
    left = job.progress.seconds_left if job is not None and job.progress is not None else None
    seconds = left if job is not None else 0.0
    pace = None
    if job is not None and job.progress is not None and left:
        pace = left / max(job.progress.count - job.progress.done, 1)
    measured: dict[int, Measured | None] = {}
    for row in project.ledger.some(queued).values():
        # Variants of one sweep cost about the same.
        of = row.sweep or row.id
        if of not in measured:
            measured[of] = services().forecast.measured(row.shot_id, shot_of(row))
        alike = measured[of]
        # Without an earlier run that was made alike, as long as the pictures of the running one.
        each = pace if alike is None else alike.seconds
        seconds = None if seconds is None or each is None else seconds + each * row.count
    paused = job is not None and job.pause.asked
    return QueueBody(running=running, queued=queued, paused=paused, seconds_left=seconds)


@blueprint.post("/queue")
@spec.validate(resp=answers(QueueBody))
def order_queue(json: QueueOrder) -> QueueBody:
    """Put queued runs in another order; those that are not named follow."""
    services().jobs.put_in_order("frames", [JobKey("run", run) for run in json.runs])
    return _queue()


@blueprint.post("/queue/stop")
@spec.validate(resp=answers(QueueBody))
def stop_queue() -> QueueBody:
    """Stop the running capture and all queued ones; their frames are kept."""
    services().jobs.stop_all("run")
    return _queue()


@blueprint.post("/runs/<int:run_id>/check")
@spec.validate(resp=answers(RunBody))
def check(run_id: int) -> RunBody:
    """Read every frame of a run, and hold it against what was made; damaged ones are set aside."""
    services().checks.begin(run_id)
    return _body(run_id)


@blueprint.get("/runs/<int:run_id>/removal")
@spec.validate(resp=answers(RemovalBody))
def removal(run_id: int) -> RemovalBody:
    """What goes when a run is deleted: the frames that no other run shows, and its files."""
    project = services().project
    project.ledger.run(run_id)
    own = project.ledger.own_frames(run_id)
    files = own_files(project, run_id)
    return RemovalBody(
        frames=len(own), files=len(files), bytes=sum(own.values()) + sum(place.stat().st_size for place in files)
    )


@blueprint.get("/runs/<int:run_id>/handover")
@spec.validate(resp=answers(HandoverBody))
def handover_files(run_id: int) -> HandoverBody:
    """The files of the source that a hand-over would hold, to be looked through before it is made."""
    handed = handed_of_run(services().project, services().planner, run_id, {})
    return HandoverBody(files=[HandoverFile(name=name, bytes=size) for name, size in listed(handed)])


@blueprint.delete("/runs/<int:run_id>")
@spec.validate(resp=answers(RunBodies))
def remove(run_id: int) -> RunBodies:
    """Delete a run; see `removal`."""
    project = services().project
    services().measuring.forget_take(run_id)
    reviewed = [f"take:{run_id}", *(f"file:{row.id}" for row in project.outputs.of(run_id))]
    services().captures.remove(run_id)
    # Another run may get its number.
    for subject in reviewed:
        project.notes.remove_of(subject)
    services().events.send(JobChanged(job="run", id=run_id, run=run_id))
    return list_runs()  # type: ignore[no-any-return]


def run_bodies(shot_id: str = "") -> RunBodies:
    """All runs, or those of a shot, as the screens show them; of very many those that matter."""
    project = services().project
    states = [(run, state) for run, state, of in project.ledger.states() if not shot_id or of == shot_id]
    rows = {row.id: row for row in project.ledger.runs(shot_id, MOST_LISTED)}
    if len(states) > MOST_LISTED:
        queued = {int(key.name) for key in services().jobs.queued("frames")[:MOST_LISTED] if key.kind == "run"}
        rows |= project.ledger.some(run for run, state in states if state == "running" or run in queued)
    ids = sorted(rows, reverse=True)
    frames, files = project.ledger.overview(ids), project.outputs.by_run(ids)
    ahead = services().jobs.ahead("frames")
    bodies = [
        _body_of(rows[run], _check_of(run), frames.get(run, {}), files.get(run, []), ahead.get(JobKey("run", run)))
        for run in ids
    ]
    return RunBodies(runs=bodies, total=len(states))


def _body(run_id: int) -> RunBody:
    # Before the row: what a check that has ended has found is in the row by then.
    check = _check_of(run_id)
    project = services().project
    # Before the frames: a run that has ended leaves none waiting.
    row = project.ledger.run(run_id)
    frames = project.ledger.overview([run_id]).get(run_id, {})
    ahead = services().jobs.ahead("frames").get(JobKey("run", run_id))
    return _body_of(row, check, frames, project.outputs.of(run_id), ahead)


def _body_of(
    row: RunRow,
    check: CheckBody | None,
    frames: Mapping[str, tuple[int, int]],
    files: Sequence[OutputRow],
    ahead: JobKey | None,
) -> RunBody:
    shot, job = shot_of(row), services().jobs.find(JobKey("run", row.id))
    clock = shot.clock.exact
    counts = {state: count for state, (count, _) in frames.items()}
    return RunBody(
        id=row.id,
        after=int(ahead.name) if ahead is not None and row.state == "queued" else None,
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
        seconds=services().captures.seconds(row),
        bytes=sum(size for _, size in frames.values()),
        made_bytes=frames.get("made", (0, 0))[1],
        summary=f"{counted(clock.frames, 'frame')} · {decimal(clock.seconds)} s at {clock.playback.label}",
        passes=[CameraPassBody(camera=one.camera, render_pass=one.render_pass) for one in shot.camera_passes],
        camera_passes=[camera_pass.label for camera_pass in shot.camera_passes],
        panoramas=[shot.lens_of(number).panorama for number in range(len(shot.camera_passes))],
        size=f"{shot.picture.width} × {shot.picture.height}",
        recipe=shot.recipe,
        makes=RECIPES[row.makes].makes if row.makes else "",
        variant=row.variant,
        draft=row.draft,
        paused=job is not None and job.pause.asked,
        foretold=_foretold(row),
        whole=row.count == shot.pictures,
        progress=job.progress if job is not None else None,
        check=check,
        outputs=[output_body(output, shot, row.shot_id) for output in files],
    )


def _foretold(row: RunRow) -> ForetoldBody | None:
    said = foretold_of(json.loads(row.foretold)) if row.foretold else None
    return None if said is None else ForetoldBody(**asdict(said))


def _check_of(run_id: int) -> CheckBody | None:
    job = services().checks.newest(run_id)
    if job is None:
        return None
    return CheckBody(state=job.state, progress=job.progress, sentence=job.ending.sentence if job.ending else "")
