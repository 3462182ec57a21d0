"""The turntable: turns one after another, of the camera, of its subject, of the light."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.camera_path import CameraPath
from vexel.core.document.rig_spec import OrbitSpec
from vexel.core.document.shot import Shot
from vexel.core.evaluate.rigs.around import centre_of, converted_around, focal_of, path_around, step_back
from vexel.core.evaluate.rigs.rig import Rig, RigPath, SaveView, Tracks, Turns
from vexel.core.evaluate.source_facts import Point, Subject
from vexel.core.finding import Fix

Array = NDArray[np.float64]


class OrbitRig(Rig[OrbitSpec]):
    """A turntable."""

    keeps_distance = True

    def sample(self, shot: Shot, subject: Subject, phases: Array, tracks: Tracks) -> tuple[CameraPath, Array]:
        """See `Rig.sample`."""
        focal, turned = focal_of(self, phases, tracks), self.turns(phases).camera
        return path_around(shot, self, subject, turned, tracks, focal, self.spec.axis), focal

    def turns(self, phases: Array) -> Turns:
        """See `Rig.turns`."""
        return turns_at(self.spec, phases)

    def turning_axis(self, subject: Subject) -> tuple[Point, Point]:
        """See `Rig.turning_axis`."""
        return centre_of(self.spec, subject), self.spec.axis

    @property
    def fill(self) -> float | None:
        """See `Rig.fill`."""
        return None if self.spec.distance else self.spec.fill

    def step_back(self) -> tuple[Fix, ...]:
        """See `Rig.step_back`."""
        return step_back({})

    @classmethod
    def converted(cls, path: RigPath, frame: int, save_view: SaveView) -> dict[str, Any]:
        """See `Rig.converted`."""
        return converted_around(path, "orbit", 0, frame)


def turns_at(spec: OrbitSpec, phases: Array) -> Turns:
    """How far a turntable has turned at phases of the shot, 0 to 1, shape (N,).

    Each step of it takes a share of the time as its turns are a share of all,
    so that all turn at one speed.
    """
    easing, whole = spec.easing, spec.all_turns
    turned = {what: np.zeros_like(phases) for what in ("camera", "subject", "light")}
    before = 0.0
    for step in spec.steps:
        # Its share of the time would be 0 divided by 0.
        if step.turns == 0:
            continue
        part = np.clip((phases * whole - before) / step.turns, 0.0, 1.0) if spec.followed_by else phases
        # On a copy, since easing may write into what it is given.
        part = part if easing.kind == "linear" else easing(part.copy())
        sign = 1.0 if step.direction == "ccw" else -1.0
        turned[step.what] += sign * 360.0 * step.turns * part
        before += step.turns
    return Turns(**turned)
