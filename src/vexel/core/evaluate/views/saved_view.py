"""A view saved from a frame: its camera's position, and what is visible from there."""

from itertools import count
from typing import Any

import numpy as np

from vexel.core.camera.camera_path import rolled, view_of
from vexel.core.camera.path_figures import axes_of
from vexel.core.errors import Mistake
from vexel.core.evaluate.plan import Plan
from vexel.core.short_number import short

LIGHT = {"light:azimuth": "azimuth_deg", "light:elevation": "elevation_deg", "light:strength": "strength"}


def save_view(plan: Plan, frame: int, name: str = "") -> dict[str, Any]:
    """A view as the shot document keeps it.

    What lanes drive is left to them; dials and light are kept with the view.

    Parameters
    ----------
    plan : Plan
    frame : int
    name : str
        Of the view; empty names it by its number. One that another view has gets a number too.

    Raises
    ------
    Mistake
        When no camera looks at the source.
    """
    shot, camera = plan.shot, plan.sampled.camera
    if camera is None:
        raise Mistake(f"a {shot.source.kind} provides pictures, so there is no view to save")
    path, lens = camera.path, shot.camera.lens
    position, look, up = path.positions[frame], path.targets[frame], path.ups[frame]
    level = rolled((look - position)[None], 0.0)
    _, right, upright = axes_of(view_of(position[None], look[None], level))
    roll = float(np.degrees(np.arctan2(up @ right[0], up @ upright[0])))
    view: dict[str, Any] = {
        "name": _free_name(name, {view.name for view in shot.camera.views}, len(shot.camera.views) + 1),
        "position": [short(value) for value in position],
        "look": [short(value) for value in look],
    }
    if abs(roll) > 1e-6:
        view["roll_deg"] = short(roll)
    _, high = lens.lens().used_sensor_mm(shot.picture.width, shot.picture.height)
    focal = high / 2 / np.tan(np.radians(camera.views_high_deg[frame]) / 2)
    if lens.projection != "panorama" and abs(focal - lens.focal_mm) > 1e-9 * focal:
        view["focal_mm"] = short(focal)
    view["shows"] = _shows(plan, frame)
    return view


def _free_name(name: str, taken: set[str], number: int) -> str:
    """A unique name: the given one, or the same with a number."""
    if name and name not in taken:
        return name
    names = (f"{name} {n}" if name else f"View {n}" for n in count(2 if name else number))
    return next(one for one in names if one not in taken)


def _shows(plan: Plan, frame: int) -> dict[str, float]:
    shot, motion, driven = plan.shot, plan.sampled.motion, {lane.drive for lane in plan.shot.lanes}
    dials = {
        f"dial:{dial.name}": float(motion.dials[dial.name][frame])
        for dial in plan.inputs.facts.dials
        if dial.name not in plan.inputs.facts.settings
    }
    light = {drive: getattr(shot.light, name) for drive, name in LIGHT.items()}
    values = dials | light
    moved = {d: float(t[frame]) for d, t in motion.tracks.items() if d in values or d.startswith("opacity:")}
    return {drive: short(value) for drive, value in (values | moved).items() if drive not in driven}
