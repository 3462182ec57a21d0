"""Blueprint: shots, their edits, and their sources."""

import logging
from collections.abc import Callable
from dataclasses import asdict
from functools import cache, partial
from pathlib import Path

from flask import Blueprint, Response

from vexel.core.camera.lens import SENSORS
from vexel.core.checks.brief import brief
from vexel.core.checks.camera_figures import lens_figures
from vexel.core.checks.preflight import preflight
from vexel.core.checks.seam import seam_of
from vexel.core.checks.shot_timing import shot_timing
from vexel.core.document.shot import Shot
from vexel.core.edits.convert_rig import convert_camera_rig
from vexel.core.edits.set_term import LABELS, RETIMED, set_term, terms_of
from vexel.core.edits.stagger import stagger_lanes
from vexel.core.edits.trim_to_motion import trim_to_motion
from vexel.core.errors import Failure, Mistake, VexelError
from vexel.core.evaluate.lane_targets import lane_targets
from vexel.core.evaluate.moments import substeps_of
from vexel.core.evaluate.source_facts import SourceFacts
from vexel.core.time.clock import decimal
from vexel.core.time.timecode import has_timecode, timecode
from vexel.core.wording import counted
from vexel.demo import demo_shot, demo_sources
from vexel.disk.named_place import named_place
from vexel.sources.new_shot import fitted_to, is_fixable, shot_of_file
from vexel.store.documents.document_store import Listed
from vexel.store.documents.history_findings import history_findings
from vexel.store.documents.removed import removed_documents
from vexel.store.documents.shared_clock import linked_findings, take_along, taken
from vexel.store.documents.shots import KeptShot
from vexel.web.routes.bench.lanes import lane_curves, played, played_name
from vexel.web.routes.runs import run_bodies
from vexel.web.schemas.cameras import LensBody, RigBody
from vexel.web.schemas.common import Based, FindingBody, NamedValue
from vexel.web.schemas.news import ShotChanged
from vexel.web.schemas.runs import RunBodies
from vexel.web.schemas.shots import (
    Edit,
    EndingBody,
    HiddenShot,
    InstantBody,
    NewShot,
    PlayedIn,
    ShotBody,
    ShotLine,
    ShotLines,
    Stagger,
    TermBody,
)
from vexel.web.schemas.sources import DemoSource, DemoSources, DialBody, SourceBody, SourceStateBody
from vexel.web.services import services
from vexel.web.spec import answers, spec

log = logging.getLogger("vexel")
blueprint = Blueprint("shots", __name__, url_prefix="/api")


@blueprint.get("/shots")
@spec.validate(resp=answers(ShotLines))
def list_shots() -> ShotLines:
    """The shot list."""
    return _lines()


@blueprint.post("/shots")
@spec.validate(resp=answers(ShotBody))
def new_shot(json: NewShot) -> ShotBody:
    """A new shot with sensible values."""
    project = services().project
    if json.demo:
        kept = project.shots.add(demo_shot(json.demo, project.home))
        services().trust(kept.value)
        return shot_body(kept)
    if not json.path:
        raise Mistake("name a demo source or the path of a file for the new shot")
    place = named_place(project.home, json.path)
    shot = shot_of_file(place, project.shots.folder, json.title, json.rate, json.gaps, json.other_sizes)
    services().trust(shot)
    try:
        shot = fitted_to(shot, services().facts(shot))
        services().prepared(shot)
    except Failure:
        if not is_fixable(shot):
            raise
    return shot_body(project.shots.add(shot))


@blueprint.get("/shots/<shot_id>")
@spec.validate(resp=answers(ShotBody))
def get_shot(shot_id: str) -> ShotBody:
    """A shot as the Bench shows it."""
    return shot_body(services().project.shots.get(shot_id))


@blueprint.get("/shots/<shot_id>/text")
def shot_text(shot_id: str) -> Response:
    """The stored file of a shot, unchanged, even when it is not a valid shot."""
    return Response(services().project.shots.text(shot_id), mimetype="text/plain")


@blueprint.patch("/shots/<shot_id>")
@spec.validate(resp=answers(ShotBody))
def edit_shot(shot_id: str, json: Edit, query: Based) -> ShotBody:
    """Edit a shot; saved at once."""
    shots = services().project.shots
    kept = shots.edit(shot_id, json.patch, json.what, json.burst, query.revision)
    if json.patch.get("clock", {}).get("like"):
        kept = taken(shots, kept)
    return saved_shot(kept)


@blueprint.post("/shots/<shot_id>/terms")
@spec.validate(resp=answers(ShotBody))
def put_term(shot_id: str, json: TermBody, query: Based) -> ShotBody:
    """Set one term of the timing; what is not pinned follows."""
    shots = services().project.shots
    patch = set_term(shots.shot(shot_id), json.term, json.text)
    what = "the retiming" if json.term == RETIMED else f"the {LABELS[json.term]}"
    return saved_shot(shots.edit(shot_id, patch, what, revision=query.revision))


@blueprint.post("/shots/<shot_id>/played-in")
@spec.validate(resp=answers(ShotBody))
def play_in(shot_id: str, json: PlayedIn, query: Based) -> ShotBody:
    """Make lanes of a gesture that was made while the shot played."""
    shots = services().project.shots
    patch = played(shots.shot(shot_id), json)
    return saved_shot(shots.edit(shot_id, patch, played_name(json), revision=query.revision))


@blueprint.post("/shots/<shot_id>/rig")
@spec.validate(resp=answers(ShotBody))
def change_rig(shot_id: str, json: RigBody, query: Based) -> ShotBody:
    """Give the shot another kind of rig."""
    shots = services().project.shots
    shot = shots.shot(shot_id)
    frame = min(json.frame, shot.clock.exact.frames - 1)
    patch = convert_camera_rig(services().prepared(shot).plan, json.camera, json.kind, frame)
    return saved_shot(shots.edit(shot_id, patch, "the rig", revision=query.revision))


@blueprint.post("/shots/<shot_id>/stagger")
@spec.validate(resp=answers(ShotBody))
def put_stagger(shot_id: str, json: Stagger, query: Based) -> ShotBody:
    """Let the lanes run one after another."""
    shots = services().project.shots
    patch = stagger_lanes(shots.shot(shot_id), json.overlap)
    return saved_shot(shots.edit(shot_id, patch, "lanes one after another", revision=query.revision))


@blueprint.post("/shots/<shot_id>/undo")
@spec.validate(resp=answers(ShotBody))
def undo_edit(shot_id: str, query: Based) -> ShotBody:
    """Take back the last edit."""
    return saved_shot(services().project.shots.undo(shot_id, query.revision))


@blueprint.post("/shots/<shot_id>/redo")
@spec.validate(resp=answers(ShotBody))
def redo_edit(shot_id: str, query: Based) -> ShotBody:
    """Redo the edit that was undone last."""
    return saved_shot(services().project.shots.redo(shot_id, query.revision))


@blueprint.delete("/shots/<shot_id>")
@spec.validate(resp=answers(ShotLines))
def remove_shot(shot_id: str) -> ShotLines:
    """Take a shot off the list; its takes and files stay."""
    removed = services().project.shots.remove(shot_id)
    return _lines().model_copy(update={"removed": removed})


@blueprint.post("/removed/<name>/restore")
@spec.validate(resp=answers(ShotLines))
def restore_shot(name: str) -> ShotLines:
    """Put a shot that was taken off the list back."""
    services().project.shots.restore(name)
    return _lines()


@blueprint.post("/shots/<shot_id>/copies")
@spec.validate(resp=answers(ShotLines))
def copy_shot(shot_id: str) -> ShotLines:
    """Put a copy of a shot on the list, with a new title."""
    shots = services().project.shots
    shots.add(shots.shot(shot_id))
    return _lines()


@blueprint.get("/shots/<shot_id>/instants/<int:frame>")
@spec.validate(resp=answers(InstantBody))
def get_instant(shot_id: str, frame: int) -> InstantBody:
    """Where a frame stands: in the video, and in the motion."""
    clock = services().project.shots.shot(shot_id).clock.exact
    instant = clock.instant(frame)
    return InstantBody(
        frame=frame,
        seconds=float(frame / clock.playback.fps),
        timecode=timecode(frame, clock.playback) if has_timecode(clock.playback) else "",
        motion_frame=instant.frame,
        phase=float(instant.phase),
    )


@blueprint.get("/shots/<shot_id>/source/state")
@spec.validate(resp=answers(SourceStateBody))
def get_source_state(shot_id: str) -> SourceStateBody:
    """Whether the source is still what it was: its files are looked at, and nothing is opened."""
    # Asked every two seconds by an open page, in 7 ms. A watcher of files would have to know all that a source may
    # come to read, and hears nothing of folders on other machines.
    return SourceStateBody(digest=services().source_state(services().project.shots.shot(shot_id)))


@blueprint.get("/shots/<shot_id>/source")
@spec.validate(resp=answers(SourceBody))
def get_source(shot_id: str) -> SourceBody:
    """What the shot's source reports about itself."""
    shot = services().project.shots.shot(shot_id)
    prepared = services().prepared(shot)
    facts, plan = services().facts(shot), prepared.plan
    subject = plan.inputs.subject
    found = services().planner.findings(prepared)
    return SourceBody(
        kind=shot.source.kind,
        file=Path(shot.source.file).name,
        dials=[DialBody(**asdict(dial)) for dial in facts.dials],
        camera=subject.sphere is not None,
        parts=list(subject.parts),
        arrays=list(subject.arrays),
        listed=facts.source_frames is not None,
        settings=list(facts.settings),
        about=[NamedValue(name=name, value=value) for name, value in (*facts.about, *_pace(shot, facts))],
        findings=[FindingBody(**asdict(finding)) for finding in found],
        seam=seam_of(shot, facts),
        code=shot.source.traits.own_text,
        targets=lane_targets(shot, facts, subject),
    )


def _pace(shot: Shot, facts: SourceFacts) -> list[tuple[str, str]]:
    pace = substeps_of(shot, facts)
    return [] if pace is None else [("pace", pace.sentence)]


@blueprint.get("/shots/<shot_id>/runs")
@spec.validate(resp=answers(RunBodies))
def runs_of_shot(shot_id: str) -> RunBodies:
    """Runs of one shot, newest first."""
    return run_bodies(shot_id)


@blueprint.get("/demo-sources")
@spec.validate(resp=answers(DemoSources))
def list_demo_sources() -> DemoSources:
    """Sources that come with Vexel."""
    return DemoSources(sources=[DemoSource(**entry) for entry in demo_sources()])


def shot_body(kept: KeptShot) -> ShotBody:
    """All that the Bench shows of a shot without asking its source."""
    shot, folder = kept.value, services().project.shots.folder
    found = [*linked_findings(shot, folder), *history_findings(services().project.shots, kept), *preflight(shot)]
    end = trim_to_motion(shot)
    return ShotBody(
        id=kept.id,
        document=shot,
        revision=kept.revision,
        undo=kept.undo,
        redo=kept.redo,
        edited=kept.edited,
        timing=shot_timing(shot.clock, shot.orbit, shot.camera),
        terms=terms_of(shot),
        findings=[FindingBody(**asdict(found)) for found in found],
        curves=lane_curves(shot),
        ending=None if end is None else EndingBody(frames=end[0], patch=end[1]),
        lens=LensBody(**asdict(lens_figures(shot)), sensors=SENSORS),
        brief=brief(shot),
        seam=seam_of(shot),
    )


def _lines() -> ShotLines:
    shots = services().project.shots
    odd = [
        ShotLine(
            id="", title=name, kind="", file="", summary="", size="", edited="", revision=0, runs=0, output=None,
            error="the name of its file is not one that Vexel can open: rename it", glance=0,
        )
        for name in shots.nameless()
    ]  # fmt: skip
    ledger, outputs, kept = services().project.ledger, services().project.outputs, services().shot_lines
    listed = cache(shots.listed)
    runs, files = ledger.per_shot(), outputs.newest_per_shot()
    lines = [
        kept.line(shot_id, shots.stamp(shot_id), partial(_line, shot_id, listed)).model_copy(
            update={"runs": runs.get(shot_id, 0), "output": files.get(shot_id)}
        )
        for shot_id in shots.ids()
    ]
    hidden = [HiddenShot(name=one.name, title=one.title) for one in removed_documents(shots.folder)]
    return ShotLines(shots=[*lines, *odd], hidden=hidden)


def saved_shot(kept: KeptShot) -> ShotBody:
    """The saved shot; those that share its clock are updated."""
    services().events.send(ShotChanged(id=kept.id, revision=kept.revision))
    for follower in take_along(services().project.shots, kept):
        services().events.send(ShotChanged(id=follower.id, revision=follower.revision))
    return shot_body(kept)


def _line(shot_id: str, listed: Callable[[], Listed[Shot]]) -> ShotLine:
    """A shot in the list, but for its runs and files."""
    line = ShotLine(
        id=shot_id, title=shot_id, kind="", file="", summary="", size="", edited="", revision=0, runs=0, output=None,
        error="", glance=0,
    )  # fmt: skip
    try:
        return _worked_out(line, listed().get(shot_id))
    except VexelError as error:
        return line.model_copy(update={"error": str(error)})
    except Exception as error:
        # A document that fails for any reason must not take the list from all others.
        log.exception("shot %s cannot be listed", shot_id)
        return line.model_copy(update={"error": f"it cannot be worked with ({type(error).__name__}): {error}"[:500]})


def _worked_out(line: ShotLine, kept: KeptShot) -> ShotLine:
    shot, clock = kept.value, kept.value.clock.exact
    return line.model_copy(
        update={
            "title": shot.title,
            "kind": shot.source.kind,
            "file": Path(shot.source.file).name,
            "summary": f"{counted(clock.frames, 'frame')} · {decimal(clock.seconds)} s at {clock.playback.label}",
            "size": f"{shot.picture.width} × {shot.picture.height}",
            "edited": kept.edited,
            "revision": kept.revision,
            # What is shown once begins with little; a loop begins anywhere.
            "glance": 0 if clock.span == "loop" else clock.frames * 3 // 5,
        }
    )
