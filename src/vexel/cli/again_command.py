"""The command that makes a file again from its provenance record."""

import filecmp
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

import click

from vexel.cli.compile_commands import write_files
from vexel.cli.main import main, sentences
from vexel.cli.options import overwrite_option
from vexel.cli.terminal import ProgressLine, end_line
from vexel.core.errors import Mistake, VexelError
from vexel.core.wording import counted

if TYPE_CHECKING:
    from vexel.core.recipes.recipe import Recipe
    from vexel.output.footage.footage import Footage
    from vexel.output.origin.record import Origin


@main.command("again", epilog="Example: vexel again shell.mp4 -o shell-again.mp4 --home films")
@click.argument("file", type=click.Path(path_type=Path))
@click.option("-o", "--output", required=True, metavar="NEW", type=click.Path(path_type=Path), help="File to write.")
@click.option("--home", type=click.Path(path_type=Path), help="Project that has the take.")
@click.option("--take", type=click.Path(path_type=Path), help="Folder of the take, in place of a project.")
@overwrite_option
@sentences
def again(file: Path, output: Path, home: Path | None, take: Path | None, overwrite: bool) -> None:
    """Make a file again: of the same frames, with the same settings, by the record that it carries.

    Then both files are compared: to the byte, and where the encoder does not allow that, frame by frame.
    """
    from vexel.output.origin.carried import record_in

    if not file.is_file():
        raise Mistake(f"there is no file {file}")
    if (home is None) == (take is None):
        raise Mistake("name the project with --home, or the folder of the take with --take")
    if output.suffix.lower() != file.suffix.lower():
        raise Mistake(f"{output.name} must be of the same kind as {file.name}: end it with {file.suffix}")
    if home is not None:
        footage, recipe, origin = _of_project(file, home)
    else:
        assert take is not None
        origin = record_in(file)
        if origin is None:
            raise Mistake(f"{file} carries no provenance record: its metadata was removed, or another program made it")
        footage, recipe = _of_take(file, take, origin)
    dated = replace(footage, dated=origin.date if origin is not None else "")
    write_files([(dated, [(recipe, output)])], overwrite=overwrite, as_json=False)
    click.echo(_held_against(file, output))


def _of_project(file: Path, home: Path) -> "tuple[Footage, Recipe, Origin | None]":
    from vexel.store.project import Project
    from vexel.web.jobs.reviewing.made_from import made_from

    if not (home / "vexel.db").is_file():
        raise Mistake(f"{home} is not a project: name the folder that vexel serve was started with")
    found = made_from(Project(home), file)
    if found.reel:
        raise Mistake(f"{file.name} was made of the reel {found.reel}: make it again in Dispatch, or with vexel reel")
    if found.footage is None or found.recipe is None:
        raise Mistake(f"{file.name} cannot be made again: {'; '.join(found.gone)}")
    return found.footage, found.recipe, found.origin


def _of_take(file: Path, take: Path, origin: "Origin") -> "tuple[Footage, Recipe]":
    from vexel.core.recipes.recipe import Recipe
    from vexel.core.recipes.shipped import RECIPES
    from vexel.output.footage.footage import footage_of
    from vexel.output.origin.record import frames_digest, recipe_digest

    if not (take / "take.json").is_file():
        raise Mistake(f"{take} is not a take: name a folder that vexel capture wrote")
    camera, _, render_pass = origin.camera_pass.rpartition(", ")
    footage = footage_of(take, "", camera, render_pass, hold=True)
    if not origin.frames or frames_digest(footage) != origin.frames:
        raise Mistake(f"{take} holds other frames than {file.name} was made of: name its own take")
    if origin.settings:
        return footage, Recipe.model_validate(origin.settings)
    recipe = RECIPES.get(origin.recipe)
    if recipe is None or recipe_digest(recipe) != origin.recipe_digest:
        raise Mistake(
            f"{file.name} was made with a custom recipe, and carries its digest alone: name the project with --home"
        )
    return footage, recipe


def _held_against(file: Path, output: Path) -> str:
    """How the new file and the old one compare, in a sentence."""
    from vexel.output.reviewing.compare_files import compared_files

    if filecmp.cmp(file, output, shallow=False):
        return f"{output} is byte-identical to {file}"
    try:
        found = compared_files(file, output, ProgressLine("frames").steps)
    except VexelError as error:
        return f"{output} differs from {file}, whose frames could not be compared: {error}"
    finally:
        end_line()
    if found.one != found.other:
        return f"{output} has {counted(found.other, 'frame')}, and {file} {found.one:,}"
    if not found.apart:
        frames = counted(found.frames, "frame")
        return f"{output} differs from {file} in its bytes; all of {frames} decode to the same pixels"
    most = max(step.most for step in found.apart.values())
    mean = sum(step.mean for step in found.apart.values()) / found.frames
    return (
        f"{output} differs from {file} in {len(found.apart):,} of {counted(found.frames, 'frame')}: "
        f"by {255 * mean:.2f} of 255 at the mean, by up to {255 * most:.0f}"
    )
