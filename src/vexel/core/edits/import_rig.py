"""A shot whose camera goes as a file says."""

from typing import Any

from vexel.core.document.shot import Shot


def import_rig(shot: Shot, rig: dict[str, Any]) -> dict[str, Any]:
    """The merge patch that gives a shot a whole rig, without lanes that drove the old one."""
    gone = {name: None for name in type(shot.camera.rig).model_fields if name not in rig}
    lanes = [lane.model_dump(mode="json", exclude_defaults=True) for lane in shot.lanes]
    kept = [lane for lane in lanes if not lane["drive"].startswith("rig:")]
    return {"camera": {"rig": gone | rig}} | ({"lanes": kept} if len(kept) < len(lanes) else {})
