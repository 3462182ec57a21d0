"""Another kind of rig for a shot, beginning from how its camera moves now."""

from typing import Any, Literal

import numpy as np

from vexel.core.errors import Mistake
from vexel.core.plan import Plan
from vexel.core.rig_plan import OrbitPlan, PathPlan, StillPlan

RigKind = Literal["still", "orbit", "path"]
KEYS = 8
"""So many keys a turn become a path."""
_KINDS = {"still": StillPlan, "orbit": OrbitPlan, "path": PathPlan}


def rerigged(plan: Plan, kind: RigKind, frame: int) -> dict[str, Any]:
    """The merge patch that gives a shot another kind of rig.

    Parameters
    ----------
    plan : Plan
    kind : {"still", "orbit", "path"}
    frame : int
        Whose view a camera that stands takes.

    Raises
    ------
    Mistake
        When no camera looks at the source.
    """
    path, rig = plan.moves.path, plan.shot.camera.rig
    if path is None:
        raise Mistake(f"no camera looks at this {plan.shot.source.kind}: it gives pictures")
    told: dict[str, Any] = {"kind": kind}
    if kind == "path":
        told |= _keys(plan)
    else:
        told["elevation_deg"] = _short(np.clip(path.elevations_deg[frame], -89, 89))
        azimuth = path.azimuths_deg[frame if kind == "still" else 0]
        told["start_deg"] = _short((azimuth + 180) % 360 - 180)
        if not isinstance(rig, PathPlan):
            told |= {"fill": rig.fill, "centre": None if rig.centre is None else list(rig.centre)}
    gone = {name: None for name in type(rig).model_fields if name not in told}
    lanes = plan.shot.lanes
    patch: dict[str, Any] = {"camera": {"rig": gone | told}}
    if kind == "path" and any(lane.drive.startswith("rig:") for lane in lanes):
        # Where lanes took the camera, the keys are now.
        kept = [
            lane.model_dump(mode="json", exclude_defaults=True) for lane in lanes if not lane.drive.startswith("rig:")
        ]
        patch["lanes"] = kept
    return patch


def _keys(plan: Plan) -> dict[str, Any]:
    """Keys along the way that the camera takes now; a whole turn of a loop becomes a closed path."""
    path, clock, rig = plan.moves.path, plan.clock, plan.shot.camera.rig
    assert path is not None
    positions = path.positions
    if np.linalg.norm(np.ptp(positions, axis=0)) < 1e-9 * np.linalg.norm(positions[0] - path.targets[0]):
        # It stands: begin with a short way to the side.
        aside = np.cross(path.targets[0] - positions[0], path.ups[0])
        aside *= 0.25
        ends = [positions[0] - aside, positions[0] + aside]
        return {"keys": [{"position": _place(end)} for end in ends]}
    turns = rig.turns if isinstance(rig, OrbitPlan) else 1.0
    closed = clock.span == "loop" and isinstance(rig, OrbitPlan) and turns == 1
    count = max(round(KEYS * max(turns, 0.25)), 2)
    places = np.arange(count) / count if closed else np.linspace(0, 1, count + 1)
    frames = np.rint(places * (clock.frames - (0 if closed else 1))).astype(int)
    keys = [{"position": _place(positions[n])} for n in dict.fromkeys(np.minimum(frames, clock.frames - 1).tolist())]
    return {"keys": keys, "closed": closed}


def _place(position: Any) -> list[float]:
    return [_short(value) for value in position]


def _short(value: float) -> float:
    return float(f"{value:.6g}") + 0.0
