"""Where files that are made of takes lie, and under which names."""

from collections.abc import Mapping
from pathlib import Path

from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.recipes.recipe import Recipe
from vexel.core.recipes.shipped import RECIPES


def takes_all_passes(recipe: Recipe) -> bool:
    """Whether one folder takes the frames of all cameras and passes, unchanged."""
    return recipe.is_folder and recipe.codec == "as-made"


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


def told_apart(recipe: Recipe) -> str:
    """What tells files of one ending apart."""
    usual = next((name for name, other in RECIPES.items() if other.suffix == recipe.suffix), "")
    if recipe.size.long_side:
        return f".{recipe.size.long_side}"
    return "" if recipe.name == usual or takes_all_passes(recipe) else f".{recipe.name}"


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
