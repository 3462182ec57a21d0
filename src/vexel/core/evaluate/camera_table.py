"""A camera's way as a table, one row a frame, to and from other programs."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any, Final, Literal

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.camera_path import rolled, view_of
from vexel.core.camera.path_figures import axes_of
from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.evaluate.plan import Plan
from vexel.core.evaluate.sampled_camera import SampledCamera
from vexel.core.time.clock import Clock

Array = NDArray[np.float64]
Row = dict[str, float]
POSITION: Final = ("x", "y", "z")
LOOK: Final = ("look_x", "look_y", "look_z")
UP: Final = ("up_x", "up_y", "up_z")
COLUMNS: Final = ("frame", "seconds", *POSITION, *LOOK, *UP, "view_high_deg")
"""Lengths in the source's units with +z up, the vertical field of view in degrees."""
MORE: Final = ("parallel_high", "shift_x", "shift_y")
"""Columns where a camera has them: height of the frame in parallel projection, and the lens shift in halves of the
frame's width and height."""
MOST_KEYS = 10_000


def path_rows(plan: Plan) -> list[Row]:
    """The camera of every frame that is shown.

    Raises
    ------
    Mistake
        When no camera looks at the source.
    """
    camera, fps = camera_of(plan), float(plan.clock.playback.fps)
    path = camera.path
    more = {"parallel_high": camera.parallel_highs, "shift_x": camera.shifts[:, 0], "shift_y": camera.shifts[:, 1]}
    more = {name: values for name, values in more.items() if values.any()}
    values = np.column_stack([path.positions, path.targets, path.ups, camera.views_high_deg, *more.values()])
    return [
        dict(zip((*COLUMNS, *more), (float(frame), frame / fps, *map(float, row)), strict=True))
        for frame, row in enumerate(values)
    ]


def view_matrices(plan: Plan) -> Array:
    """From the source's coordinates to those of the camera (+x right, +y up, −z forward), shape (N, 4, 4)."""
    path = camera_of(plan).path
    forward, right, up = axes_of(path)
    matrices = np.zeros((len(forward), 4, 4))
    matrices[:, :3, :3] = np.stack([right, up, -forward], axis=1)
    matrices[:, :3, 3] = -np.einsum("nij,nj->ni", matrices[:, :3, :3], path.positions)
    matrices[:, 3, 3] = 1
    return matrices


def rig_of_rows(
    shot: Shot, rows: Sequence[Mapping[str, float]], counts: Literal["shown", "motion"] = "shown"
) -> dict[str, Any]:
    """The rig that follows the path of a table, with the camera at each row at its frame.

    Parameters
    ----------
    shot : Shot
    rows : sequence of mapping
        With `POSITION`, and where they are known ``frame``, `LOOK`, `UP` and
        ``view_high_deg`` and `MORE`.
    counts : {"shown", "motion"}
        Whether its frames count those that the shot shows, as an export does,
        with holds, every n-th and in their order, or those of its motion.

    Raises
    ------
    Mistake
        When columns are missing, numbers are none, or frames do not rise.
    """
    check_columns(rows[0] if rows else POSITION, "the table")
    if len(rows) < 2 or len(rows) > MOST_KEYS:
        raise Mistake(
            f"a path has 2 to {MOST_KEYS:,} rows, and the table has {len(rows):,}: "
            + ("add some" if len(rows) < 2 else "leave some out")
        )
    table = {
        name: np.array([row[name] for row in rows], dtype=np.float64) for name in rows[0] if name in (*COLUMNS, *MORE)
    }
    for name, values in table.items():
        if bad := np.flatnonzero(~np.isfinite(values)).tolist():
            raise Mistake(
                f"row {bad[0] + 1:,} of the table has no number in column {name!r}: write one there, or remove the row"
            )
    clock = shot.clock.exact
    frames = table.get("frame", np.arange(len(rows), dtype=np.float64))
    if (np.diff(frames) <= 0).any():
        raise Mistake(f"the table's frames must rise from row to row: sort it by frame{_first_fall(frames)}")
    times, table = _timed(clock, frames, table, counts)
    step = float(np.median(np.diff(times))) if len(times) > 2 else 1.0
    closed = bool(clock.span == "loop" and times[0] == 0 and 1 - times[-1] < 1.5 * step)
    keys: list[dict[str, Any]] = [
        {"position": _three(table, POSITION, n), "at": float(f"{times[n]:.12g}")} for n in range(len(times))
    ]
    if all(name in table for name in LOOK):
        for n, key in enumerate(keys):
            key["look"] = _three(table, LOOK, n)
        _add_rolls(table, keys)
    _check_lens(shot, table)
    if "parallel_high" in table and "look" in keys[0]:
        # In parallel projection the height follows from the angle and from how far off the camera looks.
        away = np.linalg.norm(_points(table, LOOK) - _points(table, POSITION), axis=1)
        table["view_high_deg"] = np.degrees(2 * np.arctan(table["parallel_high"] / 2 / away))
    if "view_high_deg" in table:
        _, high = shot.camera.lens.lens().used_sensor_mm(shot.picture.width, shot.picture.height)
        focals = high / 2 / np.tan(np.radians(table["view_high_deg"]) / 2)
        for key, focal in zip(keys, focals, strict=True):
            key["focal_mm"] = _short(focal)
    looks = "keys" if "look" in keys[0] else "subject"
    return {"kind": "path", "keys": keys, "curve": "straight", "pace": "keys", "looks": looks, "closed": closed}


def _timed(clock: Clock, frames: Array, table: dict[str, Array], counts: str) -> tuple[Array, dict[str, Array]]:
    """Phases of the rows, rising, and the rows that remain: of several at one phase, such as a hold, the first."""
    most = clock.frames if counts == "shown" else clock.motion
    if frames[0] < 0 or frames[-1] > most - (1 if clock.span == "ends" or counts == "shown" else 0):
        raise Mistake(f"the table goes to frame {frames[-1]:g}, but the shot has {most:,}: set its length first")
    times = np.interp(frames, np.arange(most), clock.phases()) if counts == "shown" else frames / clock.steps
    times, first = np.unique(times, return_index=True)
    if len(times) < 2:
        raise Mistake("all rows of the table are in frames that show one instant: a path needs two")
    return times, {name: values[first] for name, values in table.items()}


def _check_lens(shot: Shot, table: Mapping[str, Array]) -> None:
    """Refuse a table whose camera has a lens that keys of a path cannot give."""
    lens = shot.camera.lens
    if "parallel_high" in table and table["parallel_high"].any() and lens.projection != "parallel":
        raise Mistake("the table is that of a parallel camera: set the lens to parallel, then import it")
    size = lens.lens().used_sensor_mm(shot.picture.width, shot.picture.height)
    for axis, moved, side in zip("xy", lens.shift_mm, size, strict=True):
        shifts = table.get(f"shift_{axis}", np.zeros(1))
        if np.abs(shifts - 2 * moved / side).max() > 1e-6:
            raise Mistake(
                f"the table's lens is shifted by {_short(shifts[0] * side / 2):g} mm in {axis}, this shot's by "
                f"{moved:g} mm: set the lens shift, then import it"
            )


def check_columns(names: Iterable[str], where: str) -> None:
    """Refuse a table without the camera's position.

    Raises
    ------
    Mistake
        Naming what is missing, and what there is.
    """
    known = list(names)
    if missing := [name for name in POSITION if name not in known]:
        raise Mistake(
            f"{where} has no column {' and no '.join(missing)}: its columns must be named {', '.join(POSITION)}, "
            f"but are {', '.join(known) or 'none'}"
        )


def _first_fall(frames: Array) -> str:
    fall = int(np.flatnonzero(np.diff(frames) <= 0)[0])
    return f" (row {fall + 2:,} has {frames[fall + 1]:g}, after {frames[fall]:g})"


def camera_of(plan: Plan) -> SampledCamera:
    """The shot's own camera, in every frame.

    Raises
    ------
    Mistake
        When no camera looks at the source.
    """
    if plan.sampled.camera is None:
        raise Mistake(f"a {plan.shot.source.kind} provides pictures, so there is no camera path")
    return plan.sampled.camera


def _add_rolls(table: Mapping[str, Array], keys: list[dict[str, Any]]) -> None:
    """What the ups say beyond level."""
    if any(name not in table for name in UP):
        return
    positions, looks, ups = (_points(table, names) for names in (POSITION, LOOK, UP))
    # Unwrapped, so that a camera that continues to roll past 180° does not turn back within a frame.
    level = rolled(looks - positions, 0.0)
    _, right, upright = axes_of(view_of(positions, looks, level))
    rolls = np.degrees(np.unwrap(np.arctan2((ups * right).sum(axis=1), (ups * upright).sum(axis=1))))
    for key, roll in zip(keys, rolls, strict=True):
        if abs(roll) > 1e-9:
            key["roll_deg"] = _short(roll)


def _points(table: Mapping[str, Array], names: Sequence[str]) -> Array:
    return np.stack([table[name] for name in names], axis=1)


def _three(table: Mapping[str, Array], names: Sequence[str], row: int) -> list[float]:
    return [_short(table[name][row]) for name in names]


def _short(value: float) -> float:
    return float(f"{value:.12g}") + 0.0
