"""From a shot and facts of its source to the recipe of every frame."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import TypeAdapter, ValidationError

from vexel.core.clock import Clock, Instant
from vexel.core.dial import Dial, check_values
from vexel.core.errors import Mistake
from vexel.core.framing import Sphere, clipping, distance_to_fill
from vexel.core.lens import field_of_view_deg
from vexel.core.motion import RIG_BOUNDS, keys_of, lane_tracks, shot_phases
from vexel.core.pace import Pace
from vexel.core.recipe import CameraPose, FrameRecipe, Seen, SourceIdentity, steady
from vexel.core.rig import CameraPath, orbit
from vexel.core.shot import Shot
from vexel.core.slots import Slots
from vexel.core.source_plan import SimulationSource

MEASURED_STRETCHES = 8
"""A changing subject is measured at the ends of this many equal stretches of the shot, and at every key."""


MEASURED_TIMES = 32
"""And so many more stretches, where a lane does not simply run through its keys."""
MEASURED_SLICES = 2000
"""Data of no more frames than this is measured in all of them, so that its colours hold for all."""


@dataclass(frozen=True)
class SourceFacts:
    """What a source says of itself.

    Attributes
    ----------
    dials : tuple of Dial
    sees : tuple of str
        Which attributes of the `Instant` it looks at, or ``slot``; none if dials are all.
    pictures : bool
        Whether it gives pictures only, so that nothing is to be measured.
    slots : Slots or None
        The pictures that it has, where they are fixed beforehand.
    walks : bool
        Whether each frame is reached through those before it, so that one
        process does best with frames that follow each other.
    settings : tuple of str
        Dials that decide the whole course, so that no lane may drive them.
    step : str
        Inner step of a simulation in simulated seconds, as exact text; else empty.
    size : (int, int) or None
        Width and height of its pictures, where they are fixed beforehand.
    about : tuple of (str, str)
        What it is, for people: names and values.
    findings : tuple of str
        What is odd about it, a sentence each.
    """

    dials: tuple[Dial, ...] = ()
    sees: tuple[str, ...] = ()
    pictures: bool = False
    slots: Slots | None = None
    walks: bool = False
    settings: tuple[str, ...] = ()
    step: str = ""
    size: tuple[int, int] | None = None
    about: tuple[tuple[str, str], ...] = ()
    findings: tuple[str, ...] = ()


@dataclass(frozen=True)
class SourceAt:
    """How a stage opens a source: its kind, its main file, and options of the shot document."""

    kind: str
    file: Path
    options: Mapping[str, Any] = field(default_factory=dict)
    digest: str = ""


Tracks = Mapping[str, NDArray[np.float64]]
"""Values of lanes for all frames, each of shape (N,), by what they drive."""
Moment = tuple[dict[str, float], Seen]
"""Dials and what is seen of the instant, at which a subject is measured."""


@dataclass(frozen=True)
class Subject:
    """What stands before the camera, measured over the whole shot.

    Attributes
    ----------
    sphere : Sphere or None
        Holds the subject in all measured frames, so that the camera keeps still
        while the subject grows. None where the source gives pictures, which no
        camera looks at.
    ranges : mapping of str to (low, high)
        Range of each coloured quantity over the measured frames.
    """

    sphere: Sphere | None
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
    def loads(text: str) -> "Basis | None":
        """From the text that `dumps` gave; None when another version of Vexel wrote it."""
        try:
            return _BASIS.validate_json(text)
        except ValidationError:
            return None


_BASIS = TypeAdapter(Basis)


@dataclass(frozen=True)
class Plan:
    """A shot worked out: clock, camera and dials for all frames as arrays.

    Attributes
    ----------
    path : CameraPath or None
        None where no camera looks.
    dials : mapping of str to ndarray, shape (N,)
    views_high_deg : ndarray, shape (N,)
        Vertical field of view.
    """

    shot: Shot
    clock: Clock
    basis: Basis
    path: CameraPath | None
    dials: Mapping[str, NDArray[np.float64]]
    views_high_deg: NDArray[np.float64]

    def recipe(self, frame: int) -> FrameRecipe:
        """The recipe of one frame."""
        picture = self.shot.picture
        return FrameRecipe(
            engine=self.basis.engine,
            source=self.basis.source,
            dials={name: steady(values[frame]) for name, values in self.dials.items()},
            seen=seen(self.shot, self.clock.instant(frame), self.basis.facts),
            camera=self._pose(frame),
            width=picture.width,
            height=picture.height,
            samples=picture.samples,
            layout=picture.laid_out,
            render_pass=picture.passes[0],
            background=picture.background,
            ranges={name: (steady(a), steady(b)) for name, (a, b) in self.basis.subject.ranges.items()},
        )

    def _pose(self, frame: int) -> CameraPose | None:
        path, sphere = self.path, self.basis.subject.sphere
        if path is None or sphere is None:
            return None
        # The clipping planes hold the subject, even when the camera goes round another point.
        gap = path.positions[frame] - np.asarray(sphere.centre)
        near, far = clipping(float(np.linalg.norm(gap)), sphere.radius)
        return CameraPose(
            position=_triple(path.positions[frame]),
            target=_triple(path.targets[frame]),
            up=_triple(path.ups[frame]),
            view_high_deg=steady(self.views_high_deg[frame]),
            near=steady(near),
            far=steady(far),
        )


def make_plan(shot: Shot, basis: Basis) -> Plan:
    """Work out all frames of a shot.

    Raises
    ------
    Mistake
        When the shot sets or drives a dial that the source does not have.
    """
    clock, sphere = shot.clock.clock(), basis.subject.sphere
    phases = clock.phases()
    tracks = lane_tracks(shot, phases)
    check_drives(shot, tracks, sphere is not None)
    wide, high = _views(shot, tracks, phases)
    path = None if sphere is None else _camera_path(shot, sphere, shot_phases(shot, phases), tracks, (wide, high))
    return Plan(shot, clock, basis, path, _dials(shot, basis.facts, tracks, phases), high)


def _views(shot: Shot, tracks: Tracks, phases: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Horizontal and vertical field of view in degrees, shape (N,) each."""
    lens = shot.camera.lens.lens()
    focal = tracks.get("lens:focal", np.full_like(phases, lens.focal_mm))
    wide, high = lens.used_sensor_mm(shot.picture.width, shot.picture.height)
    return field_of_view_deg(wide, focal), field_of_view_deg(high, focal)


def _camera_path(
    shot: Shot,
    sphere: Sphere,
    run: NDArray[np.float64],
    tracks: Tracks,
    views: tuple[NDArray[np.float64], NDArray[np.float64]],
) -> CameraPath:
    rig = shot.camera.rig
    fill = tracks.get("rig:fill", np.full_like(run, rig.fill))
    return orbit(
        run,
        turns=rig.turns,
        direction=rig.direction,
        start_deg=rig.start_deg + tracks.get("rig:azimuth", np.zeros_like(run)),
        elevation_deg=tracks.get("rig:elevation", np.full_like(run, rig.elevation_deg)),
        centre=rig.centre or sphere.centre,
        distance=distance_to_fill(sphere.radius, fill, np.minimum(*views)) * tracks.get("rig:distance", 1.0),
    )


def check_drives(shot: Shot, tracks: Tracks, camera: bool) -> None:
    """Refuse lanes that take the camera where it cannot go, or that drive it where none looks.

    Raises
    ------
    Mistake
        Naming the lane.
    """
    for number, lane in enumerate(shot.lanes):
        if lane.drive not in RIG_BOUNDS:
            continue
        if not camera:
            raise Mistake(
                f"lanes[{number}]: {lane.drive} moves the camera, but this {shot.source.kind} gives pictures, "
                "which no camera looks at: leave it out"
            )
        (low, high), values = RIG_BOUNDS[lane.drive], tracks[lane.drive]
        least, most = float(values.min()), float(values.max())
        if least < low or most > high:
            raise Mistake(f"lanes[{number}]: {lane.drive} goes from {least:g} to {most:g}, outside {low:g} to {high:g}")


def dial_values(shot: Shot, facts: SourceFacts, phases: NDArray[np.float64]) -> dict[str, NDArray[np.float64]]:
    """Value of every dial at given phases of the shot, each of shape (N,)."""
    return _dials(shot, facts, lane_tracks(shot, phases), phases)


def _dials(
    shot: Shot, facts: SourceFacts, tracks: Tracks, phases: NDArray[np.float64]
) -> dict[str, NDArray[np.float64]]:
    known = {dial.name: dial for dial in facts.dials}
    values = {name: np.full_like(phases, dial.default) for name, dial in known.items()}
    for name, value in getattr(shot.source, "dials", {}).items():
        check_values(known, name, [value], f"source.dials.{name}")
        values[name] = np.full_like(phases, value)
    for number, lane in enumerate(shot.lanes):
        if not lane.dial:
            continue
        check_values(known, lane.dial, (key[1] for key in lane.keys), f"lanes[{number}]")
        if lane.dial in facts.settings:
            kind = shot.source.kind
            raise Mistake(
                f"lanes[{number}]: {lane.dial} decides the whole course of the {kind}, so no lane may drive it: "
                f"set it in source.dials{', or let show() take it' if kind == 'simulation' else ''}"
            )
        dial = known[lane.dial]
        # An easing may swing past its keys, and a lane that follows may go anywhere: the dial stops them.
        values[lane.dial] = np.clip(tracks[lane.drive], dial.low, dial.high)
    return values


def measured_frames(shot: Shot, facts: SourceFacts) -> list[int]:
    """Frames at which the subject is measured: one if it never changes."""
    if not shot.lanes and not facts.sees:
        return [0]
    clock = shot.clock.clock()
    if facts.slots is not None and clock.frames <= MEASURED_SLICES:
        return list(range(clock.frames))
    marks = {i / MEASURED_STRETCHES for i in range(MEASURED_STRETCHES + 1)}
    marks.update(min(max(key.at, 0), 1) for lane in shot.lanes for key in keys_of(lane, clock))
    plain = all(lane.repeat == 1 and not lane.back and not lane.offset and lane.within == (0, 1) for lane in shot.lanes)
    if not plain or shot.ease != "linear":
        marks.update(i / MEASURED_TIMES for i in range(MEASURED_TIMES))
    frames = clock.picks.frames_of(clock.motion)
    nearest = np.searchsorted(frames, [min(round(phase * clock.steps), clock.motion - 1) for phase in marks])
    return sorted({min(int(frame), clock.frames - 1) for frame in nearest})


def pace_of(shot: Shot, facts: SourceFacts) -> Pace | None:
    """How a simulation's steps stand to the shot's frames; None for any other kind."""
    if not isinstance(shot.source, SimulationSource):
        return None
    pace = Fraction(repr(shot.source.pace))
    return Pace(Fraction(facts.step), pace, shot.clock.clock().rate.fps, shot.source.warm_up)


def seen(shot: Shot, instant: Instant, facts: SourceFacts) -> Seen:
    """What a source sees of an instant, as a recipe carries it."""
    pace = pace_of(shot, facts)
    if pace is not None:
        return {"step": pace.step_of(instant.frame)}
    values = {name: getattr(instant, name) for name in facts.sees if name != "slot"}
    if "phase" in values and shot.ease != "linear":
        values["phase"] = Fraction(repr(steady(shot_phases(shot, np.array([float(instant.phase)]))[0])))
    seen: Seen = {name: value if isinstance(value, int) else str(value) for name, value in values.items()}
    if facts.slots is not None:
        slot, part = facts.slots.at(instant.frame, instant.seconds)
        seen |= {"slot": slot, "stamp": facts.slots.stamp(slot)}
        if facts.slots.mixed and part:
            seen |= {"part": str(part), "stamp": f"{facts.slots.stamp(slot)}|{facts.slots.stamp(slot + 1)}"}
    return seen


def _triple(values: NDArray[np.float64]) -> tuple[float, float, float]:
    x, y, z = (steady(v) for v in values)
    return x, y, z
