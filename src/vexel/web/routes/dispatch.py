"""Blueprint: what leaves the project, and the recipes that it leaves by."""

import base64
import json as json_text
from typing import Any

from flask import Blueprint

from vexel.core.document.shot import edited
from vexel.core.edits.at_rate import at_rate
from vexel.core.errors import Mistake
from vexel.core.recipes.recipe import Recipe, read_recipe
from vexel.core.recipes.shipped import RECIPES, USUAL
from vexel.core.time.rate import Rate
from vexel.output.bounded.media_orders import Work
from vexel.store.tables import OutputRow
from vexel.store.takes import shot_of
from vexel.web.jobs.take_files import take_footage
from vexel.web.routes.outputs import output_body, output_body_of_reel
from vexel.web.schemas.dispatch import (
    DispatchOrder,
    FileNamesBody,
    FullRecipeBodies,
    FullRecipeBody,
    GifRowBody,
    GifTableBody,
    LineBody,
    OutputBodies,
    RateOrder,
    ScaleBody,
    ShotMadeBody,
    TrialBody,
    TrialCalledOff,
    TrialOrder,
)
from vexel.web.schemas.runs import OutputBody
from vexel.web.services import services
from vexel.web.spec import answers, spec

blueprint = Blueprint("dispatch", __name__, url_prefix="/api")


@blueprint.get("/recipes")
@spec.validate(resp=answers(FullRecipeBodies))
def list_recipes() -> FullRecipeBodies:
    """All recipes, ours first."""
    store = services().project.recipes
    return FullRecipeBodies(recipes=[full_body(recipe) for recipe in store.all().values()], troubles=store.troubles())


@blueprint.put("/recipes/<name>")
@spec.validate(resp=answers(FullRecipeBody))
def save_recipe(name: str, json: Recipe) -> FullRecipeBody:
    """Save a custom recipe."""
    if json.name != name:
        raise Mistake(f"the recipe is named {json.name}, but was sent as {name}")
    services().project.recipes.save(json)
    return full_body(json)


@blueprint.delete("/recipes/<name>")
@spec.validate(resp=answers(FullRecipeBodies))
def remove_recipe(name: str) -> FullRecipeBodies:
    """Delete a custom recipe."""
    store = services().project.recipes
    store.remove(name)
    return FullRecipeBodies(recipes=[full_body(recipe) for recipe in store.all().values()], troubles=store.troubles())


@blueprint.get("/outputs")
@spec.validate(resp=answers(OutputBodies))
def list_outputs() -> OutputBodies:
    """Files of all takes, newest first."""
    return OutputBodies(outputs=bodies_of(services().project.outputs.all()))


@blueprint.post("/runs/<int:run_id>/dispatch")
@spec.validate(resp=answers(OutputBodies))
def dispatch(run_id: int, json: DispatchOrder) -> OutputBodies:
    """Make files of a take by several recipes; frames are read once for all of a camera pass."""
    recipes = [_recipe(document) for document in json.recipes]
    ids = services().files.dispatch(run_id, json.camera_passes, recipes, json.folder, json.names)
    return OutputBodies(outputs=bodies_of([services().project.outputs.get(output_id) for output_id in ids]))


@blueprint.post("/runs/<int:run_id>/file-names")
@spec.validate(resp=answers(FileNamesBody))
def file_names(run_id: int, json: DispatchOrder) -> FileNamesBody:
    """The names that the files of an order would get."""
    recipes = [_recipe(document) for document in json.recipes]
    names = services().files.names_of_take(run_id, json.camera_passes, recipes, json.folder, json.names)
    return FileNamesBody(folder=json.folder or str(services().project.files), names=names)


@blueprint.post("/outputs/<int:output_id>/fits/<int:which>")
@spec.validate(resp=answers(OutputBodies))
def fit(output_id: int, which: int) -> OutputBodies:
    """Make a file that was too large again, with one of the settings that would about fit."""
    made = services().files.fit(output_id, which)
    return OutputBodies(outputs=bodies_of([services().project.outputs.get(made)]))


@blueprint.post("/runs/<int:run_id>/trial")
@spec.validate(resp=answers(TrialBody))
def trial(run_id: int, json: TrialOrder) -> TrialBody:
    """Try a recipe on a stretch of a take."""
    footage = take_footage(services().project, run_id, json.camera_pass)
    return trial_body(footage, footage.title, json)


def trial_body(work: Work, title: str, order: TrialOrder) -> TrialBody:
    """What a stretch came to."""
    with services().media.apart(ticket=order.ticket) as process:
        came, renewable = process.trial(work, _recipe(order.recipe), title, order.frame)
    return TrialBody(
        bytes=came.bytes,
        pictures=came.pictures,
        seconds=float(came.seconds),
        width=came.width,
        height=came.height,
        tried=came.tried,
        psnr=came.psnr,
        ssim=came.ssim,
        retimed=came.retimed,
        fitted=came.fitted,
        renewable=renewable,
        notes=list(came.notes),
        made=_address(came.made),
        found=_address(came.found),
    )


@blueprint.delete("/trials/<ticket>")
@spec.validate(resp=answers(TrialCalledOff))
def call_off(ticket: str) -> TrialCalledOff:
    """End a trial, or a table of sizes, that nobody waits for any more."""
    services().media.call_off(ticket)
    return TrialCalledOff(ticket=ticket)


@blueprint.post("/runs/<int:run_id>/at-rate")
@spec.validate(resp=answers(ShotMadeBody))
def shot_at_rate(run_id: int, json: RateOrder) -> ShotMadeBody:
    """Add a copy of a run's shot to the list, at another rate, so that it can be captured again."""
    shot = shot_of(services().project.ledger.run(run_id))
    rate = Rate.parse(json.rate)
    changed = edited(shot, at_rate(shot, json.rate)).model_copy(update={"title": f"{shot.title}, {rate.label}"})
    return ShotMadeBody(id=services().project.shots.add(changed).id)


@blueprint.post("/runs/<int:run_id>/gif-table")
@spec.validate(resp=answers(GifTableBody))
def measure_gif(run_id: int, json: TrialOrder) -> GifTableBody:
    """How large a GIF would be, one way and another, measured with some of its pictures."""
    footage = take_footage(services().project, run_id, json.camera_pass)
    return gif_body(footage, footage.title, json)


def gif_body(work: Work, title: str, order: TrialOrder) -> GifTableBody:
    """Ways to make a GIF."""
    with services().media.apart(ticket=order.ticket) as process:
        rows = process.gif_table(work, _recipe(order.recipe), title)
    return GifTableBody(rows=[GifRowBody(**vars(row.option), pictures=row.pictures, bytes=row.bytes) for row in rows])


@blueprint.post("/runs/<int:run_id>/line")
@spec.validate(resp=answers(LineBody))
def line(run_id: int, json: TrialOrder) -> LineBody:
    """The encoder's command line for a recipe, of the frames written out by the recipe `frames`."""
    recipe = _recipe(json.recipe)
    file = services().project.files / f"{recipe.name}{recipe.suffix}"
    with services().media.asked() as process:
        posix, windows, notes = process.line(take_footage(services().project, run_id, json.camera_pass), recipe, file)
    return LineBody(posix=posix, windows=windows, notes=notes)


def full_body(recipe: Recipe) -> FullRecipeBody:
    """A recipe for the interface."""
    form = recipe.form
    scale = form.quality
    return FullRecipeBody(
        name=recipe.name,
        about=recipe.about,
        loses=recipe.loses,
        makes=recipe.makes,
        suffix=recipe.suffix,
        folder=recipe.is_folder,
        group=recipe.group,
        usual=recipe.name in USUAL,
        own=recipe.name not in RECIPES,
        scale=ScaleBody(**vars(scale)) if scale else None,
        video=form.kind == "video",
        alpha=recipe.keeps_alpha,
        plays=form.plays,
        pictures=form.kind != "text" and form.codec != "handover",
        pixels=[*form.pixels, *form.alpha_pixels],
        document=recipe,
    )


def _recipe(document: dict[str, Any]) -> Recipe:
    return read_recipe(json_text.dumps(document), str(document.get("name", "the recipe")))


def bodies_of(rows: list[OutputRow]) -> list[OutputBody]:
    """Files for the interface."""
    runs = services().project.ledger.some(row.run for row in rows if row.run)
    shots = {run_id: shot_of(run) for run_id, run in runs.items()}
    return [
        output_body(row, shots[row.run], runs[row.run].shot_id) if row.run else output_body_of_reel(row) for row in rows
    ]


def _address(png: bytes) -> str:
    return f"data:image/png;base64,{base64.b64encode(png).decode()}"
