"""A rig that follows the path of a file: a table, a glTF camera, or a formula."""

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import Any

from vexel.core.document.shot import Shot
from vexel.core.errors import Failure
from vexel.core.evaluate.camera_table import rig_of_rows
from vexel.core.time.clock import Instant
from vexel.interchange.camera_file import read_camera_file

Formula = Callable[[Path, list[Instant]], list[dict[str, float]]]
"""Asks a formula, which only a stage process may do; see `vexel.sources.code.path_formula.formula_rows`."""


def rig_of_file(shot: Shot, file: Path, formula: Formula, camera: str = "") -> dict[str, Any]:
    """The rig of a shot that follows the path of a file.

    Parameters
    ----------
    shot : Shot
    file : Path
        ``.csv``, ``.json``, ``.gltf``, ``.glb``, or ``.py`` with a function decorated with ``@camera_path``.
    formula : callable
    camera : str
        Name of the camera, where a glTF file holds several.

    Raises
    ------
    VexelError
        When the file is none of these, or tells no way.
    """
    clock = shot.clock.exact
    if file.suffix.lower() != ".py":
        return rig_of_rows(shot, read_camera_file(file, float(clock.playback.fps), camera))
    if not file.is_file():
        raise Failure(f"{file} cannot be read: there is no such file")
    instants = [clock.instant_at(Fraction(frame), frame) for frame in range(clock.motion)]
    return rig_of_rows(shot, formula(file.resolve(), instants), "motion")
