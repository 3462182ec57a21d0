"""What is off with a camera that goes from saved view to saved view."""

import numpy as np

from vexel.core.camera.framing import Sphere
from vexel.core.document.stops_spec import StopsSpec, Timetable
from vexel.core.evaluate.rigs.rig import RigPath
from vexel.core.finding import Finding, Fix

HASTE_DEG = 3.0
"""A camera that turns by more than this from frame to frame is hard to follow (common practice)."""


def stops_findings(rig: StopsSpec, times: Timetable, own: RigPath) -> list[Finding]:
    """What is off with the way between the views."""
    sphere = own.subject.sphere
    found = [_seam(rig, own), _through(rig, times, own, sphere) if sphere else None, _haste(times, own)]
    return [finding for finding in found if finding is not None]


def _seam(rig: StopsSpec, own: RigPath) -> Finding | None:
    if own.clock.span != "loop" or rig.closed or len(own.shot.camera.views) < 2:
        return None
    return Finding(
        "views-do-not-close",
        "The path ends at its last view and begins at its first",
        "The loop will jump at its seam.",
        (
            Fix("Go back to the first view", {"camera": {"rig": {"closed": True}}}),
            Fix("Play it once, with both ends", {"clock": {"span": "ends"}}),
        ),
    )


def _through(rig: StopsSpec, times: Timetable, own: RigPath, sphere: Sphere) -> Finding | None:
    """A straight way that leads through the subject from one view to another, both outside it."""
    views, frames = own.shot.camera.views, own.clock.selection.frames_of(own.clock.motion)
    away = np.linalg.norm(own.path.positions - np.asarray(sphere.centre), axis=1)
    for leg, view in enumerate(views[: len(times.travels)]):
        begin = times.arrivals[leg] + times.dwells[leg]
        on_leg = (frames > begin) & (frames < times.arrivals[leg + 1])
        ends = [np.linalg.norm(np.subtract(v.position, sphere.centre)) for v in (view, views[(leg + 1) % len(views)])]
        inside = np.flatnonzero(on_leg & (away < sphere.radius))
        if rig.way_from(view) != "straight" or min(ends) <= sphere.radius or not len(inside):
            continue
        changed = [v.model_dump(mode="json", exclude_defaults=True) for v in views]
        changed[leg]["way"] = "around"
        return Finding(
            "walk-through-subject",
            f"The path from {named(own, leg)} to {named(own, leg + 1)} passes through the subject, or close to it, in "
            f"frames {inside[0]:,} to {inside[-1]:,}",
            "The camera may see it from inside.",
            (Fix("Go around it", {"camera": {"views": changed}}),),
        )
    return None


def _haste(times: Timetable, own: RigPath) -> Finding | None:
    turns_deg = own.figures.turns_deg
    frames = own.clock.selection.frames_of(own.clock.motion)
    gaps = np.diff(frames)
    if not len(turns_deg) or (gaps != 1).any():
        return None
    worst = int(turns_deg.argmax())
    leg = int(np.searchsorted(times.arrivals, frames[worst], side="right")) - 1
    if turns_deg[worst] <= HASTE_DEG or leg >= len(times.travels) or times.travels[leg] == 0:
        return None
    views = own.shot.camera.views
    lasts = times.travels[leg] / float(own.clock.rate.fps)
    wanted = float(np.ceil(lasts * turns_deg[worst] / HASTE_DEG * 2) / 2)
    changed = [v.model_dump(mode="json", exclude_defaults=True) for v in views]
    changed[leg]["travel_seconds"] = wanted
    return Finding(
        "transition-too-fast",
        f"From {named(own, leg)} to {named(own, leg + 1)} the view turns by {turns_deg[worst]:.2g}° per frame at "
        f"frame {worst:,}; more than {HASTE_DEG:g}° is hard to follow",
        "It will look rushed.",
        (Fix(f"Use {wanted:g} s", {"camera": {"views": changed}}),),
    )


def named(own: RigPath, number: int) -> str:
    """A view's name for people; numbers go round."""
    views = own.shot.camera.views
    number %= len(views)
    return views[number].name or f"view {number + 1}"
