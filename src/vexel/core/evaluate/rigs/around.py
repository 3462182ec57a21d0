"""What a static camera and a turntable share: a place about a centre, by azimuth, elevation and distance or fill."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.camera_path import CameraPath, orbit
from vexel.core.camera.framing import distance_to_fill
from vexel.core.document.rig_spec import OrbitSpec, StillSpec
from vexel.core.document.shot import Shot
from vexel.core.evaluate.rigs.rig import UPRIGHT, Rig, RigPath, Tracks
from vexel.core.evaluate.sampled_camera import views_deg
from vexel.core.evaluate.source_facts import Point, Subject
from vexel.core.finding import Fix
from vexel.core.short_number import short

Array = NDArray[np.float64]
FILL_AGAIN = 0.8
"""Share of the frame that a camera steps back to."""


def centre_of(rig: StillSpec | OrbitSpec, subject: Subject) -> Point:
    """The point that a rig looks at, or circles."""
    assert subject.sphere is not None
    if rig.centre == "centroid":
        return subject.centroid or subject.sphere.centre
    return rig.centre or subject.sphere.centre


def path_around(
    shot: Shot,
    rig: Rig[StillSpec] | Rig[OrbitSpec],
    subject: Subject,
    turned_deg: Array,
    tracks: Tracks,
    focal: Array,
    axis: Point = UPRIGHT,
) -> CameraPath:
    """A camera about its centre, turned by `degrees`, shape (M,)."""
    assert subject.sphere is not None
    spec = rig.spec
    fill = tracks.get("rig:fill", np.full_like(turned_deg, spec.fill))
    shorter = np.minimum(*views_deg(shot, rig.camera, focal))
    off = distance_to_fill(subject.sphere.radius, fill, shorter) if spec.distance is None else spec.distance
    return orbit(
        spec.start_deg + tracks.get("rig:azimuth", np.zeros_like(turned_deg)) + turned_deg,
        elevation_deg=tracks.get("rig:elevation", np.full_like(turned_deg, spec.elevation_deg)),
        centre=centre_of(spec, subject),
        distance=off * tracks.get("rig:distance", np.ones_like(turned_deg)),
        axis=axis,
    )


def focal_of(rig: Rig[Any], phases: Array, tracks: Tracks) -> Array:
    """Focal lengths of the lens, as a lane drives them."""
    return tracks.get("lens:focal", np.full_like(phases, rig.camera.lens.focal_mm))


def converted_around(path: RigPath, kind: str, azimuth_frame: int, frame: int) -> dict[str, Any]:
    """The rig of a camera about its centre that begins where another one is."""
    rig: dict[str, Any] = {
        "kind": kind,
        "elevation_deg": short(np.clip(path.path.elevations_deg[frame], -90, 90)),
        "start_deg": short((path.path.azimuths_deg[azimuth_frame] + 180) % 360 - 180),
    }
    before = path.shot.camera.rig
    kept = {name: getattr(before, name) for name in ("fill", "centre", "distance") if hasattr(before, name)}
    centre = kept.get("centre")
    return {"rig": rig | kept | ({"centre": list(centre)} if isinstance(centre, tuple) else {})}


def step_back(patch: dict[str, Any]) -> tuple[Fix, ...]:
    """The fix that frames the subject again."""
    rig = {"fill": FILL_AGAIN, "distance": None} | patch
    return (Fix("Move back until it fills 80 % of the frame", {"camera": {"rig": rig}}),)
