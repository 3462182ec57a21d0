"""What every rig offers: where it takes the camera, what is off with that, and how another rig becomes it."""

from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.camera_path import CameraPath
from vexel.core.camera.path_figures import PathFigures
from vexel.core.document.camera_spec import CameraSpec
from vexel.core.document.rig_spec import RigSpec
from vexel.core.document.shot import Shot
from vexel.core.evaluate.rigs.view_progress import ViewProgress
from vexel.core.evaluate.sampled_camera import SampledCamera
from vexel.core.evaluate.source_facts import Point, Subject
from vexel.core.finding import Finding, Fix
from vexel.core.time.clock import Clock

Array = NDArray[np.float64]
Tracks = Mapping[str, Array]
"""Values of lanes, each of shape (M,), by what they drive."""
SaveView = Callable[[int, str], dict[str, Any]]
"""Makes a saved view of a shown frame, with a name."""
UPRIGHT: Point = (0.0, 0.0, 1.0)
S = TypeVar("S", bound=RigSpec)


@dataclass(frozen=True)
class Turns:
    """Degrees that each has turned, counter-clockwise seen from above, shape (M,)."""

    camera: Array
    subject: Array
    light: Array


@dataclass(frozen=True)
class RigPath:
    """The shot's own camera in all shown frames.

    Attributes
    ----------
    shot : Shot
    clock : Clock
    subject : Subject
        Seen by the camera, so that its sphere is known.
    camera : SampledCamera
    figures : PathFigures
    """

    shot: Shot
    clock: Clock
    subject: Subject
    camera: SampledCamera
    figures: PathFigures

    @property
    def path(self) -> CameraPath:
        """Positions, targets and ups."""
        return self.camera.path


class Rig(ABC, Generic[S]):
    """A rig of a camera, one class for each kind; what a class does not override, its rig does not do.

    Parameters
    ----------
    camera : CameraSpec
        With a rig of this kind.
    spec : RigSpec
        That rig.
    """

    def __init__(self, camera: CameraSpec, spec: S) -> None:
        self.camera, self.spec = camera, spec

    @abstractmethod
    def sample(self, shot: Shot, subject: Subject, phases: Array, tracks: Tracks) -> tuple[CameraPath, Array]:
        """Where the camera is at phases of the shot, shape (M,), and its focal length in mm, shape (M,)."""

    def lean(self, shot: Shot, phases: Array) -> Array | None:
        """Degrees that the camera rolls clockwise beside what `sample` gives, shape (M,); None where it never does.

        Parameters
        ----------
        shot : Shot
        phases : ndarray, shape (M,)
            Before the easing of the shot as a whole.
        """
        return None

    def turns(self, phases: Array) -> Turns:
        """How far camera, subject and light have turned."""
        none = np.zeros_like(phases)
        return Turns(none, none, none)

    def turning_axis(self, subject: Subject) -> tuple[Point, Point]:
        """A point of the axis that the subject turns about, and its direction."""
        assert subject.sphere is not None
        return subject.sphere.centre, UPRIGHT

    def progress(self, clock: Clock, phases: Array) -> ViewProgress | None:
        """Progress of the camera between saved views; None for a rig without views."""
        return None

    @property
    def fill(self) -> float | None:
        """Share of the frame that the subject takes, where its distance follows from that; else None."""
        return None

    def marks(self, path: RigPath) -> tuple[list[Point], list[int]]:
        """Places that the document names, and the shown frames at which the camera is there."""
        return [], []

    def findings(self, path: RigPath) -> list[Finding]:
        """What is off with how the camera moves."""
        return []

    @property
    def keeps_distance(self) -> bool:
        """Whether the camera stays outside its subject as long as it stands far enough off."""
        return False

    def step_back(self) -> tuple[Fix, ...]:
        """Fixes of a camera that is too near."""
        return ()

    def detour(self, path: RigPath, begin: int, end: int) -> tuple[Fix, ...]:
        """Fixes of a camera that goes through a surface between two frames."""
        return ()

    @classmethod
    @abstractmethod
    def converted(cls, path: RigPath, frame: int, save_view: SaveView) -> dict[str, Any]:
        """The camera of a document with a rig of this kind, beginning from how it moves now.

        Parameters
        ----------
        path : RigPath
        frame : int
            Whose view a camera that stands takes.
        save_view : callable
        """
