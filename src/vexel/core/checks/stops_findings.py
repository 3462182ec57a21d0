"""Preflight of a walk from view to view."""

from typing import Any

import numpy as np

from vexel.core.camera.camera_path import CameraPath
from vexel.core.camera.framing import Sphere
from vexel.core.document.rig_spec import StopsSpec
from vexel.core.document.stops_timetable import Timetable, timetable, way_from
from vexel.core.evaluate.plan import Plan
from vexel.core.finding import Finding, Mend

HASTE_DEG = 3.0
"""A camera that turns by more than this from frame to frame is hard to follow (common practice)."""


def stops_findings(plan: Plan, turns_deg: np.ndarray[Any, np.dtype[np.float64]]) -> list[Finding]:
    """What is off with a walk.

    Parameters
    ----------
    plan : Plan
    turns_deg : ndarray, shape (N - 1,)
        How far the line of sight turns from frame to frame.
    """
    camera, path, sphere = plan.shot.camera, plan.sampled.path, plan.basis.subject.sphere
    rig = camera.rig
    if not isinstance(rig, StopsSpec) or path is None or sphere is None:
        return []
    times = timetable(rig, camera.views, plan.clock.rate, plan.clock.span)
    found = [_seam(plan, rig), _through(plan, rig, times, path, sphere), _haste(plan, rig, times, turns_deg)]
    return [finding for finding in found if finding is not None]


def _seam(plan: Plan, rig: StopsSpec) -> Finding | None:
    if plan.clock.span != "loop" or rig.closed or len(plan.shot.camera.views) < 2:
        return None
    return Finding(
        "walk-does-not-close",
        "the walk ends at its last view and begins at its first",
        "The loop will jump at its seam.",
        (
            Mend("Go back to the first view", {"camera": {"rig": {"closed": True}}}),
            Mend("Show it once, with both ends", {"clock": {"span": "ends"}}),
        ),
    )


def _through(plan: Plan, rig: StopsSpec, times: Timetable, path: CameraPath, sphere: Sphere) -> Finding | None:
    """A straight way that leads through the subject from one view to another, both outside it."""
    views, frames = plan.shot.camera.views, plan.clock.selection.frames_of(plan.clock.motion)
    away = np.linalg.norm(path.positions - np.asarray(sphere.centre), axis=1)
    for leg, view in enumerate(views[: len(times.travels)]):
        begin = times.arrivals[leg] + times.dwells[leg]
        on_leg = (frames > begin) & (frames < times.arrivals[leg + 1])
        ends = [np.linalg.norm(np.subtract(v.position, sphere.centre)) for v in (view, views[(leg + 1) % len(views)])]
        inside = np.flatnonzero(on_leg & (away < sphere.radius))
        if way_from(rig, view) != "straight" or min(ends) <= sphere.radius or not len(inside):
            continue
        told = [v.model_dump(mode="json", exclude_defaults=True) for v in views]
        told[leg]["way"] = "around"
        return Finding(
            "walk-through-subject",
            f"the way from {named(plan, leg)} to {named(plan, leg + 1)} leads through the subject, or close by, in "
            f"frames {inside[0]:,} to {inside[-1]:,}",
            "The camera may look at it from inside.",
            (Mend("Go around it", {"camera": {"views": told}}),),
        )
    return None


def _haste(
    plan: Plan, rig: StopsSpec, times: Timetable, turns_deg: np.ndarray[Any, np.dtype[np.float64]]
) -> Finding | None:
    frames = plan.clock.selection.frames_of(plan.clock.motion)
    gaps = np.diff(frames)
    if not len(turns_deg) or (gaps != 1).any():
        return None
    worst = int(turns_deg.argmax())
    leg = int(np.searchsorted(times.arrivals, frames[worst], side="right")) - 1
    if turns_deg[worst] <= HASTE_DEG or leg >= len(times.travels) or times.travels[leg] == 0:
        return None
    views = plan.shot.camera.views
    lasts = times.travels[leg] / float(plan.clock.rate.fps)
    wanted = float(np.ceil(lasts * turns_deg[worst] / HASTE_DEG * 2) / 2)
    told = [v.model_dump(mode="json", exclude_defaults=True) for v in views]
    told[leg]["travel_seconds"] = wanted
    return Finding(
        "walk-in-haste",
        f"from {named(plan, leg)} to {named(plan, leg + 1)} the view turns by {turns_deg[worst]:.2g}° a frame at "
        f"frame {worst:,}; more than {HASTE_DEG:g}° is hard to follow",
        "It will look hasty.",
        (Mend(f"Take {wanted:g} s", {"camera": {"views": told}}),),
    )


def named(plan: Plan, number: int) -> str:
    """A view's name for people; numbers go round."""
    views = plan.shot.camera.views
    number %= len(views)
    return views[number].name or f"view {number + 1}"
