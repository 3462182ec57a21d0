"""Recipes: settings for compiling to a kind of file."""

from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from vexel.core.errors import Mistake
from vexel.core.wording import nearest_name


@dataclass(frozen=True)
class Recipe:
    """How a kind of file is made.

    Attributes
    ----------
    name, suffix, about : str
        A recipe without a suffix lays the frames themselves into a folder.
    long_side : int or None
        Largest width or height in pixels; None keeps the frames' size.
    alpha : {"none", "cut", "whole"}
        What it keeps of transparency: nothing, whether a pixel is there, or all.
    makes : str
        What it makes, in a word.
    encoder : str
        Of `vexel.output.encoders`; empty where the frames stay as they are.
    even_sides : bool
        Whether both sides must be even, as 4:2:0 video wants.
    exact_rate : bool
        Whether it keeps any rate; else each frame lasts whole hundredths of a second.
    loops : bool
        Whether it plays again and again by itself, so that frames need no repeats.
    """

    name: str
    suffix: str
    about: str
    long_side: int | None = None
    alpha: Literal["none", "cut", "whole"] = "none"
    makes: str = ""
    encoder: str = ""
    even_sides: bool = False
    exact_rate: bool = True
    loops: bool = False

    @property
    def is_folder(self) -> bool:
        """Whether it makes a folder of frames."""
        return self.suffix == ""


def _gif(name: str, about: str, long_side: int | None = None) -> Recipe:
    return Recipe(name, ".gif", about, long_side, "cut", "GIF", "gif", exact_rate=False, loops=True)


RECIPES = {
    recipe.name: recipe
    for recipe in (
        Recipe("h264", ".mp4", "MP4 video, H.264: plays everywhere", makes="MP4", encoder="h264", even_sides=True),
        _gif("gif", "Animated GIF at the frames' own size"),
        _gif("gif-640", "Animated GIF, at most 640 px long", 640),
        Recipe("frames", "", "Numbered frames in a folder", alpha="whole", makes="folder"),
    )
}


def recipe_named(name: str) -> Recipe:
    """The recipe of this name.

    Raises
    ------
    Mistake
        Naming the nearest known one.
    """
    if name not in RECIPES:
        raise Mistake(f"there is no recipe {name!r}; {nearest_name(name, RECIPES)}")
    return RECIPES[name]


def recipe_for(file: Path, name: str = "") -> Recipe:
    """The recipe of this name, or the first that fits the file's ending.

    Raises
    ------
    Mistake
        When there is none, or its ending is another.
    """
    if name:
        recipe = recipe_named(name)
        if file.suffix.lower() != recipe.suffix:
            raise Mistake(f"recipe {name} makes {recipe.suffix} files, but the output is named {file.name}")
        return recipe
    for recipe in RECIPES.values():
        if recipe.suffix and recipe.suffix == file.suffix.lower():
            return recipe
    raise Mistake(f"{file.name}: name the output with .mp4 or .gif, so that the kind of file is known")


def even_sides(width: int, height: int) -> tuple[int, int]:
    """The nearest size, not larger, that 4:2:0 video can hold: both sides even."""
    return max(width - width % 2, 2), max(height - height % 2, 2)
