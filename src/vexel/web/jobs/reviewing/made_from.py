"""Finds in a project what a file was made of: its take, shot and recipe, from its provenance record."""

from dataclasses import dataclass
from pathlib import Path

from vexel.core.errors import VexelError
from vexel.core.recipes.recipe import Recipe
from vexel.core.recipes.shipped import RECIPES
from vexel.disk.digests import digest_of_file
from vexel.output.footage.footage import Footage
from vexel.output.origin.carried import record_in
from vexel.output.origin.record import Origin, document_digest, frames_digest, recipe_digest
from vexel.store.documents.shots import spelled
from vexel.store.frame_states import READY
from vexel.store.project import Project
from vexel.store.tables import OutputRow, RunRow
from vexel.store.takes import shot_of
from vexel.web.jobs.output_names import recipe_of
from vexel.web.jobs.take_files import take_footage


@dataclass(frozen=True)
class MadeFrom:
    """What a project knows of a file.

    Attributes
    ----------
    origin : Origin or None
        The record that the file carries.
    run_id : int
        Of the take; 0 where it is not there.
    camera_pass : int
    shot_id : str
        Empty where the shot is gone.
    reel : str
        The reel that it was made of, where the project made it.
    output_id : int
        The entry of the file itself; 0 for none.
    footage : Footage or None
        The same frames, where all of them are there.
    recipe : Recipe or None
    gone : tuple of str
        What is not there any more, as sentences.
    """

    origin: Origin | None
    run_id: int = 0
    camera_pass: int = 0
    shot_id: str = ""
    reel: str = ""
    output_id: int = 0
    footage: Footage | None = None
    recipe: Recipe | None = None
    gone: tuple[str, ...] = ()


def made_from(project: Project, file: Path) -> MadeFrom:
    """Find what a file was made of: by its record, and where that was stripped by the content of the file."""
    origin = record_in(file)
    row = _row_of(project, file)
    if row is not None and row.reel:
        return MadeFrom(origin, reel=row.reel, output_id=row.id, recipe=recipe_of(row))
    if origin is None and row is None:
        return MadeFrom(None, gone=("The file carries no provenance record, and this project did not make it",))
    if origin is not None and origin.kind == "reel":
        return MadeFrom(origin, gone=("It was made of a reel, and this project has no entry of it",))
    found = _take_of(project, origin, row)
    recipe = recipe_of(row) if row is not None else _recipe_of(project, origin)
    gone = [] if recipe is not None else [f"The recipe {origin.recipe if origin else ''} has changed or is gone"]
    output_id = row.id if row is not None else 0
    if found is None:
        gone.append("Its take is not in this project")
        return MadeFrom(origin, output_id=output_id, recipe=recipe, gone=tuple(gone))
    run, camera_pass, footage = found
    shot_id = run.shot_id if project.shots.has(run.shot_id) else ""
    if not shot_id:
        gone.append(f"The shot of take {run.id} is gone; the take holds its document")
    if footage is None:
        gone.append(f"Frames of take {run.id} have changed or are gone: resume the run to make them again")
    return MadeFrom(origin, run.id, camera_pass, shot_id, "", output_id, footage, recipe, tuple(gone))


def _row_of(project: Project, file: Path) -> OutputRow | None:
    digest = digest_of_file(file)
    return next((row for row in project.outputs.all(10_000) if row.digest and row.digest == digest), None)


def _take_of(
    project: Project, origin: Origin | None, row: OutputRow | None
) -> tuple[RunRow, int, Footage | None] | None:
    """The run, its camera pass and its frames; the frames are None where they are no longer those of the file."""
    if row is not None and row.run:
        run = project.ledger.run(row.run)
        footage = _footage(project, run, row.camera_pass)
        wanted = origin.frames if origin is not None else ""
        same = footage is not None and (not wanted or frames_digest(footage) == wanted)
        return run, row.camera_pass, footage if same else None
    assert origin is not None
    if not origin.frames and not origin.document:
        return None
    by_document: tuple[RunRow, int, Footage | None] | None = None
    for run in project.ledger.runs():
        shot = shot_of(run)
        same_document = bool(origin.document) and document_digest(spelled(shot)) == origin.document
        labels = [one.label for one in shot.camera_passes]
        for camera_pass in [n for n, label in enumerate(labels) if label == origin.camera_pass] or range(len(labels)):
            if not same_document and not origin.frames:
                continue
            footage = _footage(project, run, camera_pass)
            if footage is not None and origin.frames and frames_digest(footage) == origin.frames:
                return run, camera_pass, footage
            if same_document and by_document is None:
                by_document = run, camera_pass, None
    return by_document


def _footage(project: Project, run: RunRow, camera_pass: int) -> Footage | None:
    if not project.ledger.counts(run.id).keys() & set(READY):
        return None
    try:
        footage = take_footage(project, run.id, camera_pass)
    except VexelError:
        return None
    return footage if all(file.is_file() for file in set(footage.files)) else None


def _recipe_of(project: Project, origin: Origin | None) -> Recipe | None:
    """A recipe with the digest that the record names: of the record itself, of the project's files, or one of ours."""
    if origin is None:
        return None
    if origin.settings:
        return Recipe.model_validate(origin.settings)
    known = [recipe_of(row) for row in project.outputs.all(10_000)]
    for recipe in [*RECIPES.values(), *known]:
        if recipe_digest(recipe) == origin.recipe_digest:
            return recipe
    return None
