"""Blueprint: notes of reviews, and the pages that carry them."""

import csv
import io
import json as json_text

from flask import Blueprint, Response, request

from vexel.core.errors import Mistake
from vexel.core.time.rate import Rate
from vexel.core.time.timecode import has_timecode, timecode
from vexel.core.wording import slug
from vexel.output.exporting.review_page import MOST_BYTES, read_page
from vexel.store.tables import NoteRow
from vexel.web.jobs.reviewing.subjects import Subject
from vexel.web.schemas.common import Done
from vexel.web.schemas.reviews import (
    MarkBody,
    MergedBody,
    NoteBodies,
    NoteBody,
    NoteEdit,
    NoteOrder,
    PageBody,
    PassQuery,
)
from vexel.web.services import services
from vexel.web.spec import answers, spec

blueprint = Blueprint("review_notes", __name__, url_prefix="/api")


@blueprint.get("/reviews/<kind>/<name>/notes")
@spec.validate(resp=answers(NoteBodies))
def notes(kind: str, name: str) -> NoteBodies:
    """All notes."""
    return _notes(f"{kind}:{name}")


@blueprint.post("/reviews/<kind>/<name>/notes")
@spec.validate(resp=answers(NoteBodies))
def add_note(kind: str, name: str, json: NoteOrder) -> NoteBodies:
    """Write a note down."""
    subject = services().subjects.find(kind, name, json.camera_pass)
    subject.picture(json.last)
    mark = json.mark.model_dump_json() if json.mark else ""
    values = json.model_dump(exclude={"mark"})
    services().project.notes.add(subject=subject.id, mark=mark, **values)
    return _notes(subject.id)


@blueprint.patch("/notes/<int:note_id>")
@spec.validate(resp=answers(NoteBodies))
def edit_note(note_id: int, json: NoteEdit) -> NoteBodies:
    """Change the text of a note, or close it."""
    changed = json.model_dump(exclude_none=True)
    return _notes(services().project.notes.change(note_id, **changed).subject)


@blueprint.delete("/notes/<int:note_id>")
@spec.validate(resp=answers(Done))
def remove_note(note_id: int) -> Done:
    """Delete a note."""
    services().project.notes.remove(note_id)
    return Done()


@blueprint.get("/reviews/<kind>/<name>/page")
@spec.validate(resp=answers(PageBody))
def review_page(kind: str, name: str, query: PassQuery) -> PageBody:
    """How far a review page is."""
    return _page_body(services().subjects.find(kind, name, query.camera_pass))


@blueprint.post("/reviews/<kind>/<name>/page")
@spec.validate(resp=answers(PageBody))
def make_page(kind: str, name: str, query: PassQuery) -> PageBody:
    """Make a review page: one file with the film, the notes and the figures."""
    subject = services().subjects.find(kind, name, query.camera_pass)
    services().review_pages.begin(subject)
    return _page_body(subject)


@blueprint.get("/reviews/<kind>/<name>/page.html")
@spec.validate()
def page_file(kind: str, name: str, query: PassQuery) -> Response:
    """The review page, with all notes of now."""
    subject = services().subjects.find(kind, name, query.camera_pass)
    title, data = services().review_pages.page(subject)
    headers = {"Content-Disposition": f'attachment; filename="{title}"'}
    return Response(data, mimetype="text/html", headers=headers)


@blueprint.post("/reviews/<kind>/<name>/notes/import")
@spec.validate(resp=answers(MergedBody))
def import_notes(kind: str, name: str, query: PassQuery) -> MergedBody:
    """Take over the notes of a review page that came back."""
    files = request.files.getlist("files")
    if len(files) != 1:
        raise Mistake("choose one review page")
    (file,) = files
    subject = services().subjects.find(kind, name, query.camera_pass)
    data = file.stream.read(MOST_BYTES + 1)
    if len(data) > MOST_BYTES:
        raise Mistake(f"{file.filename} is larger than a review page")
    new, changed = services().review_pages.merge(subject, read_page(data, file.filename or "the file"))
    return MergedBody(new=new, changed=changed)


@blueprint.get("/reviews/<kind>/<name>/notes.csv")
@spec.validate()
def notes_table(kind: str, name: str) -> Response:
    """All notes as a table."""
    subject = services().subjects.find(kind, name)
    text = io.StringIO()
    rows = csv.writer(text, lineterminator="\r\n")
    rows.writerow(["first", "last", "from", "to", "camera and pass", "text", "author", "created", "state", "mark"])
    rate = Rate(subject.rate)
    for note in services().project.notes.of(subject.id):
        shown = subject.camera_passes[note.camera_pass] if note.camera_pass < len(subject.camera_passes) else ""
        times = [timecode(frame, rate) if has_timecode(rate) else "" for frame in (note.first, note.last)]
        cells = [shown, note.text, note.author, note.created, "open" if note.is_open else "done", note.mark]
        rows.writerow([note.first, note.last, *times, *map(_inert, cells)])
    headers = {"Content-Disposition": f'attachment; filename="{slug(subject.title)}.notes.csv"'}
    return Response("\ufeff" + text.getvalue(), mimetype="text/csv", headers=headers)


@blueprint.get("/reviews/<kind>/<name>/notes.otio")
@spec.validate()
def notes_timeline(kind: str, name: str, query: PassQuery) -> Response:
    """All notes on a camera and pass as the markers of a timeline."""
    from vexel.interchange.otio_notes import NoteMarker, notes_as_otio

    subject = services().subjects.find(kind, name, query.camera_pass)
    markers = [
        NoteMarker(note.first, note.last, note.text, note.author, note.is_open)
        for note in services().project.notes.of(subject.id)
        if note.camera_pass == subject.camera_pass
    ]
    text = notes_as_otio(subject.title, subject.count, subject.rate, markers)
    headers = {"Content-Disposition": f'attachment; filename="{slug(subject.title)}.notes.otio"'}
    return Response(text, mimetype="application/json", headers=headers)


def _inert(cell: str) -> str:
    """A cell that no spreadsheet takes for a formula (OWASP, CSV injection)."""
    return f"'{cell}" if cell.startswith(("=", "+", "-", "@", "\t", "\r")) else cell


def _page_body(subject: Subject) -> PageBody:
    pages = services().review_pages
    job, ready = pages.newest(subject), pages.is_ready(subject)
    state = "done" if ready else job.state if job is not None and job.state != "done" else "none"
    return PageBody(
        state=state,
        message=job.ending.sentence if job is not None and job.ending is not None and not ready else "",
        progress=job.progress if job is not None and job.under_way else None,
    )


def _notes(subject: str) -> NoteBodies:
    return NoteBodies(notes=[_note(row) for row in services().project.notes.of(subject)])


def _note(row: NoteRow) -> NoteBody:
    return NoteBody(
        id=row.id,
        camera_pass=row.camera_pass,
        first=row.first,
        last=row.last,
        mark=MarkBody.model_validate(json_text.loads(row.mark)) if row.mark else None,
        text=row.text,
        author=row.author,
        created=row.created,
        is_open=row.is_open,
    )
