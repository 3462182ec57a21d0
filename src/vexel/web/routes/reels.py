"""Blueprint: reels, their frames, and missing frames."""

import json as json_text
import logging
from dataclasses import asdict
from functools import partial
from typing import Any

from flask import Blueprint, Response, request

from vexel.core.edits.beat_markers import with_pulse
from vexel.core.edits.cuts_to_markers import cuts_to_markers
from vexel.core.errors import Mistake, VexelError
from vexel.core.recipes.recipe import read_recipe
from vexel.core.reel.formats import shown_in
from vexel.core.reel.reel_spec import Reel, edited_reel, read_reel_document
from vexel.core.time.clock import decimal
from vexel.core.wording import counted
from vexel.interchange.cut_formats import cut_format
from vexel.output.reel.nested_reels import refuse_itself
from vexel.store.documents.reels import KeptReel
from vexel.store.takes import shot_of
from vexel.web.jobs.project_library import RUN
from vexel.web.jobs.reel_service import Runs
from vexel.web.routes.dispatch import bodies_of, gif_body, trial_body
from vexel.web.schemas.common import FindingBody
from vexel.web.schemas.dispatch import FileNamesBody, GifTableBody, OutputBodies, TrialBody, TrialOrder
from vexel.web.schemas.news import ReelChanged
from vexel.web.schemas.reels import (
    ListOrder,
    MarkerOrder,
    NewReel,
    PictureOrder,
    ReelBody,
    ReelDispatch,
    ReelEdit,
    ReelFiles,
    ReelLine,
    ReelLines,
    ReelListBody,
    ReelLooks,
    ReelOfTimeline,
    ReelPictureOrder,
    ReelRuns,
    SinceReel,
    SizeBody,
    SoundPeaks,
)
from vexel.web.services import services
from vexel.web.spec import answers, spec
from vexel.web.uploads import kept_files
from vexel.workers.foreign_files import MOST_TIMELINE_BYTES, read_timeline

log = logging.getLogger("vexel")
blueprint = Blueprint("reels", __name__, url_prefix="/api")


@blueprint.get("/reels")
@spec.validate(resp=answers(ReelLines))
def list_reels() -> ReelLines:
    """All reels."""
    return _lines()


@blueprint.post("/reels")
@spec.validate(resp=answers(ReelBody))
def new_reel(json: NewReel) -> ReelBody:
    """A new reel, of the size and rate of its first take."""
    items, first = [], None
    for run_id in json.runs:
        shot = shot_of(services().project.ledger.run(run_id))
        first = first or shot
        only = shot.camera_passes[0] if len(shot.camera_passes) > 1 else None
        names = {"camera": only.camera, "render_pass": only.render_pass} if only else {}
        items.append({"kind": "take", "take": f"{RUN}{run_id}"} | names)
    document: dict[str, Any] = {"title": json.title or "Reel", "items": items}
    if first is not None:
        document |= {"width": first.picture.width, "height": first.picture.height}
        document["rate"] = str(first.clock.exact.playback.fps)
    return services().reel_bodies.body(services().project.reels.add(read_reel_document(document)))


@blueprint.get("/reels/<reel_id>")
@spec.validate(resp=answers(ReelBody))
def get_reel(reel_id: str, query: SinceReel) -> ReelBody:
    """A reel, worked out."""
    return services().reel_bodies.body(services().project.reels.get(reel_id), query.since)


@blueprint.get("/reels/<reel_id>/text")
def reel_text(reel_id: str) -> Response:
    """The stored file of a reel, unchanged, even when it is not a valid reel."""
    return Response(services().project.reels.text(reel_id), mimetype="text/plain")


@blueprint.patch("/reels/<reel_id>")
@spec.validate(resp=answers(ReelBody))
def edit_reel(reel_id: str, json: ReelEdit, query: SinceReel) -> ReelBody:
    """Edit a reel; saved at once. One that would contain itself is refused."""
    store = services().project.reels
    if "items" in json.patch:
        reel = edited_reel(store.get(reel_id).value, json.patch)
        refuse_itself(reel, store.folder, store.folder / f"{reel_id}.json")
    return _saved(store.edit(reel_id, json.patch, json.what, json.burst, query.revision), query.since)


@blueprint.post("/reels/<reel_id>/undo")
@spec.validate(resp=answers(ReelBody))
def undo_reel(reel_id: str, query: SinceReel) -> ReelBody:
    """Take back the last edit."""
    return _saved(services().project.reels.undo(reel_id, query.revision), query.since)


@blueprint.post("/reels/<reel_id>/redo")
@spec.validate(resp=answers(ReelBody))
def redo_reel(reel_id: str, query: SinceReel) -> ReelBody:
    """Redo the edit that was undone last."""
    return _saved(services().project.reels.redo(reel_id, query.revision), query.since)


@blueprint.delete("/reels/<reel_id>")
@spec.validate(resp=answers(ReelLines))
def remove_reel(reel_id: str) -> ReelLines:
    """Take a reel off the list; its file goes to ``reels/removed``."""
    services().project.reels.remove(reel_id)
    return _lines()


@blueprint.get("/reels/<reel_id>/picture")
@spec.validate()
def reel_picture(reel_id: str, query: ReelPictureOrder) -> Response:
    """A frame of a reel, drawn small from its media."""
    reel = services().project.reels.get(reel_id).value
    data = services().reels.picture(services().reels.in_format(reel, query.format), query.frame, query.side)
    kind = "image/png" if data.startswith(b"\x89PNG") else "image/jpeg"
    return Response(data, mimetype=kind, headers={"Cache-Control": "no-store"})


@blueprint.get("/reels/<reel_id>/items/<int:item>/picture")
@spec.validate()
def item_picture(reel_id: str, item: int, query: PictureOrder) -> Response:
    """A frame of what an item plays, by its number there."""
    data = services().reels.item_picture(services().project.reels.get(reel_id).value, item, query.frame, query.side)
    kind = "image/png" if data.startswith(b"\x89PNG") else "image/jpeg"
    return Response(data, mimetype=kind, headers={"Cache-Control": "no-store"})


@blueprint.get("/reels/<reel_id>/sounds/<int:sound>/peaks")
@spec.validate(resp=answers(SoundPeaks))
def sound_peaks(reel_id: str, sound: int) -> SoundPeaks:
    """How loud a sound of a reel is along its whole file."""
    seconds, peaks = services().reels.peaks(services().project.reels.get(reel_id).value, sound)
    return SoundPeaks(seconds=seconds, peaks=peaks)


@blueprint.get("/reels/<reel_id>/looks")
@spec.validate(resp=answers(ReelLooks))
def analyse(reel_id: str) -> ReelLooks:
    """Look at all frames of a reel, small: flashes, cuts on which nothing changes, jumps."""
    found, left_out = services().reels.analyse(reel_id, services().project.reels.get(reel_id).value)
    return ReelLooks(findings=[FindingBody(**asdict(finding)) for finding in found], left_out=left_out)


@blueprint.post("/reels/<reel_id>/files")
@spec.validate(resp=answers(ReelFiles))
def bring_files(reel_id: str) -> ReelFiles:
    """Keep files beside the reels; items and sounds that they make."""
    services().project.reels.get(reel_id)
    files = [file for file in request.files.getlist("files") if file.filename]
    if not files:
        raise Mistake("nothing came: drop a video, images or a sound")
    folder = services().project.reels.folder
    with kept_files(files, folder / "files") as (_, places):
        found = services().reels.imported(places)
    return ReelFiles(items=found.items, sounds=found.sounds)


@blueprint.get("/reels/<reel_id>/list")
@spec.validate(resp=answers(ReelListBody))
def list_cuts(reel_id: str, query: ListOrder) -> ReelListBody:
    """The cuts of a reel, for other programs; paths are relative to the folder of the reels."""
    opened = services().reels.open(services().project.reels.get(reel_id).value)
    folder = services().project.reels.folder
    text, notes = cut_format(f".{query.ending}").text_of(opened.plan, opened.first_file, folder)
    return ReelListBody(name=f"{reel_id}.{query.ending}", text=text, notes=notes)


@blueprint.post("/reels/timelines")
@spec.validate(resp=answers(ReelOfTimeline))
def import_timeline() -> ReelOfTimeline:
    """A reel of an OpenTimelineIO file; media that it names beside itself are looked for beside the reels."""
    files = [file for file in request.files.getlist("files") if file.filename]
    if len(files) != 1:
        raise Mistake("import one OpenTimelineIO file (.otio)")
    reel, notes = read_timeline(str(files[0].filename), files[0].read(MOST_TIMELINE_BYTES + 1))
    return ReelOfTimeline(id=services().project.reels.add(reel).id, notes=notes)


@blueprint.post("/reels/<reel_id>/markers")
@spec.validate(resp=answers(ReelBody))
def work_markers(reel_id: str, json: MarkerOrder, query: SinceReel) -> ReelBody:
    """Put a marker at each beat of the first sound, twice or half as many of those, or lay cuts to the markers."""
    store = services().project.reels
    reel = store.get(reel_id).value
    if json.what == "beats":
        patch, what = {"markers": services().reels.beats(reel)}, "the beats"
    elif json.what != "cuts":
        patch, what = with_pulse(reel.markers, json.what), "the beats"
    else:
        patch, what = cuts_to_markers(services().reels.open(reel).plan), "the cuts at markers"
    return _saved(store.edit(reel_id, patch, what, "", query.revision), query.since)


@blueprint.post("/reels/<reel_id>/renewals")
@spec.validate(resp=answers(ReelBody))
def renew_takes(reel_id: str, query: SinceReel) -> ReelBody:
    """Capture shots again whose takes are outdated; the reel then follows their newest takes."""
    store = services().project.reels
    reel = store.get(reel_id).value
    _, items = services().reels.renew(reel)
    if items == reel.items:
        return services().reel_bodies.body(store.get(reel_id), query.since)
    patch = {"items": [item.model_dump(mode="json") for item in items]}
    return _saved(store.edit(reel_id, patch, "the newest takes", "", query.revision), query.since)


@blueprint.post("/reels/<reel_id>/captures")
@spec.validate(resp=answers(ReelRuns))
def capture_reel(reel_id: str) -> ReelRuns:
    """Capture the shots and instants that a reel is missing."""
    return ReelRuns(runs=services().reels.capture(services().project.reels.get(reel_id).value))


@blueprint.post("/reels/<reel_id>/dispatch")
@spec.validate(resp=answers(OutputBodies))
def dispatch_reel(reel_id: str, json: ReelDispatch) -> OutputBodies:
    """Make files of a reel by several recipes."""
    recipes = [read_recipe(json_text.dumps(one), str(one.get("name", "the recipe"))) for one in json.recipes]
    reel = services().project.reels.get(reel_id).value
    ids = services().files.dispatch_reel(reel_id, shown_in(reel, json.formats), recipes, json.folder, json.names)
    return OutputBodies(outputs=bodies_of([services().project.outputs.get(output_id) for output_id in ids]))


@blueprint.post("/reels/<reel_id>/file-names")
@spec.validate(resp=answers(FileNamesBody))
def file_names_of_reel(reel_id: str, json: ReelDispatch) -> FileNamesBody:
    """The names that the files of an order would get."""
    recipes = [read_recipe(json_text.dumps(one), str(one.get("name", "the recipe"))) for one in json.recipes]
    reels = shown_in(services().project.reels.get(reel_id).value, json.formats)
    names = services().files.names_of_reel(reels, recipes, json.folder, json.names)
    return FileNamesBody(folder=json.folder or str(services().project.files), names=names)


@blueprint.post("/reels/<reel_id>/trial")
@spec.validate(resp=answers(TrialBody))
def try_on_reel(reel_id: str, json: TrialOrder) -> TrialBody:
    """Try a recipe on a stretch of a reel."""
    reel = services().project.reels.get(reel_id).value
    return trial_body(services().reels.order(reel), reel.title, json)


@blueprint.post("/reels/<reel_id>/gif-table")
@spec.validate(resp=answers(GifTableBody))
def measure_gif_of_reel(reel_id: str, json: TrialOrder) -> GifTableBody:
    """How large a GIF of a reel would be, one way and another."""
    reel = services().project.reels.get(reel_id).value
    return gif_body(services().reels.order(reel), reel.title, json)


def _saved(kept: KeptReel, since: str) -> ReelBody:
    services().events.send(ReelChanged(id=kept.id, revision=kept.revision))
    return services().reel_bodies.body(kept, since)


def _lines() -> ReelLines:
    store = services().project.reels
    why = "the name of its file is not one that Vexel can open: rename it"
    odd = [ReelLine(id="", title=name, summary="", error=why) for name in store.nameless()]
    desk, kept = services().reels, services().reel_lines
    runs = desk.runs()
    lines = [
        kept.line(reel_id, (store.stamp(reel_id), desk.stamp(reel_id, runs)), partial(_line, reel_id, runs))
        for reel_id in store.ids()
    ]
    return ReelLines(reels=[*lines, *odd])


def _line(reel_id: str, runs: Runs) -> ReelLine:
    services().reels.note(reel_id, None)
    try:
        reel: Reel = services().project.reels.value(reel_id)
        opened = services().reels.open(reel, runs)
        services().reels.note(reel_id, opened)
        plan = opened.plan
    except VexelError as error:
        return ReelLine(id=reel_id, title=reel_id, summary="", error=str(error))
    except Exception as error:
        # A document that fails for any reason must not take the list from all others.
        log.exception("reel %s cannot be listed", reel_id)
        why = f"it cannot be worked with ({type(error).__name__}): {error}"[:500]
        return ReelLine(id=reel_id, title=reel_id, summary="", error=why)
    seconds = decimal(plan.frames / plan.rate.fps, 3)
    summary = f"{counted(len(reel.items), 'item')} · {counted(plan.frames, 'frame')} · {seconds} s at {plan.rate.label}"
    sizes = [SizeBody(format="", width=reel.width, height=reel.height)]
    sizes += [SizeBody(format=one.name, width=one.width, height=one.height) for one in reel.formats]
    return ReelLine(id=reel_id, title=reel.title, summary=summary, frames=plan.frames, sizes=sizes)
