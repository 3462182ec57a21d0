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
    """

    name: str
    suffix: str
    about: str
    long_side: int | None = None
    alpha: Literal["none", "cut", "whole"] = "none"

    @property
    def is_folder(self) -> bool:
        """Whether it makes a folder of frames."""
        return self.suffix == ""

    @property
    def short(self) -> str:
        """What it makes, in a word, for a button."""
        return {"": "the folder", ".mp4": "the MP4", ".gif": "the GIF"}[self.suffix]


RECIPES = {
    recipe.name: recipe
    for recipe in (
        Recipe("h264", ".mp4", "MP4 video, H.264: plays everywhere"),
        Recipe("gif", ".gif", "Animated GIF at the frames' own size", alpha="cut"),
        Recipe("gif-640", ".gif", "Animated GIF, at most 640 pixels long", 640, "cut"),
        Recipe("frames", "", "Numbered frames in a folder", alpha="whole"),
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
