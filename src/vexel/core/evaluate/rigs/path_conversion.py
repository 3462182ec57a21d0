"""Keys of a path that goes as another rig does."""

from typing import Any

import numpy as np

from vexel.core.evaluate.rigs.rig import RigPath
from vexel.core.short_number import short

KEYS = 8
"""Number of keys for each turn that becomes a path."""


def stands(path: RigPath) -> bool:
    """Whether the camera stays where it is."""
    reach = np.linalg.norm(path.path.positions[0] - path.path.targets[0])
    return bool(np.linalg.norm(np.ptp(path.path.positions, axis=0)) < 1e-9 * reach)


def keys_along(path: RigPath) -> dict[str, Any]:
    """Keys along the way that the camera takes now; a whole turn of a loop becomes a closed path."""
    positions, clock, camera = path.path.positions, path.clock, path.shot.camera
    if camera.rig.traits.times_shot and len(camera.views) > 1:
        keys = [{"position": list(view.position), "look": list(view.look)} for view in camera.views]
        return {"keys": keys, "looks": "keys", "closed": not camera.rig.ends_elsewhere}
    if stands(path):
        # It stands: begin with a short way to the side.
        aside = np.cross(path.path.targets[0] - positions[0], path.path.ups[0])
        aside *= 0.25
        ends = [positions[0] - aside, positions[0] + aside]
        return {"keys": [{"position": _place(end)} for end in ends]}
    turntable = camera.rig.turntable
    turns = turntable.turns if turntable else 1.0
    closed = clock.span == "loop" and turntable is not None and turns == 1
    count = max(round(KEYS * max(turns, 0.25)), 2)
    places = np.arange(count) / count if closed else np.linspace(0, 1, count + 1)
    frames = np.rint(places * (clock.frames - (0 if closed else 1))).astype(int)
    keys = [{"position": _place(positions[n])} for n in dict.fromkeys(np.minimum(frames, clock.frames - 1).tolist())]
    return {"keys": keys, "closed": closed}


def _place(position: Any) -> list[float]:
    return [short(value) for value in position]
