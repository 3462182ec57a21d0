"""What is off with a camera on a path: what it cuts off, where it jerks, whether its loop meets."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.camera_path import CameraPath
from vexel.core.camera.framing import Sphere, distance_to_fill
from vexel.core.camera.path_figures import PathFigures, axes_of
from vexel.core.document.rig_spec import PathSpec
from vexel.core.evaluate.rigs.rig import RigPath
from vexel.core.finding import Finding, Mend
from vexel.core.time.clock import Clock
from vexel.core.wording import counted

JERK = 0.35
"""A velocity that changes by this share of the mean speed from one frame to the next is seen as a jerk."""
SMOOTHER = 4.0
"""And by so many times as much as it usually does."""
PAN_FRAMES = 168
"""A pan across the frame in fewer frames strobes: seven seconds at 24 fps (common practice)."""
OPEN = 0.25
"""A shutter open for this share of the frame covers the steps of a pan with blur."""
ROOM = 1.02
MOST_BACK = 5.0
"""A path that would have to be this many times farther away is another path."""


def path_findings(rig: PathSpec, own: RigPath) -> list[Finding]:
    """What is off with a path."""
    sphere = own.subject.sphere
    found = [_seam(rig, own.clock, own.path, own.figures), _jerk(rig, own.path, own.figures)]
    if sphere is not None and own.shot.camera.lens.projection != "panorama":
        found += [_cut_off(rig, own, sphere), _strobes(rig, own)]
    return [finding for finding in found if finding is not None]


def _cut_off(rig: PathSpec, own: RigPath, sphere: Sphere) -> Finding | None:
    figures, path = own.figures, own.path
    cut = np.flatnonzero(figures.margins < -1e-6)
    if rig.looks != "subject" or not len(cut):
        return None
    within = np.flatnonzero(np.isneginf(figures.margins))
    what = f"the subject is cut off in {counted(len(cut), 'frame')}, {cut[0]:,} to {cut[-1]:,}"
    by = float((1 - figures.margins).max()) * ROOM
    if len(within):
        when = f"{within[0]:,} to {within[-1]:,}" if len(within) > 1 else f"{within[0]:,}"
        what += f"; in {when} the camera is inside the subject, within {sphere.radius:.3g} of its centre"
        away = np.linalg.norm(path.positions - np.asarray(sphere.centre), axis=1).min()
        by = _whole_from(sphere, own) / max(float(away), 1e-300) * ROOM
    if by > MOST_BACK:
        return Finding("subject-cut-off", what, "It will not be fully visible there.", ())
    return Finding(
        "subject-cut-off",
        what,
        "It will not be fully visible there.",
        (Mend(f"Pull back to {by:.3g} × the distance", {"camera": {"rig": {"keys": _pulled_back(rig, sphere, by)}}}),),
    )


def _whole_from(sphere: Sphere, own: RigPath) -> float:
    """From so far a sphere is seen whole in every frame."""
    picture, high = own.shot.picture, np.radians(own.camera.views_high_deg.min())
    shorter = 2 * np.degrees(np.arctan(np.tan(high / 2) * min(1.0, picture.width / picture.height)))
    return float(distance_to_fill(sphere.radius, 1.0, shorter))


def _pulled_back(rig: PathSpec, sphere: Sphere, by: float) -> list[dict[str, Any]]:
    """All keys, so many times as far from the subject's middle."""
    centre = np.asarray(sphere.centre)
    keys = []
    for key in rig.keys:
        moved_key = key.model_dump(mode="json", exclude_defaults=True)
        place = centre + by * (np.asarray(key.position) - centre)
        moved_key["position"] = [float(f"{value:.9g}") for value in place]
        keys.append(moved_key)
    return keys


def _jerk(rig: PathSpec, path: CameraPath, figures: PathFigures) -> Finding | None:
    jolts, mean = figures.jolts, float(figures.speeds.mean())
    worst = int(jolts.argmax())
    if mean <= 0 or jolts[worst] < JERK * mean or jolts[worst] < SMOOTHER * float(np.median(jolts)):
        return None
    frame = worst + 1
    apart = [float(np.linalg.norm(path.positions[frame] - np.asarray(key.position))) for key in rig.keys]
    mends = []
    if rig.curve == "straight":
        mends.append(Mend("Smooth the corners", {"camera": {"rig": {"curve": "smooth"}}}))
    if rig.pace == "keys":
        mends.append(Mend("Keep a constant speed", {"camera": {"rig": {"pace": "even"}}}))
    return Finding(
        "camera-jerks",
        f"the camera jerks at key {int(np.argmin(apart)) + 1}, frame {frame:,}: its speed changes by "
        f"{jolts[worst] / mean:.0%} of the mean from one frame to the next",
        "It will be visible as a jolt.",
        tuple(mends),
    )


def _seam(rig: PathSpec, clock: Clock, path: CameraPath, figures: PathFigures) -> Finding | None:
    """Whether the frame after the last would go on to the first: in position, direction and speed."""
    if clock.span != "loop" or clock.selection.count(clock.motion) != clock.motion:
        return None
    gap = float(np.linalg.norm(path.positions[0] - path.positions[-1]))
    step = float(figures.speeds.max())
    forward, _, _ = axes_of(path)
    turn = float(np.degrees(np.arccos(np.clip(forward[0] @ forward[-1], -1, 1))))
    mends = [Mend("Play it once, with both ends", {"clock": {"span": "ends"}})]
    if gap > 1.5 * step:
        if not rig.closed and len(rig.keys) > 2:
            mends.insert(0, Mend("Close the path", {"camera": {"rig": {"closed": True}}}))
        what = f"the camera ends {gap:.3g} away from where it began, {turn:.3g}° turned"
        return Finding("path-does-not-close", what, "The loop will jump at its seam.", tuple(mends))
    over = _velocities(path.positions)
    change = float(np.linalg.norm(over[0] - over[-1]))
    if change > JERK * float(figures.speeds.mean()) and change > SMOOTHER * float(np.median(figures.jolts)):
        what = f"the loop closes, but its speed changes by {change / figures.speeds.mean():.0%} of the mean there"
        return Finding("path-does-not-close", what, "It will be visible as a jolt once per turn.", tuple(mends))
    return None


def _velocities(positions: NDArray[np.float64]) -> NDArray[np.float64]:
    """Steps from the last frame to the first, and from the one before it to the last."""
    return np.stack([positions[0] - positions[-1], positions[-1] - positions[-2]])


def _strobes(rig: PathSpec, own: RigPath) -> Finding | None:
    clock, width, figures = own.clock, own.shot.picture.width, own.figures
    fastest = int(figures.edge_px.argmax())
    pixels, most = float(figures.edge_px[fastest]), width / PAN_FRAMES
    if pixels <= most or clock.shutter.opening >= OPEN or rig.looks == "subject":
        return None
    blur: dict[str, Any] = {"clock": {"shutter": "180°"}, "picture": {"samples": max(own.shot.picture.samples, 16)}}
    longer = int(np.ceil(clock.motion * pixels / most))
    mends = [Mend("Open the shutter to 180°, 16 samples", blur)]
    if longer <= 20 * clock.motion:
        mends.append(Mend(f"Use {longer:,} frames", {"clock": {"frames": longer, "seconds": None}}))
    return Finding(
        "pan-strobes",
        f"the view pans by {pixels:.3g} pixels per frame at frame {fastest:,}; more than {most:.3g} strobes",
        "Passing objects will appear doubled.",
        tuple(mends),
    )
