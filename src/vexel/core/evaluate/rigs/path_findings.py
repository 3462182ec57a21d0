"""What is off with a camera on a path: what it cuts off, where it jerks, whether its loop meets."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.camera_path import CameraPath
from vexel.core.camera.path_figures import PathFigures, axes_of
from vexel.core.camera.steady_up import FLIP, flips_deg
from vexel.core.document.rig_spec import PathSpec
from vexel.core.evaluate.rigs.rig import RigPath
from vexel.core.finding import Finding, Fix
from vexel.core.time.clock import Clock

JERK = 0.35
"""A velocity that changes by this share of the mean speed from one frame to the next is seen as a jerk."""
SMOOTHER = 4.0
"""And by this factor above its usual change."""
PAN_FRAMES = 168
"""A pan across the frame in fewer frames strobes: seven seconds at 24 fps (common practice)."""
OPEN = 0.25
"""A shutter open for this share of the frame covers the steps of a pan with blur."""


def path_findings(rig: PathSpec, own: RigPath) -> list[Finding]:
    """What is off with a path."""
    sphere = own.subject.sphere
    found = [_seam(rig, own.clock, own.path, own.figures), _jerk(rig, own.path, own.figures)]
    if sphere is not None and own.shot.camera.lens.projection != "panorama":
        found += [_strobes(rig, own)]
    return [finding for finding in found if finding is not None]


def find_flip(own: RigPath) -> tuple[int, float] | None:
    """The frame before which the picture turns about its own middle at once, and by how many degrees; None for none."""
    if len(own.path.positions) < 2:
        return None
    forward, _, up = axes_of(own.path)
    turns = flips_deg(forward, up)
    worst = int(turns.argmax())
    return (worst + 1, float(turns[worst])) if turns[worst] > FLIP else None


def _jerk(rig: PathSpec, path: CameraPath, figures: PathFigures) -> Finding | None:
    jolts, mean = figures.jolts, float(figures.speeds.mean())
    worst = int(jolts.argmax())
    if mean <= 0 or jolts[worst] < JERK * mean or jolts[worst] < SMOOTHER * float(np.median(jolts)):
        return None
    frame = worst + 1
    apart = [float(np.linalg.norm(path.positions[frame] - np.asarray(key.position))) for key in rig.keys]
    fixes = []
    if rig.curve == "straight":
        fixes.append(Fix("Smooth the corners", {"camera": {"rig": {"curve": "smooth"}}}))
    if rig.pace == "keys":
        fixes.append(Fix("Keep a constant speed", {"camera": {"rig": {"pace": "even"}}}))
    return Finding(
        "camera-jerks",
        f"The camera jerks at key {int(np.argmin(apart)) + 1}, frame {frame:,}: its speed changes by "
        f"{jolts[worst] / mean:.0%} of the mean from one frame to the next",
        "It will be visible as a jolt.",
        tuple(fixes),
    )


def _seam(rig: PathSpec, clock: Clock, path: CameraPath, figures: PathFigures) -> Finding | None:
    """Whether the frame after the last would continue as the first: in position, direction and speed."""
    if clock.span != "loop" or clock.selection.count(clock.motion) != clock.motion:
        return None
    gap = float(np.linalg.norm(path.positions[0] - path.positions[-1]))
    step = float(figures.speeds.max())
    forward, _, _ = axes_of(path)
    turn = float(np.degrees(np.arccos(np.clip(forward[0] @ forward[-1], -1, 1))))
    fixes = [Fix("Play it once, with both ends", {"clock": {"span": "ends"}})]
    if gap > 1.5 * step:
        if not rig.closed and len(rig.keys) > 2:
            fixes.insert(0, Fix("Close the path", {"camera": {"rig": {"closed": True}}}))
        what = f"The camera ends {gap:.3g} away from where it began, {turn:.3g}° turned"
        return Finding("path-does-not-close", what, "The loop will jump at its seam.", tuple(fixes))
    over = _velocities(path.positions)
    change = float(np.linalg.norm(over[0] - over[-1]))
    if change > JERK * float(figures.speeds.mean()) and change > SMOOTHER * float(np.median(figures.jolts)):
        what = f"The loop closes, but its speed changes by {change / figures.speeds.mean():.0%} of the mean there"
        return Finding("path-does-not-close", what, "It will be visible as a jolt once per turn.", tuple(fixes))
    return None


def _velocities(positions: NDArray[np.float64]) -> NDArray[np.float64]:
    """Steps from the last frame to the first, and from the one before it to the last."""
    return np.stack([positions[0] - positions[-1], positions[-1] - positions[-2]])


def _strobes(rig: PathSpec, own: RigPath) -> Finding | None:
    """A view that turns so fast that something crosses the frame in too few of them."""
    clock, picture, turns = own.clock, own.shot.picture, own.figures.turns_deg
    if own.shot.camera.lens.projection == "parallel" or clock.shutter.opening >= OPEN or rig.looks == "subject":
        return None
    half = np.tan(np.radians(own.camera.views_high_deg[:-1]) / 2) * picture.width / picture.height
    # At the edges of a wide lens things run faster than in its middle; what counts is how long they are in sight.
    crossing = 2 * np.degrees(np.arctan(half)) / np.maximum(turns, 1e-12)
    fastest = int(crossing.argmin())
    frames = float(crossing[fastest])
    if frames >= PAN_FRAMES:
        return None
    blur: dict[str, Any] = {"clock": {"shutter": "180°"}, "picture": {"samples": max(picture.samples, 16)}}
    longer = int(np.ceil(clock.motion * PAN_FRAMES / frames))
    fixes = [Fix("Open the shutter to 180°, 16 samples", blur)]
    if longer <= 20 * clock.motion:
        fixes.append(Fix(f"Use {longer:,} frames", {"clock": {"frames": longer, "seconds": None}}))
    return Finding(
        "pan-strobes",
        f"At frame {fastest:,} the view pans so fast that things cross it in {frames:.3g} frames; fewer than "
        f"{PAN_FRAMES} strobe",
        "Passing objects will appear doubled.",
        tuple(fixes),
    )
