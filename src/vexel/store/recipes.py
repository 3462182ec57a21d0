"""Recipes of a project: shipped ones, and custom ones as files that can be edited and shared."""

import os
from pathlib import Path

from vexel.core.errors import Conflict, Missing, Mistake
from vexel.core.recipes.recipe import MOST_BYTES, Recipe, read_recipe
from vexel.core.recipes.shipped import RECIPES
from vexel.core.wording import nearest_name
from vexel.disk.write import write_whole


class RecipeStore:
    """The recipes that can be asked for.

    Parameters
    ----------
    folder : Path
        Folder of the custom recipes, one JSON file each.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def all(self) -> dict[str, Recipe]:
        """Shipped and then custom recipes, by name; an invalid file is left out (see `troubles`)."""
        return dict(RECIPES) | self.own()

    def own(self) -> dict[str, Recipe]:
        """Custom recipes, by name."""
        found = {}
        for file in self._files():
            try:
                recipe = self._read(file)
            except Mistake:
                continue
            found[recipe.name] = recipe
        return found

    def troubles(self) -> list[str]:
        """What is wrong with files that are no recipe, a sentence each."""
        sentences = []
        for file in self._files():
            try:
                self._read(file)
            except Mistake as error:
                sentences.append(str(error))
        return sentences

    def named(self, name: str) -> Recipe:
        """The recipe of this name.

        Raises
        ------
        Missing
            Naming the nearest known one.
        """
        known = self.all()
        if name not in known:
            raise Missing(f"there is no recipe {name!r}; {nearest_name(name, known)}")
        return known[name]

    def save(self, recipe: Recipe) -> None:
        """Save a custom recipe.

        Raises
        ------
        Conflict
            When the name is one of ours.
        """
        if recipe.name in RECIPES:
            raise Conflict(f"{recipe.name} is one of Vexel's own recipes: give yours another name")
        self.folder.mkdir(parents=True, exist_ok=True)
        text = recipe.model_dump_json(exclude_defaults=True, indent=2)
        write_whole(self.folder / f"{recipe.name}.json", f"{text}\n".encode())

    def remove(self, name: str) -> None:
        """Delete a custom recipe.

        Raises
        ------
        Missing
        """
        if name not in self.own():
            raise Missing(f"there is no custom recipe {name!r}")
        (self.folder / f"{name}.json").unlink()

    def _files(self) -> list[Path]:
        return sorted(self.folder.glob("[!.]*.json")) if self.folder.is_dir() else []

    def _read(self, file: Path) -> Recipe:
        shown = os.fsencode(file.name).decode("utf-8", "replace")
        try:
            if not file.is_file() or file.stat().st_size > MOST_BYTES:
                raise Mistake(f"{shown} is not a file of a recipe's size: remove it from {self.folder}")
            recipe = read_recipe(file.read_bytes(), shown)
        except (OSError, UnicodeDecodeError) as error:
            raise Mistake(f"{shown} cannot be read: {getattr(error, 'strerror', '') or error}") from None
        if recipe.name != file.stem:
            raise Mistake(f"{file.name} holds the recipe {recipe.name}: name the file {recipe.name}.json")
        if recipe.name in RECIPES:
            raise Mistake(f"{file.name} has the name of one of Vexel's own recipes: give it another")
        return recipe
