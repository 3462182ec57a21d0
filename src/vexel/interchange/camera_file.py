"""Files of a camera's way: CSV, JSON with matrices, and glTF."""

import csv
import io
import json
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from vexel.core.errors import Failure, Mistake
from vexel.core.evaluate.camera_table import COLUMNS, MORE, camera_of, check_columns, path_rows, view_matrices
from vexel.core.evaluate.plan import Plan
from vexel.interchange.gltf_camera_writer import gltf_text

FORMATS = (".csv", ".json", ".gltf")


def camera_file_texts(plan: Plan) -> dict[str, str]:
    """The camera's path as text by file name, in each kind of file; none where the source makes pictures itself."""
    looked = plan.frame_spec(0).shutter_samples[0].camera is not None
    return {f"path{suffix}": camera_file_text(plan, suffix) for suffix in (".csv", ".gltf")} if looked else {}


def camera_file_text(plan: Plan, suffix: str) -> str:
    """The camera of every frame, as a file's text.

    Parameters
    ----------
    plan : Plan
    suffix : str
        ``.csv``, or ``.json`` for an object with rate, size, and for each
        frame the row and the view matrix, row by row, or ``.gltf``.

    Raises
    ------
    Mistake
        When the format is another, or no camera looks.
    """
    rows = path_rows(plan)
    if suffix == ".csv":
        text = io.StringIO()
        writer = csv.DictWriter(text, list(rows[0]), lineterminator="\n")
        writer.writeheader()
        writer.writerows({name: _spelled(value) for name, value in row.items()} for row in rows)
        return text.getvalue()
    if suffix == ".json":
        picture = plan.shot.picture
        frames = [row | {"view": matrix.tolist()} for row, matrix in zip(rows, view_matrices(plan), strict=True)]
        table = {
            "rate": str(plan.clock.playback),
            "size": [picture.width, picture.height],
            "projection": plan.shot.camera.lens.projection,
            "frames": frames,
        }
        return json.dumps(table, indent=1) + "\n"
    if suffix == ".gltf":
        return gltf_text(plan)
    raise Mistake(f"a path is written as {' or '.join(FORMATS)}, not as {suffix or 'a file without an extension'}")


def left_out(plan: Plan, suffix: str) -> list[str]:
    """Properties of the shot's camera that a file format cannot store, in words; empty where it stores all."""
    camera, lens = camera_of(plan), plan.shot.camera.lens
    missing = []
    if lens.projection == "panorama" and suffix != ".json":
        missing.append("that it renders a panorama")
    if lens.f_stop is not None:
        missing.append("the depth of field")
    if suffix == ".gltf" and camera.shifts.any():
        missing.append("the lens shift")
    return missing


def read_camera_file(file: Path, fps: float = 24.0, camera: str = "") -> Sequence[Mapping[str, float]]:
    """Rows of a file that `camera_file_text` wrote, of any CSV with columns x, y and z, or of a glTF camera.

    Parameters
    ----------
    file : Path
    fps : float
        At which the seconds of a glTF file become frames.
    camera : str
        Its name, where a glTF file holds several.

    Raises
    ------
    Mistake
        When the file is no table of numbers.
    """
    try:
        if file.suffix.lower() in (".gltf", ".glb"):
            from vexel.interchange.gltf_camera_reader import gltf_rows

            return gltf_rows(file, fps, camera)
        text = file.read_text(encoding="utf-8-sig")
    except OSError as error:
        raise Failure(f"{file} cannot be read: {error.strerror}") from None
    except UnicodeDecodeError:
        raise Mistake(f"{file.name} is not text: export it as CSV or JSON") from None
    if file.suffix.lower() == ".json":
        return _json_rows(text, file.name)
    reader = csv.DictReader(io.StringIO(text))
    check_columns((name.strip() for name in reader.fieldnames or []), file.name)
    rows = []
    for number, row in enumerate(reader, start=1):
        known = {name.strip(): value for name, value in row.items() if name and name.strip() in (*COLUMNS, *MORE)}
        rows.append({name: _number(value, name, number, file.name) for name, value in known.items()})
    if not rows:
        raise Mistake(f"{file.name} has no rows: give it one for each place of the camera")
    return rows


def _json_rows(text: str, name: str) -> list[dict[str, float]]:
    try:
        frames = json.loads(text)["frames"]
        return [{key: float(frame[key]) for key in frame if key in (*COLUMNS, *MORE)} for frame in frames]
    except (ValueError, KeyError, TypeError):
        raise Mistake(f'{name} is not a path: it needs "frames", a list of objects with x, y and z') from None


def _number(value: Any, column: str, row: int, name: str) -> float:
    try:
        return float(value)
    except (TypeError, ValueError):
        raise Mistake(f"{name}, row {row:,}: {value!r} in column {column} is not a number") from None


def _spelled(value: float) -> str:
    return f"{value:.12g}"
