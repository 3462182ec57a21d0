"""Where files that are made of takes lie, and under which names."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.recipes.file_names import file_names
from vexel.core.recipes.frame_size import fitted
from vexel.core.recipes.recipe import Recipe, Size, read_recipe
from vexel.core.recipes.shipped import RECIPES
from vexel.core.reel.reel_spec import Reel
from vexel.store.tables import OutputRow, RunRow


def takes_all_passes(recipe: Recipe) -> bool:
    """Whether one folder takes the frames of all cameras and passes, unchanged."""
    return recipe.is_folder and recipe.codec == "as-made"


def recipe_of(row: OutputRow) -> Recipe:
    """The recipe that a file was ordered with."""
    return read_recipe(row.document) if row.document else RECIPES[row.recipe]


def check_pass(shot: Shot, run_id: int, camera_pass: int) -> None:
    """Refuse a camera pass that a run does not have.

    Raises
    ------
    Mistake
    """
    if not 0 <= camera_pass < len(shot.camera_passes):
        raise Mistake(f"run {run_id} has camera passes 0 to {len(shot.camera_passes) - 1}, not {camera_pass}")


def names_of(shot: Shot, numbers: Mapping[int, int], count: int) -> tuple[str, ...]:
    """Readable names of frames; a frame that repeats another has its own number."""
    first = min(numbers)
    step = len(shot.camera_passes)
    return tuple(shot.file_name(numbers.get(first + n, numbers[first] + n * step)) for n in range(count))


@dataclass(frozen=True)
class WantedFile:
    """A file to be made: of which camera pass, by which recipe, and the names that it may get, the best first."""

    recipe: Recipe
    camera_pass: int
    names: Iterator[str]


def take_name(run: RunRow) -> str:
    """Spell a run's take for the names of its files."""
    return f"take{run.id}{'-draft' if run.draft else ''}"


def files_of_take(
    shot: Shot,
    take: str,
    camera_passes: Sequence[int],
    recipes: Sequence[Recipe],
    names: str = "",
    variant: str = "",
    *,
    together: bool = False,
) -> Iterator[WantedFile]:
    """The files of some camera passes of a take by some recipes.

    Parameters
    ----------
    take : str
        See `take_name`.
    names : str
        Pattern of the names; empty for each recipe's own.
    variant : str
        Of the shot's sweep, that the take is of; empty for the shot itself.
    together : bool
        Whether a folder of unchanged frames takes those of all camera passes.
    """
    cameras, passes = (len(names) > 1 for names in (shot.all_cameras, shot.picture.passes))
    for camera_pass in camera_passes:
        of = shot.camera_passes[camera_pass]
        for recipe in recipes:
            whole = recipe.codec == "handover" or (together and takes_all_passes(recipe))
            if whole and camera_pass != camera_passes[0]:
                continue
            values = {
                "title": shot.title,
                "take": take,
                "variant": variant,
                "camera": of.camera if cameras and not whole else "",
                "pass": of.render_pass if passes and not whole else "",
                "recipe": recipe.name,
                "size": own_size(recipe, shot.picture.width, shot.picture.height),
            }
            yield WantedFile(recipe, camera_pass, file_names(names or recipe.names, values, recipe.suffix))


def files_of_reel(reel: Reel, recipes: Sequence[Recipe], names: str = "") -> Iterator[WantedFile]:
    """The files of a reel, in the format that it is shown in, by some recipes; see `files_of_take`.

    Of a reel with formats each name states the size.
    """
    for recipe in recipes:
        size = own_size(recipe, *reel.size) or ("x".join(map(str, reel.size)) if reel.formats else "")
        values = {
            "title": reel.title,
            "take": "",
            "variant": "",
            "camera": "",
            "pass": "",
            "recipe": recipe.name,
            "size": size,
        }
        yield WantedFile(recipe, 0, file_names(names or recipe.names, values, recipe.suffix))


def own_size(recipe: Recipe, width: int, height: int) -> str:
    """Spell the size of a file whose recipe changes that of the frames; else empty."""
    if recipe.size == Size():
        return ""
    try:
        fit = fitted(recipe, width, height)
    except Mistake:
        # The order is refused for it, with the reason.
        return ""
    return "" if (fit.width, fit.height) == (width, height) else f"{fit.width}x{fit.height}"


def own_folder(text: str) -> str:
    """The folder that the user names for files.

    Raises
    ------
    Mistake
        When it is no absolute path, or a file.
    """
    try:
        folder = Path(text).expanduser()
        if not folder.is_absolute():
            raise Mistake(f"{text} is not an absolute path: begin it with / or ~")
        if folder.exists() and not folder.is_dir():
            raise Mistake(f"{folder} is a file: name a folder for the frames")
    except (OSError, RuntimeError, ValueError) as error:
        # Too long for a disk, closed to this user, or of a user who does not exist.
        reason = getattr(error, "strerror", None) or error
        raise Mistake(f"{text[:200]} cannot be used as a folder ({reason}): name another one") from None
    return str(folder)
