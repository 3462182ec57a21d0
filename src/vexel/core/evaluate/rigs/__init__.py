"""Rigs: one class for each kind, and the registry that finds it."""

from typing import Any

from vexel.core.document.camera_spec import CameraSpec
from vexel.core.document.rig_spec import OrbitSpec, PathSpec, RigSpec, StillSpec
from vexel.core.document.stops_spec import StopsSpec
from vexel.core.evaluate.rigs.orbit import OrbitRig
from vexel.core.evaluate.rigs.path import PathRig
from vexel.core.evaluate.rigs.rig import Rig, RigPath
from vexel.core.evaluate.rigs.still import StillRig
from vexel.core.evaluate.rigs.stops import StopsRig

RIGS: dict[type[RigSpec], type[Rig[Any]]] = {
    StillSpec: StillRig,
    OrbitSpec: OrbitRig,
    PathSpec: PathRig,
    StopsSpec: StopsRig,
}
"""Each kind's class by its part of the document."""


def rig_of(camera: CameraSpec) -> Rig[Any]:
    """The rig of a camera."""
    return RIGS[type(camera.rig)](camera, camera.rig)


__all__ = ["RIGS", "Rig", "RigPath", "rig_of"]
