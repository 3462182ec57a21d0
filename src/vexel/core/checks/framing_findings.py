"""Preflight of what the frame cuts off of the subject, for every rig and lens."""

from typing import Any

import numpy as np

from vexel.core.camera.framing import distance_to_fill
from vexel.core.document.rig_spec import OrbitSpec, PathSpec, StillSpec
from vexel.core.evaluate.plan import Plan
from vexel.core.evaluate.rig_path import figures_of
from vexel.core.finding import Finding, Fix
from vexel.core.wording import counted

CUT = -1e-6
"""A margin below this cuts something off, and is no rounding."""
COARSE = 1 / 2000
"""Steps of this share of the radius are a quarter of a pixel where the subject fills 1080 rows."""
ROOM = 1.02
MOST_BACK = 5.0
"""A path that would have to be this many times farther away is another path."""


def cut_off(plan: Plan) -> list[Finding]:
    """A subject that is not wholly in sight, though the camera looks at it."""
    shot, sphere = plan.shot, plan.inputs.subject.sphere
    if sphere is None or shot.camera.lens.projection == "panorama" or not _looks_at_subject(plan):
        return []
    margins = figures_of(plan).margins
    cut = np.flatnonzero(margins < CUT)
    if not len(cut):
        return []
    where = "all frames" if len(cut) == len(margins) else f"{counted(len(cut), 'frame')}, {cut[0]:,} to {cut[-1]:,}"
    what = f"The subject is cut off in {where}"
    behind = np.flatnonzero(np.isneginf(margins))
    if len(behind):
        when = f"{behind[0]:,} to {behind[-1]:,}" if len(behind) > 1 else f"frame {behind[0]:,}"
        what += f"; in {when} part of it is behind the camera"
    return [Finding("subject-cut-off", what, "It will not be fully visible there.", _fixes(plan, margins))]


def coarse_coordinates(plan: Plan) -> list[Finding]:
    """A subject so far from the origin that the numbers of its points are too coarse for its size."""
    subject = plan.inputs.subject
    if subject.sphere is None or subject.step <= COARSE * subject.sphere.radius:
        return []
    what = (
        f"The coordinates of the subject are stored as 32-bit numbers, in steps of {subject.step:.3g} this far from "
        f"the origin; its radius is {subject.sphere.radius:.3g}"
    )
    cost = (
        "Its surfaces show steps, and narrow faces vanish. Export it with coordinates relative to a point near it, "
        "or with 64-bit numbers; in code, use float64 points."
    )
    return [Finding("coarse-coordinates", what, cost)]


def _looks_at_subject(plan: Plan) -> bool:
    """Whether the camera is meant to show it whole; not where keys or saved views choose what is looked at."""
    rig = plan.shot.camera.rig
    if isinstance(rig, PathSpec):
        return rig.looks == "subject"
    return isinstance(rig, OrbitSpec) or (isinstance(rig, StillSpec) and rig.position is None)


def _fixes(plan: Plan, margins: np.ndarray[Any, Any]) -> tuple[Fix, ...]:
    rig, sphere = plan.shot.camera.rig, plan.inputs.subject.sphere
    assert sphere is not None and plan.sampled.path is not None
    by = float((1 - margins).max()) * ROOM
    if np.isneginf(margins).any():
        away = np.linalg.norm(plan.sampled.path.positions - np.asarray(sphere.centre), axis=1).min()
        by = _whole_from(plan) / max(float(away), 1e-300) * ROOM
    if isinstance(rig, PathSpec):
        if by > MOST_BACK:
            return ()
        keys = {"camera": {"rig": {"keys": _pulled_back(rig, sphere.centre, by)}}}
        return (Fix(f"Pull back to {by:.3g} × the distance", keys),)
    if any(plan.shot.camera.lens.shift_mm):
        return (Fix("Centre the lens", {"camera": {"lens": {"shift_mm": [0, 0]}}}),)
    assert isinstance(rig, OrbitSpec | StillSpec)
    if any(lane.drive in ("rig:fill", "rig:distance", "lens:focal") for lane in plan.shot.lanes):
        return ()
    if rig.distance is not None:
        distance = float(f"{rig.distance * by:.4g}")
        return (Fix(f"Move back to {distance:g}", {"camera": {"rig": {"distance": distance}}}),)
    fill = max(float(f"{rig.fill / by:.2g}"), 0.02)
    return (Fix(f"Let it fill {fill:.0%} of the frame", {"camera": {"rig": {"fill": fill}}}),)


def _whole_from(plan: Plan) -> float:
    """From so far the subject's sphere is seen whole in every frame."""
    picture, sphere, camera = plan.shot.picture, plan.inputs.subject.sphere, plan.sampled.camera
    assert sphere is not None and camera is not None
    high = np.radians(camera.views_high_deg.min())
    shorter = 2 * np.degrees(np.arctan(np.tan(high / 2) * min(1.0, picture.width / picture.height)))
    return float(distance_to_fill(sphere.radius, 1.0, shorter))


def _pulled_back(rig: PathSpec, centre: tuple[float, float, float], by: float) -> list[dict[str, Any]]:
    """All keys, moved to `by` times their distance from the subject's middle."""
    keys = []
    for key in rig.keys:
        moved_key = key.model_dump(mode="json", exclude_defaults=True)
        place = np.asarray(centre) + by * (np.asarray(key.position) - np.asarray(centre))
        moved_key["position"] = [float(f"{value:.12g}") for value in place]
        keys.append(moved_key)
    return keys
