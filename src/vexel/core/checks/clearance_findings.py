"""How near a camera comes to the surfaces of its subject."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from vexel.core.document.rig_spec import OrbitSpec, PathSpec, StillSpec
from vexel.core.edits.save_view import short
from vexel.core.evaluate.plan import Plan
from vexel.core.evaluate.source_facts import Moment, Point
from vexel.core.finding import Finding, Mend

PLACES = 160
"""The way is looked at in so many places, and along the way between them."""
CHANGES = 16
"""Where the subject changes, so many: each place is another one to be built."""
STEPS = 12
"""The way from one of these places to the next is taken as so many straight lines at most."""
DETOUR = 1.5
"""A key that leads round the subject stands so many radii from its middle."""
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
    path, sphere = plan.sampled.path, plan.basis.subject.sphere
    if path is None or sphere is None:
        return []
    away = np.linalg.norm(path.positions - np.asarray(sphere.centre), axis=1)
    if _stands_or_turns(plan) and away.min() > sphere.radius * (1 + CLOSE):
        return []
    facts = plan.basis.facts
    changes = bool(facts.sees) or any(np.ptp(values) > 0 for values in plan.sampled.dials.values())
    count = min(plan.clock.frames, CHANGES if changes else PLACES)
    frames = np.unique(np.linspace(0, plan.clock.frames - 1, count).round()).astype(int).tolist()
    places, before = [], frames[0]
    for frame in frames:
        look = plan.recipe(frame).looks[0]
        way = np.unique(np.linspace(before, frame, STEPS + 1).round()).astype(int)
        places.append((frame, (look.dials, look.seen), [_point(place) for place in path.positions[way]]))
        before = frame
    return places


def _point(place: NDArray[np.float64]) -> Point:
    x, y, z = place.tolist()
    return x, y, z


def clearance_findings(plan: Plan, near: Clearance | None) -> list[Finding]:
    """A camera that goes through a surface, is inside one, or all but touches one."""
    sphere = plan.basis.subject.sphere
    if near is None or sphere is None or not near.frames:
        return []
    crossed = [n for n, through in enumerate(near.crossed) if through]
    if crossed:
        first = crossed[0]
        begin, end = near.frames[max(first - 1, 0)], near.frames[first]
        again = len(crossed) - 1
        more = "" if again == 0 else ", and once more" if again == 1 else f", and {again} times more"
        return [
            Finding(
                "camera-through-surface",
                f"the camera goes through a surface between frames {begin:,} and {end:,}{more}",
                "For an instant the subject is seen from inside.",
                _round_it(plan, near, first) or _farther_off(plan),
            )
        ]
    if near.begins_inside and _stands_or_turns(plan) and plan.shot.camera.lens.projection != "panorama":
        what = "the camera is inside a closed surface"
        return [Finding("camera-inside", what, "The subject is seen from within.", _farther_off(plan))]
    least = int(np.argmin(near.distances))
    if near.distances[least] >= CLOSE * sphere.radius:
        return []
    return [
        Finding(
            "camera-close-to-surface",
            f"the camera comes within {near.distances[least]:.3g} of a surface at frame {near.frames[least]:,}",
            "It may be cut open there, or fill the picture.",
            _farther_off(plan),
        )
    ]


def _stands_or_turns(plan: Plan) -> bool:
    return isinstance(plan.shot.camera.rig, OrbitSpec | StillSpec)


def _farther_off(plan: Plan) -> tuple[Mend, ...]:
    """A camera that stands or goes round sees all of the subject again."""
    if not _stands_or_turns(plan):
        return ()
    back = {"fill": 0.8, "distance": None}
    if isinstance(plan.shot.camera.rig, StillSpec):
        back["position"] = None
    return (Mend("Step back until it fills 80 % of the frame", {"camera": {"rig": back}}),)


def _round_it(plan: Plan, near: Clearance, number: int) -> tuple[Mend, ...]:
    """A key more, outside the subject's sphere, where a flight between two keys outside leads through it."""
    rig, sphere, path = plan.shot.camera.rig, plan.basis.subject.sphere, plan.sampled.path
    if not isinstance(rig, PathSpec) or rig.pace != "even" or sphere is None or path is None:
        return ()
    centre = np.asarray(sphere.centre)
    way = path.positions[near.frames[max(number - 1, 0)] : near.frames[number] + 1]
    inside = way[np.linalg.norm(way - centre, axis=1).argmin()]
    keys = np.array([key.position for key in rig.keys])
    # Between the two keys for which it is the least detour.
    following = np.roll(keys, -1, axis=0)[: len(keys) if rig.closed else -1]
    begun = keys[: len(following)]
    detours = [np.linalg.norm(ends - inside, axis=1) for ends in (begun, following)]
    after = int((detours[0] + detours[1] - np.linalg.norm(following - begun, axis=1)).argmin())
    ends = np.linalg.norm(np.stack([begun[after], following[after]]) - centre, axis=1)
    if (ends <= sphere.radius).any():
        return ()
    aside = np.cross(following[after] - begun[after], [0.0, 0.0, 1.0]) + (inside - centre)
    if not np.linalg.norm(aside):
        # Straight up or down through the very middle: any side will do.
        aside = np.array([1.0, 0.0, 0.0])
    outward = aside / np.linalg.norm(aside)
    told = [key.model_dump(mode="json", exclude_defaults=True) for key in rig.keys]
    place = [short(float(value)) for value in centre + DETOUR * sphere.radius * outward]
    looks = {"look": told[after]["look"]} if "look" in told[after] else {}
    told.insert(after + 1, looks | {"position": place})
    return (Mend(f"Lead it round, by a key after key {after + 1}", {"camera": {"rig": {"keys": told}}}),)
