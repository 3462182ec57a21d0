"""How near a camera comes to the surfaces of its subject."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vexel.core.evaluate.plan import Plan
from vexel.core.evaluate.rig_path import rig_path_of
from vexel.core.evaluate.rigs import rig_of
from vexel.core.evaluate.source_facts import Moment, Point
from vexel.core.finding import Finding

PLACES = 1000
"""Greatest number of places at which the way is tested; stretches between them are tested too."""
CHANGES = 16
"""Where the subject changes, so many: each place is another one to be built."""
STEPS = 12
"""Greatest number of straight lines that approximate the way between two of these places."""
CLOSE = 0.02
"""Nearer than this share of the subject's radius, surfaces are cut open by the picture's near plane or fill it."""


@dataclass(frozen=True)
class Clearance:
    """What was measured at some frames of a shot.

    Attributes
    ----------
    frames : tuple of int
    distances : tuple of float
        To the nearest surface, in the source's units.
    crossed : tuple of bool
        Whether the way from the place before leads through a surface.
    begins_inside : bool
        Whether the first place is inside a closed surface.
    """

    frames: tuple[int, ...]
    distances: tuple[float, ...]
    crossed: tuple[bool, ...]
    begins_inside: bool


def places_to_measure(plan: Plan) -> list[tuple[int, Moment, list[Point]]]:
    """Frames, what the source shows there, and the camera's way there from the place before.

    None for a camera that stands or goes round outside its subject.
    """
    path, sphere = plan.sampled.path, plan.inputs.subject.sphere
    if path is None or sphere is None:
        return []
    away = np.linalg.norm(path.positions - np.asarray(sphere.centre), axis=1)
    if rig_of(plan.shot.camera).keeps_distance and away.min() > sphere.radius * (1 + CLOSE):
        return []
    facts = plan.inputs.facts
    changes = bool(facts.time_inputs) or any(np.ptp(values) > 0 for values in plan.sampled.motion.dials.values())
    count = min(plan.clock.frames, CHANGES if changes else PLACES)
    frames = np.unique(np.linspace(0, plan.clock.frames - 1, count).round()).astype(int).tolist()
    places, before = [], frames[0]
    for frame in frames:
        look = plan.frame_spec(frame).shutter_samples[0]
        way = np.unique(np.linspace(before, frame, STEPS + 1).round()).astype(int)
        places.append((frame, (look.dials, look.time_inputs), [_point(place) for place in path.positions[way]]))
        before = frame
    return places


def _point(place: NDArray[np.float64]) -> Point:
    x, y, z = place.tolist()
    return x, y, z


def clearance_findings(plan: Plan, near: Clearance | None) -> list[Finding]:
    """A camera that goes through a surface, is inside one, or all but touches one."""
    sphere = plan.inputs.subject.sphere
    if near is None or sphere is None or not near.frames:
        return []
    rig, count = rig_of(plan.shot.camera), plan.clock.frames
    of_all = "" if len(near.frames) == count else f" ({len(near.frames):,} of {count:,} frames were measured)"
    crossed = [n for n, through in enumerate(near.crossed) if through]
    if crossed:
        first = crossed[0]
        begin, end = near.frames[max(first - 1, 0)], near.frames[first]
        again = len(crossed) - 1
        more = "" if again == 0 else ", and once more" if again == 1 else f", and {again} times more"
        return [
            Finding(
                "camera-through-surface",
                f"The camera passes through a surface between frames {begin:,} and {end:,}{more}{of_all}",
                "For an instant the subject is seen from inside.",
                rig.detour(rig_path_of(plan), begin, end) or rig.step_back(),
            )
        ]
    if near.begins_inside and rig.keeps_distance and plan.shot.camera.lens.projection != "panorama":
        what = "The camera is inside a closed surface"
        return [Finding("camera-inside", what, "The subject is seen from within.", rig.step_back())]
    least = int(np.argmin(near.distances))
    if near.distances[least] >= CLOSE * sphere.radius:
        return []
    return [
        Finding(
            "camera-close-to-surface",
            f"The camera comes within {near.distances[least]:.3g} of a surface at frame {near.frames[least]:,}{of_all}",
            "It may be cut open there, or fill the picture.",
            rig.step_back(),
        )
    ]
