"""Commands that compile frames to files, and list the recipes."""

import json
from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from vexel.cli.main import main, sentences
from vexel.cli.options import json_option, overwrite_option, recipe_options
from vexel.cli.terminal import ProgressLine, print_json, print_receipt
from vexel.core.errors import Failure, Mistake

if TYPE_CHECKING:
    from vexel.core.recipes.recipe import Recipe
    from vexel.output.compiling.compile import Compiled
    from vexel.output.footage.footage import Footage


@main.command("compile", epilog="Example: vexel compile take -o shell.mp4 -o shell.gif")
@click.argument("place", metavar="TAKE_OR_PATTERN", type=click.Path(path_type=Path))
@click.option(
    "-o",
    "--output",
    "outputs",
    metavar="FILE",
    required=True,
    multiple=True,
    help="Output file; its extension selects the kind. A folder ends with /. May be repeated: frames are read once.",
)
@recipe_options
@click.option("--rate", default="", help="Frames per second: required for images; by default the take's.")
@click.option(
    "--between",
    type=click.Choice(["nearest", "blend", "refuse"]),
    help="Frames between those of the take, at another rate. The recipe's by default.",
)
@click.option(
    "--missing",
    type=click.Choice(["refuse", "hold"]),
    help="Missing frames: hold the previous one, or refuse. The recipe's by default.",
)
@click.option("--camera", default="", help="Camera, if the take has several.")
@click.option("--pass", "render_pass", default="", help="Pass, if the take has several.")
@overwrite_option
@click.option("--line", is_flag=True, help="Print an ffmpeg command line for the output, and write nothing.")
@click.option("--windows", is_flag=True, help="With --line: quote for the command prompt of Windows.")
@json_option
@sentences
def compile_(
    place: Path,
    outputs: Sequence[str],
    names: Sequence[str],
    recipe_file: Path | None,
    line: bool,
    windows: bool,
    as_json: bool,
    overwrite: bool,
    camera: str,
    render_pass: str,
    **given: Any,
) -> None:
    """Encode frames and verify each file."""
    from vexel.output.footage.footage import footage_of
    from vexel.output.job.pictures import Source

    if windows and not line:
        raise Mistake("--windows changes the command line that --line prints: add --line, or leave out --windows")
    recipes_of(outputs, names, recipe_file, alpha=False)
    # A take has a rate, and its files may have another one; images have none.
    own = (place / "take.json").is_file()
    footage = footage_of(place, "" if own else given["rate"], camera, render_pass, hold=True)
    recipes = recipes_of(outputs, names, recipe_file, Source.of(footage).transparent)
    recipes = [changed(recipe, given | ({} if own else {"rate": ""})) for recipe in recipes]
    orders = [(recipe, place_of(output)) for recipe, output in zip(recipes, outputs, strict=True)]
    if line:
        _print_lines(footage, orders, windows, as_json)
        return
    write_files([(footage, orders)], overwrite=overwrite, as_json=as_json)


def write_files(
    batches: "Sequence[tuple[Footage, list[tuple[Recipe, Path]]]]",
    *,
    overwrite: bool,
    as_json: bool,
    beside: Sequence[dict[str, Any]] = (),
) -> None:
    """Compile footage to files, and print their receipts.

    Parameters
    ----------
    batches : sequence of (Footage, list of (Recipe, Path))
        Footage with its files, which are made together.
    beside : sequence of dict
        Files that the command has written already, for the JSON document.

    Raises
    ------
    Failure
        When one could not be made, or is not what was planned.
    """
    from vexel.disk.claim import claimed
    from vexel.output.compiling.compile import compile_batch

    progress = ProgressLine("steps")
    files = [file for _, orders in batches for _, file in orders]
    steps = [(0, 1)] * len(files)

    def on_progress(before: int, order: int, done: int, of: int) -> None:
        steps[before + order] = (done, of)
        progress.steps(sum(done for done, _ in steps), sum(of for _, of in steps))

    made: list[Compiled] = []
    with claimed(files, replace=overwrite):
        for footage, orders in batches:
            made += compile_batch(footage, orders, partial(on_progress, len(made)), replace=overwrite)
    receipts = [one.receipt for one in made if one.receipt is not None]
    errors = [one.error for one in made if one.error is not None]
    if as_json:
        documents = [receipt.document() for receipt in receipts]
        failed = {"error": str(errors[0])} if errors else {}
        print_json({"files": [*beside, *documents]} | failed if len(files) > 1 or beside or failed else documents[0])
    else:
        for receipt in receipts:
            print_receipt(receipt)
    if errors:
        raise errors[0]
    if wrong := [receipt.file for receipt in receipts if not receipt.holds]:
        raise Failure(f"{wrong[0]} is not what was planned: see the receipt")


def recipes_of(outputs: Sequence[str], names: Sequence[str], recipe_file: Path | None, alpha: bool) -> "list[Recipe]":
    """The recipe of each output."""
    from vexel.core.recipes.recipe import read_recipe
    from vexel.core.recipes.shipped import RECIPES, check_ending, recipe_for, recipe_named

    if recipe_file is not None:
        if names:
            raise Mistake("give --recipe or --recipe-file, not both")
        try:
            own = read_recipe(recipe_file.read_bytes(), recipe_file.name)
        except OSError as error:
            raise Mistake(f"{recipe_file} cannot be read: {error.strerror}") from None
        for output in outputs:
            check_ending(own, Path(output))
        return [own] * len(outputs)
    if len(names) not in (0, 1, len(outputs)):
        raise Mistake(f"give one --recipe for all {len(outputs)} outputs, or one for each, not {len(names)}")
    if own_file := next((name for name in names if name.endswith(".json")), ""):
        raise Mistake(f"--recipe takes a name: give a custom recipe as --recipe-file {own_file}")
    named = list(names) * len(outputs) if len(names) == 1 else list(names) or [""] * len(outputs)
    recipes = []
    for output, name in zip(outputs, named, strict=True):
        if output.endswith("/"):
            recipe = recipe_named(name) if name else RECIPES["frames"]
            if not recipe.is_folder:
                raise Mistake(f"recipe {name} makes a {recipe.suffix} file, but {output} is a folder")
            recipes.append(recipe)
            continue
        recipe = recipe_for(Path(output), name, alpha)
        if recipe.is_folder:
            raise Mistake(f"recipe {name} makes a folder: end its name with /, such as -o {output}/")
        recipes.append(recipe)
    return recipes


def changed(recipe: "Recipe", given: dict[str, Any]) -> "Recipe":
    """A recipe with the values of the command line."""
    from vexel.core.recipes.recipe import read_recipe

    document = recipe.model_dump(exclude_defaults=True)
    timing = {name: given[name] for name in ("rate", "between", "frames", "missing") if given.get(name)}
    if timing:
        document["timing"] = document.get("timing", {}) | timing
    if given["size"]:
        document["size"] = document.get("size", {}) | _sides(given["size"])
        document["size"].pop("long_side", None)
    if shape := {name: given[name] for name in ("fit", "enlarge") if given.get(name)}:
        document["size"] = document.get("size", {}) | shape
    if given["max_size"]:
        document["quality"] = {"at_most": given["max_size"]}
    if recipe.codec == "as-made" and document.get("size"):
        document["codec"], document["container"] = "png", "folder"
    return read_recipe(json.dumps(document), f"recipe {recipe.name}")


def _sides(text: str) -> dict[str, int]:
    wide, cross, high = text.lower().replace("×", "x").partition("x")
    if not cross or not (wide + high).isdigit() or not all(side.isdigit() or not side for side in (wide, high)):
        raise Mistake(f"--size {text!r} is not a size: write 1280x720, 1280x or x720")
    return {name: int(side) for name, side in (("width", wide), ("height", high)) if side}


def place_of(output: str) -> Path:
    """The path of an output; a folder's name may end with /."""
    return Path(output.rstrip("/") or "/")


def _print_lines(footage: "Footage", orders: "list[tuple[Recipe, Path]]", windows: bool, as_json: bool) -> None:
    from vexel.output.exporting import command_line
    from vexel.output.job.job import jobs_of

    quote = command_line.windows if windows else command_line.posix
    lines = [(quote(command_line.command_of(job)), command_line.notes_of(job)) for job in jobs_of(footage, orders)]
    if as_json:
        print_json({"lines": [{"line": line, "notes": list(notes)} for line, notes in lines]})
        return
    for line, notes in lines:
        for note in notes:
            click.echo(f"note: {note}", err=True)
        click.echo(line)


@main.command(epilog="Example: vexel recipes")
@json_option
@sentences
def recipes(as_json: bool) -> None:
    """List the recipes that ship with Vexel."""
    from vexel.core.recipes.shipped import RECIPES

    if as_json:
        print_json({"recipes": [one.model_dump(mode="json") for one in RECIPES.values()]})
        return
    for name, one in RECIPES.items():
        kind = "folder" if one.is_folder else one.suffix
        loses = f". {one.loses[0].upper()}{one.loses[1:]}" if one.loses else ""
        click.echo(f"{name:18} {kind:8} {one.about}{loses}")
