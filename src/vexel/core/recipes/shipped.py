"""Our own recipes."""

from pathlib import Path
from typing import Any

from vexel.core.errors import Mistake
from vexel.core.recipes.recipe import Recipe
from vexel.core.wording import nearest_name


def _recipe(group: str, name: str, form: str, about: str, loses: str = "", **parts: Any) -> Recipe:
    container, codec = form.split()
    document = {
        "group": group,
        "name": name,
        "container": container,
        "codec": codec,
        "about": about,
        "loses": loses,
    } | parts
    return Recipe.model_validate(document)


_NO_ALPHA = "no transparency"
_HALF = "no transparency; colour at half the resolution"
RECIPES = {
    recipe.name: recipe
    for recipe in (
        _recipe("share", "h264", "mp4 h264", "MP4 video, H.264: plays everywhere", _HALF),
        _recipe("edit", "h264-master", "mp4 h264", "MP4 without visible loss, for editing and archives",
                _HALF, quality={"level": 12, "effort": "thorough"}, key_seconds=1),
        _recipe("share", "h264-small", "mp4 h264", "Small MP4 for mail and messages", f"{_HALF}; fine texture",
                quality={"level": 26, "effort": "thorough"}),
        _recipe("share", "h264-compatible", "mp4 h264", "MP4 for old players, televisions and big screens", _HALF,
                compatible=True, key_seconds=1, pixels="yuv420p"),
        _recipe("share", "h265", "mp4 h265", "H.265 in 10 bits: half the size, for new players and phones", _HALF,
                pixels="yuv420p10le"),
        _recipe("web", "av1", "webm av1", "AV1 in WebM: smallest, for current browsers", _HALF),
        _recipe("web", "vp9", "webm vp9", "VP9 in WebM: for all browsers", _HALF, alpha="drop"),
        _recipe("web", "vp9-alpha", "webm vp9", "WebM with transparency, to place over a web page",
                "colour at half the resolution"),
        _recipe("edit", "prores-4444", "mov prores-4444", "ProRes 4444 with transparency, for editing and compositing",
                "large files"),
        _recipe("edit", "prores-422-hq", "mov prores-422-hq", "ProRes 422 HQ, for editing",
                "no transparency; large files"),
        _recipe("archive", "ffv1", "mkv ffv1", "FFV1: lossless, for archives", "few players support it"),
        _recipe("share", "gif", "gif gif", "Animated GIF at the frames' own size", "256 colours; soft edges"),
        _recipe("share", "gif-640", "gif gif", "Animated GIF, at most 640 px long", "256 colours; soft edges",
                size={"long_side": 640}),
        _recipe("web", "webp", "webp webp", "Animated WebP that loops, with transparency", "some fine texture"),
        _recipe("web", "webp-once", "webp webp", "Animated WebP, played once", "some fine texture",
                timing={"plays": 1}),
        _recipe("web", "apng", "apng apng", "Animated PNG that loops: lossless", "large files"),
        _recipe("web", "apng-once", "apng apng", "Animated PNG, played once", "large files", timing={"plays": 1}),
        _recipe("archive", "frames", "folder as-made", "Numbered frames in a folder, unchanged"),
        _recipe("pictures", "png", "folder png", "PNG sequence"),
        _recipe("edit", "tiff16", "folder tiff", "TIFF sequence in 16 bits", "8-bit frames gain no precision",
                pixels="rgba64"),
        _recipe("pictures", "jpeg", "folder jpeg", "JPEG sequence", _NO_ALPHA),
        _recipe("edit", "exr", "folder exr", "OpenEXR sequence in linear light, for compositing"),
        _recipe("pictures", "still", "still png", "One frame as a PNG", timing={"frames": "0"}),
        _recipe("pictures", "poster", "still jpeg", "The middle frame as a JPEG, shown before a video plays", _NO_ALPHA,
                timing={"frames": "middle"}),
        _recipe("pictures", "thumbnail", "still jpeg", "The middle frame as a small JPEG, for lists", _NO_ALPHA,
                timing={"frames": "middle"}, size={"long_side": 480}),
        _recipe("edit", "chapters", "vtt chapters", "WebVTT: the time of each saved view", "no pictures"),
        _recipe("edit", "subtitles", "vtt labels", "WebVTT: the labels' texts as subtitles", "no pictures"),
        _recipe("archive", "zip", "zip as-made", "Numbered frames in a ZIP, unchanged"),
        _recipe("project", "handover", "zip handover",
                "A take with its shot, sources, camera path, files and checksums: opens as a project on any machine"),
        _recipe("share", "sphere", "mp4 h264", "MP4 of a panorama, marked for players that look around", _HALF,
                sphere=True),
        _recipe("web", "page", "page video", "Web page that plays the take: one file, works without a server", _HALF),
        _recipe("web", "page-turn", "page frames", "Web page: the subject turns under the finger", "some fine texture",
                page={"turns": True}, size={"long_side": 960}),
    )
}  # fmt: skip
"""By name; the first of an ending is the usual one for it."""
USUAL = ("h264", "gif-640", "vp9-alpha", "prores-4444", "png", "page")
"""Those that most files are made by."""
_BY_ENDING = {".webm": ("vp9", "vp9-alpha"), ".mov": ("prores-4444", "prores-4444"), ".png": ("still", "still")}
"""Where it is not the first: without and with transparency."""


def recipe_named(name: str) -> Recipe:
    """Our recipe of this name.

    Raises
    ------
    Mistake
        Naming the nearest known one.
    """
    if name not in RECIPES:
        raise Mistake(f"there is no recipe {name!r}; {nearest_name(name, RECIPES)}")
    return RECIPES[name]


def recipe_for(file: Path, name: str = "", alpha: bool = False) -> Recipe:
    """The recipe of this name, or the one that a file's ending asks for.

    Parameters
    ----------
    file : Path
    name : str
    alpha : bool
        Whether the frames have transparency, which is kept where it can be.

    Raises
    ------
    Mistake
        When there is none, or its ending is another.
    """
    if name:
        recipe = recipe_named(name)
        check_ending(recipe, file)
        return recipe
    ending = file.suffix.lower()
    if ending in _BY_ENDING:
        return RECIPES[_BY_ENDING[ending][alpha]]
    for recipe in RECIPES.values():
        if recipe.suffix and recipe.suffix == ending:
            return recipe
    known = ", ".join(sorted({recipe.suffix for recipe in RECIPES.values() if recipe.suffix}))
    raise Mistake(f"{file.name}: name the output with one of {known}, or end a folder's name with /")


def check_ending(recipe: Recipe, file: Path) -> None:
    """Refuse a file whose ending is not that of its recipe.

    Raises
    ------
    Mistake
    """
    if not recipe.is_folder and file.suffix.lower() != recipe.suffix:
        raise Mistake(f"recipe {recipe.name} makes {recipe.suffix} files, but the output is named {file.name}")
