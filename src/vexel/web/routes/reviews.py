"""Blueprint: reviews of takes, files and reels: their frames, figures and notes."""

import math
import shutil

from flask import Blueprint, Response, request

from vexel.core.document.naming import chosen_frames
from vexel.core.errors import Failure, Missing, Mistake
from vexel.core.review.figures import Measured
from vexel.core.review.findings import Seen
from vexel.core.review.setting_label import setting_label
from vexel.core.time.clock import decimal
from vexel.core.time.rate import Rate
from vexel.core.time.timecode import has_timecode, read_length, timecode
from vexel.core.wording import counted, slug
from vexel.output.exporting.contact_sheet import ContactSheet, SheetCell, sheet_html, sheet_pdf, sheet_png
from vexel.output.inspecting.inspect import said_origin
from vexel.web.jobs.reviewing.changes import changes_between
from vexel.web.jobs.reviewing.made_from import made_from
from vexel.web.jobs.reviewing.pairs import Pair
from vexel.web.jobs.reviewing.subjects import Subject
from vexel.web.schemas.common import Done, NamedValue
from vexel.web.schemas.reviews import (
    ChangeBody,
    ChangesBody,
    ChangesQuery,
    CurvesBody,
    DifferenceBody,
    DifferenceQuery,
    FiguresBody,
    ImportedBody,
    InspectedBody,
    LinesBody,
    LookQuery,
    MadeFromBody,
    OtherBodies,
    PairBody,
    PairQuery,
    PassQuery,
    PixelBody,
    PixelQuery,
    PlaceBody,
    PlaceQuery,
    ReviewBody,
    SeenBody,
    SheetQuery,
)
from vexel.web.services import services
from vexel.web.spec import answers, spec
from vexel.web.uploads import kept_files

blueprint = Blueprint("reviews", __name__, url_prefix="/api")
FOR_EVER = "max-age=31536000"
SHEETS = {
    "png": (sheet_png, "image/png"),
    "pdf": (sheet_pdf, "application/pdf"),
    "html": (sheet_html, "text/html"),
}
SHEET_WIDTH, MOST_ON_SHEET = 320, 200
"""Width of a picture on a contact sheet, and how many it holds."""
DIGITS = 6
"""Of figures that are sent."""


@blueprint.get("/reviews")
@spec.validate(resp=answers(OtherBodies))
def list_reviewable() -> OtherBodies:
    """All that can be reviewed: takes and files, the newest first, and reels."""
    return OtherBodies(others=services().reviewable.all())


@blueprint.post("/reviews")
@spec.validate(resp=answers(ImportedBody))
def import_files() -> ImportedBody:
    """Take a video or numbered images to look at; what cannot be opened is not kept."""
    files = [file for file in request.files.getlist("files") if file.filename]
    if not files:
        raise Mistake("the upload holds no file: choose a video, or numbered images")
    with kept_files(files, services().project.reviewed) as (folder, _):
        subject = services().subjects.find("import", folder.name)
    return ImportedBody(name=subject.name)


@blueprint.delete("/reviews/import/<name>")
@spec.validate(resp=answers(Done))
def remove_import(name: str) -> Done:
    """Delete what was dropped on Review, with its notes."""
    shutil.rmtree(services().subjects.folder_of(name))
    services().project.notes.remove_of(f"import:{name}")
    return Done()


@blueprint.get("/reviews/<kind>/<name>/inspected")
@spec.validate(resp=answers(InspectedBody))
def inspected(kind: str, name: str) -> InspectedBody:
    """Facts and findings of a file or a folder of images, and the provenance record of a file."""
    place = services().subjects.find(kind, name).file if kind == "file" else services().subjects.place_of(name)
    if place is None:
        raise Mistake("only files and imports are inspected")
    with services().media.asked() as process:
        found = process.inspected(place)
    made = made_from(services().project, place) if place.is_file() else None
    return InspectedBody(
        facts=[
            NamedValue(name=fact, value=f"{value:,}" if isinstance(value, int) else str(value))
            for fact, value in found["facts"].items()
            if fact != "made"
        ],
        findings=found["findings"],
        damaged=found["damaged"],
        made=None
        if made is None
        else MadeFromBody(
            said="" if made.origin is None else said_origin(made.origin),
            take=made.run_id,
            shot_id=made.shot_id,
            reel=made.reel,
            recipe=made.recipe.name if made.recipe is not None else "",
            camera_pass=made.camera_pass,
            gone=list(made.gone),
        ),
    )


@blueprint.get("/reviews/<kind>/<name>")
@spec.validate(resp=answers(ReviewBody))
def review(kind: str, name: str, query: PassQuery) -> ReviewBody:
    """What is reviewed, without its pictures."""
    subject = services().subjects.find(kind, name, query.camera_pass)
    return ReviewBody(
        kind=subject.kind,
        name=subject.name,
        title=subject.title,
        count=subject.count,
        first=subject.first,
        rate=str(subject.rate),
        fps=float(subject.rate),
        width=subject.width,
        height=subject.height,
        bits=subject.bits,
        closes=subject.closes,
        is_data=subject.is_data,
        missing=list(subject.missing),
        camera_passes=list(subject.camera_passes),
        camera_pass=subject.camera_pass,
        content=subject.content,
        shot_id=subject.shot_id,
        others=services().reviewable.beside(subject),
    )


@blueprint.get("/reviews/<kind>/<name>/frames/<int:number>")
@spec.validate()
def review_frame(kind: str, name: str, number: int, query: LookQuery) -> Response:
    """A frame as PNG, or as a small JPEG."""
    subject = services().subjects.find(kind, name, query.camera_pass)
    headers = {"Cache-Control": FOR_EVER}
    subject.picture(number)
    footage = subject.footage
    if subject.kind == "take" and footage is not None and not (query.wide or query.stops or footage.premultiplied):
        file = footage.files[number]
        if file.suffix == ".png" and subject.bits == 8:
            if file.stem not in services().project.ledger.frames.there([file.stem], file.suffix, deep=True):
                footage.set_aside(file)
                raise Failure(f"frame {number} is damaged or missing: resume run {name} to make it again")
            return Response(file.read_bytes(), mimetype="image/png", headers=headers)
    data = services().subjects.look(subject, number, query.wide, query.stops)
    kind_of = "image/png" if data.startswith(b"\x89PNG") else "image/jpeg"
    return Response(data, mimetype=kind_of, headers=headers)


@blueprint.get("/reviews/<kind>/<name>/place")
@spec.validate(resp=answers(PlaceBody))
def review_place(kind: str, name: str, query: PlaceQuery) -> PlaceBody:
    """The frame that a typed text names, and how it is labelled."""
    subject = services().subjects.find(kind, name, query.camera_pass)
    rate, text = Rate(subject.rate), query.text.strip()
    if text.isascii() and text.isdecimal():
        frame = int(text) - subject.first
    else:
        length = read_length(text, rate)
        frame = int(length.seconds * subject.rate) if length.seconds is not None else length.frames or 0
    if not 0 <= frame < subject.count:
        last = subject.first + subject.count - 1
        raise Mistake(f"{subject.title} has frames {subject.first} to {last}; {text} is outside of them")
    label = timecode(frame, rate) if has_timecode(rate) else ""
    return PlaceBody(frame=frame, seconds=decimal(frame / subject.rate), timecode=label)


@blueprint.get("/reviews/<kind>/<name>/pixel")
@spec.validate(resp=answers(PixelBody))
def review_pixel(kind: str, name: str, query: PixelQuery) -> PixelBody:
    """The numbers of a pixel."""
    subject = services().subjects.find(kind, name, query.camera_pass)
    found = services().subjects.pixel(subject, query.frame, query.x, query.y)
    return PixelBody(values=[_number(value) for value in found.values], bits=found.bits)


@blueprint.get("/reviews/<kind>/<name>/difference")
@spec.validate(resp=answers(DifferenceBody))
def review_difference(kind: str, name: str, query: DifferenceQuery) -> DifferenceBody:
    """How a frame differs from one of something else."""
    subjects = services().subjects
    one = subjects.find(kind, name, query.camera_pass)
    other = subjects.find(query.other_kind, query.other, query.other_pass)
    step, (x, y) = subjects.step(one, query.frame, other, query.other_frame)
    is_light = one.bits == 0
    return DifferenceBody(mean=step.mean, most=step.most, changed=step.changed, x=x, y=y, is_light=is_light)


@blueprint.get("/reviews/<kind>/<name>/pair")
@spec.validate(resp=answers(PairBody))
def review_pair(kind: str, name: str, query: PairQuery) -> PairBody:
    """How far the frames of two subjects are apart, where that is measured, and what is found between them."""
    return _pair_body(_pair(kind, name, query))


@blueprint.post("/reviews/<kind>/<name>/pair")
@spec.validate(resp=answers(PairBody))
def measure_pair(kind: str, name: str, query: PairQuery) -> PairBody:
    """Measure how far all frames of two subjects are apart."""
    pair = _pair(kind, name, query)
    services().pairs.begin(pair)
    return _pair_body(pair)


@blueprint.get("/reviews/<kind>/<name>/sheet.<suffix>")
@spec.validate()
def contact_sheet(kind: str, name: str, suffix: str, query: SheetQuery) -> Response:
    """A contact sheet of some frames: png, pdf or html."""
    if suffix not in SHEETS:
        raise Missing(f"there is no contact sheet as .{suffix[:20]}: ask for png, pdf or html")
    subject = services().subjects.find(kind, name, query.camera_pass)
    numbers = _chosen(subject, query)
    cells = []
    for number in numbers:
        picture = services().subjects.look(subject, number, min(SHEET_WIDTH, subject.width), 0.0)
        seconds = decimal(number / subject.rate)
        cells.append(SheetCell(f"frame {number + subject.first} · {seconds} s", picture))
    columns = min(query.columns, len(cells))
    rows = [cells[at : at + columns] for at in range(0, len(cells), columns)]
    shown = subject.camera_passes[subject.camera_pass] if len(subject.camera_passes) > 1 else ""
    note = ", ".join(filter(None, [f"{subject.kind} {subject.name}", shown, counted(subject.count, "frame")]))
    make, mimetype = SHEETS[suffix]
    headers = {"Content-Disposition": f'attachment; filename="{slug(subject.title)}.frames.{suffix}"'}
    return Response(make(ContactSheet(subject.title, note, rows)), mimetype=mimetype, headers=headers)


def _chosen(subject: Subject, query: SheetQuery) -> list[int]:
    """The frames of a contact sheet."""
    if query.of == "noted":
        notes = services().project.notes.of(subject.id)
        numbers = {note.first for note in notes if note.camera_pass == subject.camera_pass}
    elif query.of == "findings":
        found = services().measuring.reviewed(subject)
        numbers = {frame for one in (found.seen if found is not None else []) for frame in one.frames}
    elif query.frames:
        numbers = {number - subject.first for number in chosen_frames(query.frames, subject.first + subject.count)}
    else:
        numbers = set(range(0, subject.count, query.every))
    chosen = sorted(number for number in numbers if 0 <= number < subject.count)
    if not chosen:
        raise Mistake("no frame is chosen for the contact sheet")
    if len(chosen) > MOST_ON_SHEET:
        raise Mistake(f"{len(chosen):,} frames are chosen, and a contact sheet holds {MOST_ON_SHEET}: choose fewer")
    return chosen


@blueprint.get("/reviews/<kind>/<name>/figures")
@spec.validate(resp=answers(FiguresBody))
def review_figures(kind: str, name: str, query: PassQuery) -> FiguresBody:
    """Figures of all frames, and what is found from them."""
    return _figures(services().subjects.find(kind, name, query.camera_pass))


@blueprint.post("/reviews/<kind>/<name>/figures")
@spec.validate(resp=answers(FiguresBody))
def measure(kind: str, name: str, query: PassQuery) -> FiguresBody:
    """Measure the frames that have not been measured."""
    subject = services().subjects.find(kind, name, query.camera_pass)
    services().measuring.begin(subject)
    return _figures(subject)


@blueprint.post("/reviews/<kind>/<name>/figures/stop")
@spec.validate(resp=answers(FiguresBody))
def stop_measuring(kind: str, name: str, query: PassQuery) -> FiguresBody:
    """Stop measuring; what was measured is kept."""
    subject = services().subjects.find(kind, name, query.camera_pass)
    services().measuring.stop(subject)
    return _figures(subject)


@blueprint.get("/runs/<int:run_id>/changes")
@spec.validate(resp=answers(ChangesBody))
def changes(run_id: int, query: ChangesQuery) -> ChangesBody:
    """What differs between a take and another one, or its shot now."""
    shots, run = services().project.shots, services().project.ledger.run(run_id)
    digest = services().source_state(shots.shot(run.shot_id)) if shots.has(run.shot_id) else ""
    found = changes_between(services().project, run_id, query.other, digest)
    return ChangesBody(
        one=found.one,
        other=found.other,
        changes=[
            ChangeBody(path=one.path, label=setting_label(one.path), one=one.one, other=one.other)
            for one in found.settings
        ],
        lines=[LinesBody(file=one.file, one=list(one.one), other=list(one.other)) for one in found.lines],
        notes=list(found.notes),
        patch=found.patch,
    )


def _number(value: float) -> float | None:
    return value if math.isfinite(value) else None


def _figures(subject: Subject) -> FiguresBody:
    measuring = services().measuring
    job = measuring.newest(subject)
    going = job is not None and job.under_way
    found = None if going or subject.is_data else measuring.reviewed(subject)
    state = job.state if job is not None else "none"
    if found is not None:
        state = "done"
    elif state == "done":
        # There are new frames since.
        state = "none"
    return FiguresBody(
        state=state,
        message=job.ending.sentence if job is not None and job.ending is not None and found is None else "",
        progress=job.progress if job is not None and going else None,
        curves=None if found is None else _curves(found.measured),
        findings=[] if found is None else [_seen(one) for one in found.seen],
        looked_closer=[] if found is None else sorted(found.measured.closer),
    )


def _pair(kind: str, name: str, query: PairQuery) -> Pair:
    subjects = services().subjects
    one = subjects.find(kind, name, query.camera_pass)
    return Pair(one, subjects.find(query.other_kind, query.other, query.other_pass), query.by, query.offset)


def _pair_body(pair: Pair) -> PairBody:
    pairs = services().pairs
    job, steps = pairs.newest(pair), pairs.apart(pair)
    state = "done" if steps is not None else job.state if job is not None and job.state != "done" else "none"
    return PairBody(
        state=state,
        message=job.ending.sentence if job is not None and job.ending is not None and steps is None else "",
        progress=job.progress if job is not None and job.under_way else None,
        first=pair.frames[0][0] if pair.frames else 0,
        apart=None if steps is None else [round(step.mean, DIGITS) for step in steps],
        most=None if steps is None else [round(step.most, DIGITS) for step in steps],
        findings=[_seen(one) for one in pairs.seen(pair)],
    )


def _seen(one: Seen) -> SeenBody:
    return SeenBody(name=one.finding.name, what=one.finding.what, cost=one.finding.cost, frames=list(one.frames))


def _curves(measured: Measured) -> CurvesBody:
    frames, steps = measured.frames, measured.steps
    plain = ("mean", "low", "high", "dark", "light", "sharpness", "noise", "clear")
    curves = {name: [round(getattr(one, name), DIGITS) for one in frames] for name in plain}
    for place, channel in enumerate(("red", "green", "blue")):
        curves[channel] = [round(one.channel_means[place], DIGITS) for one in frames]
    for name, figure in (("step", "mean"), ("step_most", "most"), ("changed", "changed")):
        curves[name] = [round(getattr(one, figure), DIGITS) for one in steps]
    return CurvesBody.model_validate(curves)
