"""Another kind of rig for a shot, beginning from how its camera moves now."""

from typing import Any

from vexel.core.document.camera_spec import RigKind
from vexel.core.errors import Mistake
from vexel.core.evaluate.plan import Plan
from vexel.core.evaluate.rig_path import rig_path_of
from vexel.core.evaluate.rigs import RIGS
from vexel.core.evaluate.views.saved_view import save_view
from vexel.core.evaluate.views.single_camera import patch_of_camera, plan_of_camera


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
    if plan.sampled.path is None:
        raise Mistake(f"a {plan.shot.source.kind} provides pictures, so there is no camera")
    spec, rig = next((spec, rig) for spec, rig in RIGS.items() if spec.kind_name() == kind)
    camera = rig.converted(rig_path_of(plan), frame, lambda shown, name: save_view(plan, shown, name))
    patch: dict[str, Any] = {"camera": camera}
    lanes = plan.shot.lanes
    if spec.traits.edit_instead and any(lane.drive.startswith("rig:") for lane in lanes):
        # Where lanes took the camera, the keys are now.
        kept = [
            lane.model_dump(mode="json", exclude_defaults=True) for lane in lanes if not lane.drive.startswith("rig:")
        ]
        patch["lanes"] = kept
    if spec.traits.times_shot and plan.shot.clock.retimed_from is not None:
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
