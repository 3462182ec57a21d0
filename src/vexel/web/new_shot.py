"""A new shot from a file: kind by its ending, sensible values for the rest."""

import os
from pathlib import Path

from vexel.core.errors import Mistake
from vexel.core.shot import CameraPlan, ClockPlan, ModelSource, ObjectSource, PicturePlan, Shot

MESHES = (".obj", ".stl", ".ply", ".gltf", ".glb", ".vtp")
SECONDS = 5.0


def kind_of(file: Path) -> str:
    """Kind of source that a file is.

    Raises
    ------
    Mistake
        When it is none.
    """
    if file.suffix.lower() == ".py":
        return "model"
    if file.suffix.lower() in MESHES:
        return "object"
    raise Mistake(
        f"{file.name} is no source that Vexel knows: bring a Python model (.py) or a mesh ({', '.join(MESHES)})"
    )


def shot_of_file(file: Path, shots: Path, title: str = "") -> Shot:
    """A shot that turns once round what the file holds.

    Parameters
    ----------
    file : Path
        Absolute.
    shots : Path
        Folder of the shot documents, to which the file's path is made relative if it lies in the project.
    """
    kind = kind_of(file)
    if not file.is_absolute():
        raise Mistake(f"{file} is not an absolute path: begin it with / or ~")
    if not file.is_file():
        raise Mistake(f"there is no file {file}: check the path")
    inside = file.resolve().is_relative_to(shots.parent.resolve())
    place = os.path.relpath(file.resolve(), shots.resolve()) if inside else str(file.resolve())
    source = ModelSource(kind="model", file=place) if kind == "model" else ObjectSource(kind="object", file=place)
    words = file.stem.replace("_", " ").replace("-", " ").strip() or "shot"
    return Shot(
        title=title or f"{words[0].upper()}{words[1:]}, once round",
        source=source,
        clock=ClockPlan(rate="24", seconds=SECONDS),
        camera=CameraPlan(),
        picture=PicturePlan(),
    )
