"""Blueprint: compiled files, their receipts, playing and download."""

import json as json_text
from pathlib import Path

from flask import Blueprint, Response, request, send_file

from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.recipes.recipe import Recipe
from vexel.core.reel.reel_spec import read_reel
from vexel.store.outputs import trouble_of
from vexel.store.tables import OutputRow
from vexel.store.takes import shot_of
from vexel.web.file_manager import show_in_folder
from vexel.web.jobs.job import JobKey
from vexel.web.jobs.output_names import recipe_of
from vexel.web.schemas.common import Done
from vexel.web.schemas.news import JobChanged
from vexel.web.schemas.runs import CompileOrder, OutputBody, ReceiptBody
from vexel.web.schemas.vocabulary import RecipeBody
from vexel.web.services import services
from vexel.web.spec import answers, spec

blueprint = Blueprint("outputs", __name__, url_prefix="/api")
PAGE_POLICY = (
    "sandbox allow-scripts; default-src 'none'; img-src data: blob:; media-src data: blob:; "
    "style-src 'unsafe-inline'; script-src 'unsafe-inline'; frame-ancestors 'self'"
)
MIMETYPES = {
    ".mp4": "video/mp4",
    ".mov": "video/quicktime",
    ".webm": "video/webm",
    ".mkv": "video/x-matroska",
    ".gif": "image/gif",
    ".webp": "image/webp",
    ".apng": "image/apng",
    ".png": "image/png",
    ".jpg": "image/jpeg",
    ".zip": "application/zip",
    ".vtt": "text/vtt",
    ".html": "text/html",
}


@blueprint.post("/runs/<int:run_id>/outputs")
@spec.validate(resp=answers(OutputBody))
def compile_take(run_id: int, json: CompileOrder) -> OutputBody:
    """Compile a take by a recipe."""
    return _body(services().files.compile(run_id, json.recipe, json.camera_pass, json.folder, json.links))


@blueprint.get("/outputs/<int:output_id>")
@spec.validate(resp=answers(OutputBody))
def get_output(output_id: int) -> OutputBody:
    """A compiled file."""
    return _body(output_id)


@blueprint.post("/outputs/<int:output_id>/stop")
@spec.validate(resp=answers(OutputBody))
def stop_output(output_id: int) -> OutputBody:
    """Stop compiling."""
    services().jobs.stop(JobKey("file", output_id))
    return _body(output_id)


@blueprint.delete("/outputs/<int:output_id>")
@spec.validate(resp=answers(Done))
def remove_output(output_id: int) -> Done:
    """Delete a compiled file and its entry; a file that has changed since, and folders elsewhere, are kept."""
    row = services().project.outputs.get(output_id)
    services().files.remove(output_id)
    services().project.notes.remove_of(f"file:{output_id}")
    services().events.send(JobChanged(job="file", id=output_id, run=row.run or 0))
    return Done()


@blueprint.post("/outputs/<int:output_id>/show")
@spec.validate(resp=answers(Done))
def show_output(output_id: int) -> Done:
    """Show a compiled file in the file manager of the machine that Vexel runs on."""
    show_in_folder(services().project.files / services().project.outputs.get(output_id).file)
    return Done()


@blueprint.get("/outputs/<int:output_id>/file")
def output_file(output_id: int) -> Response:
    """The file itself, in ranges for a player; ``?download=1`` saves it."""
    row = services().project.outputs.get(output_id)
    path: Path = services().project.files / row.file
    if row.state != "done" or not path.is_file():
        raise Mistake(f"{row.file} is not there: compile it again")
    if path.is_dir():
        raise Mistake(f"{row.file} is a folder: take its frames from {path}")
    response = send_file(
        path,
        mimetype=MIMETYPES[path.suffix],
        conditional=True,
        as_attachment="download" in request.args,
        download_name=path.name,
    )
    if path.suffix == ".html":
        # It may be viewed here, isolated from the session: it gets a separate origin, and no network.
        response.headers["Content-Security-Policy"] = PAGE_POLICY
    return response


def output_body(row: OutputRow, shot: Shot, shot_id: str) -> OutputBody:
    """A compiled file as the screens show it."""
    return _whole(row, shot.title, shot_id).model_copy(update={"panorama": shot.lens_of(row.camera_pass).panorama})


def output_body_of_reel(row: OutputRow) -> OutputBody:
    """A file of a reel as the screens show it."""
    return _whole(row, read_reel(row.reel_document).title, "")


def _whole(row: OutputRow, title: str, shot_id: str) -> OutputBody:
    recipe, job = recipe_of(row), services().jobs.find(JobKey("file", row.id))
    trouble = trouble_of(row, services().project.files / row.file) if row.state == "done" else ""
    return OutputBody(
        id=row.id,
        run_id=row.run,
        reel=row.reel,
        shot_id=shot_id,
        title=title,
        recipe=row.recipe,
        about=recipe.about,
        file=Path(row.file).name,
        path=str(services().project.files / row.file),
        folder=recipe.is_folder,
        deletes=services().files.deletes(row, trouble),
        state=row.state,
        message=row.message,
        created=row.created,
        progress=job.progress if job is not None else None,
        trouble=trouble,
        fits=[label for label, _ in json_text.loads(row.fits)] if row.fits else [],
        receipt=ReceiptBody.model_validate_json(row.receipt) if row.receipt else None,
        panorama=None,
    )


def _body(output_id: int) -> OutputBody:
    row = services().project.outputs.get(output_id)
    if row.reel:
        return output_body_of_reel(row)
    run = services().project.ledger.run(row.run)
    return output_body(row, shot_of(run), run.shot_id)


def recipe_body(recipe: Recipe) -> RecipeBody:
    """A recipe for the interface."""
    return RecipeBody(name=recipe.name, about=recipe.about, makes=recipe.makes, folder=recipe.is_folder)
