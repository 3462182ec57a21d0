"""From a shot and facts of its source to the recipe of every frame."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from pydantic import TypeAdapter

from vexel.core.clock import Clock, Instant
from vexel.core.dial import Dial, check_values
from vexel.core.framing import Sphere, clipping, distance_to_fill
from vexel.core.lane import lane_values
from vexel.core.recipe import CameraPose, FrameRecipe, InstantGiven, SourceIdentity, steady
from vexel.core.rig import CameraPath, orbit
from vexel.core.shot import ModelSource, Shot

SourceAt = tuple[str, Path, str]
"""Kind, main file and up axis: how a stage opens a source."""
MEASURED_STRETCHES = 8
"""A changing subject is measured at the ends of this many equal stretches of the shot, and at every key."""


@dataclass(frozen=True)
class SourceFacts:
    """What a source says of itself.

    Attributes
    ----------
    dials : tuple of Dial
    takes_instant : bool
        Whether its code looks at the instant, not at dials alone.
    """

    dials: tuple[Dial, ...] = ()
    takes_instant: bool = False


@dataclass(frozen=True)
class Subject:
    """What stands before the camera, measured over the whole shot.

    Attributes
    ----------
    sphere : Sphere
        Holds the subject in all measured frames, so that the camera keeps still
        while the subject grows.
    ranges : mapping of str to (low, high)
        Range of each coloured quantity over the measured frames.
    """

    sphere: Sphere
    ranges: Mapping[str, tuple[float, float]] = field(default_factory=dict)


@dataclass(frozen=True)
class Basis:
    """What a plan rests on beside the shot: the stage's version, and the source as it was measured."""

    engine: str
    source: SourceIdentity
    facts: SourceFacts
    subject: Subject

    def dumps(self) -> str:
        """As JSON text."""
        return _BASIS.dump_json(self).decode()

    @staticmethod
    def loads(text: str) -> "Basis":
        """From the text that `dumps` gave."""
        return _BASIS.validate_json(text)


_BASIS = TypeAdapter(Basis)


@dataclass(frozen=True)
class Plan:
    """A shot worked out: clock, camera and dials for all frames as arrays.

    Attributes
    ----------
    dials : mapping of str to ndarray, shape (N,)
    """

    shot: Shot
    clock: Clock
    basis: Basis
    path: CameraPath
    distance: float
    dials: Mapping[str, NDArray[np.float64]]

    def recipe(self, frame: int) -> FrameRecipe:
        """The recipe of one frame."""
        picture = self.shot.picture
        # The clipping planes hold the subject, even when the camera goes round another point.
        gap = self.path.positions[frame] - np.asarray(self.basis.subject.sphere.centre)
        near, far = clipping(float(np.linalg.norm(gap)), self.basis.subject.sphere.radius)
        return FrameRecipe(
            engine=self.basis.engine,
            source=self.basis.source,
            dials={name: steady(values[frame]) for name, values in self.dials.items()},
            instant=given(self.clock.instant(frame)) if self.basis.facts.takes_instant else None,
            camera=CameraPose(
                position=_triple(self.path.positions[frame]),
                target=_triple(self.path.targets[frame]),
                up=_triple(self.path.ups[frame]),
                view_high_deg=steady(self.shot.camera.lens.lens().view_deg(picture.width, picture.height)[1]),
                near=steady(near),
                far=steady(far),
            ),
            width=picture.width,
            height=picture.height,
            samples=picture.samples,
            render_pass=picture.passes[0],
            background=picture.background,
            ranges={name: (steady(a), steady(b)) for name, (a, b) in self.basis.subject.ranges.items()},
        )


def make_plan(shot: Shot, basis: Basis) -> Plan:
    """Work out all frames of a shot.

    Raises
    ------
    Mistake
        When the shot sets or drives a dial that the source does not have.
    """
    clock, subject = shot.clock.clock(), basis.subject
    picture, rig = shot.picture, shot.camera.rig
    wide, high, _ = shot.camera.lens.lens().view_deg(picture.width, picture.height)
    distance = distance_to_fill(subject.sphere.radius, rig.fill, min(wide, high))
    path = orbit(
        clock.phases(),
        turns=rig.turns,
        direction=rig.direction,
        start_deg=rig.start_deg,
        elevation_deg=rig.elevation_deg,
        centre=rig.centre or subject.sphere.centre,
        distance=distance,
    )
    return Plan(shot, clock, basis, path, distance, dial_values(shot, basis.facts, clock.phases()))


def dial_values(shot: Shot, facts: SourceFacts, phases: NDArray[np.float64]) -> dict[str, NDArray[np.float64]]:
    """Value of every dial at given phases, each of shape (N,)."""
    known = {dial.name: dial for dial in facts.dials}
    values = {name: np.full_like(phases, dial.default) for name, dial in known.items()}
    if isinstance(shot.source, ModelSource):
        for name, value in shot.source.dials.items():
            check_values(known, name, [value], f"source.dials.{name}")
            values[name] = np.full_like(phases, value)
    for number, lane in enumerate(shot.lanes):
        check_values(known, lane.dial, (value for _, value in lane.keys), f"lanes[{number}]")
        values[lane.dial] = lane_values(lane.keys, lane.ease, phases)
    return values


def measured_frames(shot: Shot, facts: SourceFacts) -> list[int]:
    """Frames at which the subject is measured: one if it never changes."""
    if not shot.lanes and not facts.takes_instant:
        return [0]
    clock = shot.clock.clock()
    marks = {i / MEASURED_STRETCHES for i in range(MEASURED_STRETCHES + 1)}
    marks.update(phase for lane in shot.lanes for phase, _ in lane.keys)
    return sorted({min(round(phase * clock.steps), clock.frames - 1) for phase in marks})


def given(instant: Instant) -> InstantGiven:
    """The instant as a recipe carries it."""
    return InstantGiven(instant.frame, instant.count, str(instant.seconds), str(instant.phase), str(instant.rate))


def _triple(values: NDArray[np.float64]) -> tuple[float, float, float]:
    x, y, z = (steady(v) for v in values)
    return x, y, z
