"""Turns one after another: of the camera, of its subject, of the light."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vexel.core.document.rig_spec import OrbitSpec
from vexel.core.lanes.easing import Easing

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Turns:
    """Degrees that each has turned, counter-clockwise seen from above, shape (N,)."""

    camera: Array
    subject: Array
    light: Array


def turns_at(rig: OrbitSpec, phases: Array) -> Turns:
    """How far a turntable has turned at phases of the shot, 0 to 1, shape (N,).

    Each step of it takes a share of the time as its turns are a share of all,
    so that all turn at one speed.
    """
    easing, whole = Easing.parse(rig.ease), rig.all_turns
    turned = {what: np.zeros_like(phases) for what in ("camera", "subject", "light")}
    before = 0.0
    for step in rig.steps:
        if step.turns == 0:
            continue
        part = np.clip((phases * whole - before) / step.turns, 0.0, 1.0) if rig.followed_by else phases
        part = part if easing.kind == "linear" else easing(part.copy())
        sign = 1.0 if step.direction == "ccw" else -1.0
        turned[step.what] += sign * 360.0 * step.turns * part
        before += step.turns
    return Turns(**turned)
