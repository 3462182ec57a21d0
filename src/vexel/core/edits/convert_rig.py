"""Another kind of rig for a shot, beginning from how its camera moves now."""

from typing import Any, Literal

import numpy as np

from vexel.core.document.rig_spec import OrbitSpec, PathSpec, StillSpec, StopsSpec
from vexel.core.edits.save_view import save_view, short
from vexel.core.errors import Mistake
from vexel.core.evaluate.plan import Plan
from vexel.core.evaluate.single_camera import patch_of_camera, plan_of_camera

RigKind = Literal["still", "orbit", "path", "stops"]
KEYS = 8
"""So many keys a turn become a path."""
STOPS = 4
"""So many views are saved along the way of a camera that has none yet."""


def convert_rig(plan: Plan, kind: RigKind, frame: int) -> dict[str, Any]:
    """The merge patch that gives a shot another kind of rig.

    Parameters
    ----------
    plan : Plan
    kind : {"still", "orbit", "path", "stops"}
    frame : int
        Whose view a camera that stands takes.

    Raises
    ------
    Mistake
        When no camera looks at the source.
    """
    path, rig = plan.sampled.path, plan.shot.camera.rig
    if path is None:
        raise Mistake(f"no camera looks at this {plan.shot.source.kind}: it gives pictures")
    told: dict[str, Any] = {"kind": kind}
    camera: dict[str, Any] = {}
    if kind == "path":
        told |= _keys(plan)
    elif kind == "stops":
        camera = {} if plan.shot.camera.views else {"views": _views(plan)}
    else:
        told["elevation_deg"] = short(np.clip(path.elevations_deg[frame], -90, 90))
        azimuth = path.azimuths_deg[frame if kind == "still" else 0]
        told["start_deg"] = short((azimuth + 180) % 360 - 180)
        if isinstance(rig, StillSpec | OrbitSpec):
            centre = list(rig.centre) if isinstance(rig.centre, tuple) else rig.centre
            told |= {"fill": rig.fill, "centre": centre, "distance": rig.distance}
    lanes = plan.shot.lanes
    patch: dict[str, Any] = {"camera": {"rig": told} | camera}
    if kind in ("path", "stops") and any(lane.drive.startswith("rig:") for lane in lanes):
        # Where lanes took the camera, the keys are now.
        kept = [
            lane.model_dump(mode="json", exclude_defaults=True) for lane in lanes if not lane.drive.startswith("rig:")
        ]
        patch["lanes"] = kept
    if kind == "stops" and plan.shot.clock.retimed_from is not None:
        patch["clock"] = {"retimed_from": None}
    return patch


def convert_camera_rig(plan: Plan, number: int, kind: RigKind, frame: int) -> dict[str, Any]:
    """The same for one of the shot's cameras, counted from its own one on.

    Raises
    ------
    Mistake
        When there is no such camera.
    """
    if number == 0:
        return convert_rig(plan, kind, frame)
    return patch_of_camera(plan.shot, number, convert_rig(plan_of_camera(plan, number), kind, frame))


def _views(plan: Plan) -> list[dict[str, Any]]:
    """Views along the way that the camera takes now: one of a camera that stands."""
    path, last = plan.sampled.path, plan.clock.frames - 1
    assert path is not None
    if _stands(plan):
        return [save_view(plan, 0, "View 1")]
    rig = plan.shot.camera.rig
    count = len(rig.keys) if isinstance(rig, PathSpec) else STOPS
    # A turn comes back to where it began, which is no view of its own.
    places = np.arange(count) / (count if plan.clock.span == "loop" else max(count - 1, 1))
    frames = dict.fromkeys(np.rint(places * last).astype(int).tolist())
    return [save_view(plan, frame, f"View {n}") for n, frame in enumerate(frames, start=1)]


def _stands(plan: Plan) -> bool:
    path = plan.sampled.path
    assert path is not None
    reach = np.linalg.norm(path.positions[0] - path.targets[0])
    return bool(np.linalg.norm(np.ptp(path.positions, axis=0)) < 1e-9 * reach)


def _keys(plan: Plan) -> dict[str, Any]:
    """Keys along the way that the camera takes now; a whole turn of a loop becomes a closed path."""
    path, clock, rig = plan.sampled.path, plan.clock, plan.shot.camera.rig
    assert path is not None
    positions = path.positions
    if isinstance(rig, StopsSpec) and len(plan.shot.camera.views) > 1:
        views = plan.shot.camera.views
        keys = [{"position": list(view.position), "look": list(view.look)} for view in views]
        return {"keys": keys, "looks": "keys", "closed": rig.closed}
    if _stands(plan):
        # It stands: begin with a short way to the side.
        aside = np.cross(path.targets[0] - positions[0], path.ups[0])
        aside *= 0.25
        ends = [positions[0] - aside, positions[0] + aside]
        return {"keys": [{"position": _place(end)} for end in ends]}
    turns = rig.turns if isinstance(rig, OrbitSpec) else 1.0
    closed = clock.span == "loop" and isinstance(rig, OrbitSpec) and turns == 1
    count = max(round(KEYS * max(turns, 0.25)), 2)
    places = np.arange(count) / count if closed else np.linspace(0, 1, count + 1)
    frames = np.rint(places * (clock.frames - (0 if closed else 1))).astype(int)
    keys = [{"position": _place(positions[n])} for n in dict.fromkeys(np.minimum(frames, clock.frames - 1).tolist())]
    return {"keys": keys, "closed": closed}


def _place(position: Any) -> list[float]:
    return [short(value) for value in position]
