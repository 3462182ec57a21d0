"""One of a shot's cameras by itself: its plan, its patches and its findings, counted from the shot's own one on."""

from dataclasses import replace
from typing import Any

from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.evaluate.plan import Plan, make_plan
from vexel.core.finding import Finding, Fix
from vexel.core.merge_patch import merged


def plan_of_camera(plan: Plan, number: int) -> Plan:
    """The plan of a shot as if one of its further cameras were its own, with no lane of the other.

    Raises
    ------
    Mistake
        When there is no such camera.
    """
    shot = plan.shot
    if number > len(shot.cameras):
        raise Mistake(f"there is no camera {number + 1}: the shot has {len(shot.all_cameras)}")
    lanes = [lane for lane in shot.lanes if not lane.drive.startswith(("rig:", "lens:"))]
    alone = shot.model_copy(update={"camera": shot.all_cameras[number], "cameras": [], "lanes": lanes})
    return make_plan(alone, plan.inputs)


def patch_of_camera(shot: Shot, number: int, patch: dict[str, Any]) -> dict[str, Any]:
    """A patch of the shot's own camera as one of another of its cameras; a merge patch replaces lists as wholes."""
    if number == 0 or "camera" not in patch:
        return patch
    cameras = [camera.model_dump(mode="json") for camera in shot.cameras]
    cameras[number - 1] = merged(cameras[number - 1], patch["camera"])
    return {name: value for name, value in patch.items() if name != "camera"} | {"cameras": cameras}


def finding_of_camera(finding: Finding, shot: Shot, number: int, name: str) -> Finding:
    """A finding of one camera among several, with the camera's name and fixes for it."""
    if not shot.cameras:
        return finding
    fixes = tuple(Fix(fix.label, patch_of_camera(shot, number, fix.patch)) for fix in finding.fixes)
    return replace(finding, what=f"{name}: {finding.what}", fixes=fixes)
