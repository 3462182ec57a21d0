"""The rig that stands: one view in all frames."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.camera_path import CameraPath, rolled, rolled_by, view_of
from vexel.core.document.rig_spec import StillSpec
from vexel.core.document.shot import Shot
from vexel.core.evaluate.rigs.around import centre_of, converted_around, focal_of, path_around, step_back
from vexel.core.evaluate.rigs.rig import Rig, RigPath, SaveView, Tracks
from vexel.core.evaluate.source_facts import Subject
from vexel.core.finding import Fix

Array = NDArray[np.float64]


class StillRig(Rig[StillSpec]):
    """A static camera."""

    keeps_distance = True

    def sample(self, shot: Shot, subject: Subject, phases: Array, tracks: Tracks) -> tuple[CameraPath, Array]:
        """See `Rig.sample`."""
        spec, focal = self.spec, focal_of(self, phases, tracks)
        if spec.position is not None:
            positions, targets = (
                np.tile(np.asarray(point, dtype=np.float64), (len(phases), 1))
                for point in (spec.position, centre_of(spec, subject))
            )
            return view_of(positions, targets, rolled(targets - positions, spec.roll_deg)), focal
        path = path_around(shot, self, subject, np.zeros_like(phases), tracks, focal)
        return (path if spec.roll_deg == 0 else rolled_by(path, spec.roll_deg)), focal

    @property
    def fill(self) -> float | None:
        """See `Rig.fill`."""
        return None if self.spec.distance or self.spec.position else self.spec.fill

    def step_back(self) -> tuple[Fix, ...]:
        """See `Rig.step_back`."""
        return step_back({"position": None})

    @classmethod
    def converted(cls, path: RigPath, frame: int, save_view: SaveView) -> dict[str, Any]:
        """See `Rig.converted`."""
        return converted_around(path, "still", frame, frame)
