"""A shot with one camera more."""

from typing import Any

from vexel.core.edits.convert_rig import convert_rig
from vexel.core.evaluate.plan import Plan


def add_camera(plan: Plan, frame: int) -> tuple[dict[str, Any], str]:
    """A static camera where the shot's own one is in a frame; the merge patch, and the new camera's name.

    Raises
    ------
    Mistake
        When no camera looks at the source.
    """
    shot = plan.shot
    converted = convert_rig(plan, "still", frame)["camera"]["rig"]
    rig = {name: value for name, value in converted.items() if value is not None}
    names = {camera.name for camera in shot.all_cameras}
    name = next(name for n in range(2, len(names) + 3) if (name := f"camera-{n}") not in names)
    cameras = [camera.model_dump(mode="json", exclude_defaults=True) for camera in shot.cameras]
    lens = shot.camera.lens.model_dump(mode="json", exclude_defaults=True)
    cameras.append({"name": name, "rig": rig} | ({"lens": lens} if lens else {}))
    return {"cameras": cameras}, name
