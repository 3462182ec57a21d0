"""Preflight of a camera that flies: what it cuts off, where it jerks, whether its loop meets."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.camera_path import CameraPath
from vexel.core.camera.framing import Sphere, distance_to_fill
from vexel.core.camera.path_figures import PathFigures, axes_of, path_figures
from vexel.core.checks.panorama_findings import panorama_findings
from vexel.core.checks.stops_findings import stops_findings
from vexel.core.document.rig_spec import PathSpec, StopsSpec
from vexel.core.evaluate.camera_table import camera_of
from vexel.core.evaluate.plan import Plan
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
"""A flight that would have to be so many times as far off is another flight."""


def path_findings(plan: Plan) -> list[Finding]:
    """What is off with how a shot's camera moves; nothing for one that stands or goes round."""
    rig, path, sphere = plan.shot.camera.rig, plan.sampled.path, plan.basis.subject.sphere
    all_round = panorama_findings(plan)
    if path is None or sphere is None or plan.clock.frames < 3 or not isinstance(rig, PathSpec | StopsSpec):
        return all_round
    figures = figures_of(plan)
    if isinstance(rig, StopsSpec):
        return [*stops_findings(plan, figures.turns_deg), *all_round]
    found = [_seam(rig, plan.clock, path, figures), _jerk(rig, path, figures)]
    if not all_round and plan.shot.camera.lens.projection != "panorama":
        found += [_cut_off(plan, rig, sphere, path, figures), _strobes(rig, plan, figures)]
    return [*(finding for finding in found if finding is not None), *all_round]


def figures_of(plan: Plan) -> PathFigures:
    """Figures of the shot's own camera.

    Raises
    ------
    Mistake
        When no camera looks at the source.
    """
    camera, sphere, picture = camera_of(plan), plan.basis.subject.sphere, plan.shot.picture
    assert sphere is not None
    highs = camera.parallel_highs if plan.shot.camera.lens.projection == "parallel" else None
    return path_figures(
        camera.path, camera.views_high_deg, (picture.width, picture.height), sphere, highs, camera.shifts
    )


def _cut_off(plan: Plan, rig: PathSpec, sphere: Sphere, path: CameraPath, figures: PathFigures) -> Finding | None:
    cut = np.flatnonzero(figures.margins < -1e-6)
    if rig.looks != "subject" or not len(cut):
        return None
    within = np.flatnonzero(np.isneginf(figures.margins))
    what = f"the subject is cut off in {counted(len(cut), 'frame')}, {cut[0]:,} to {cut[-1]:,}"
    by = float((1 - figures.margins).max()) * ROOM
    if len(within):
        when = f"{within[0]:,} to {within[-1]:,}" if len(within) > 1 else f"{within[0]:,}"
        what += f"; in {when} the camera is among it, within {sphere.radius:.3g} of its middle"
        away = np.linalg.norm(path.positions - np.asarray(sphere.centre), axis=1).min()
        by = _whole_from(sphere, plan) / max(float(away), 1e-300) * ROOM
    if by > MOST_BACK:
        return Finding("subject-cut-off", what, "It will not be seen whole there.", ())
    return Finding(
        "subject-cut-off",
        what,
        "It will not be seen whole there.",
        (Mend(f"Pull back to {by:.3g} × the distance", {"camera": {"rig": {"keys": _pulled_back(rig, sphere, by)}}}),),
    )


def _whole_from(sphere: Sphere, plan: Plan) -> float:
    """From so far a sphere is seen whole in every frame."""
    picture, high = plan.shot.picture, np.radians(camera_of(plan).views_high_deg.min())
    shorter = 2 * np.degrees(np.arctan(np.tan(high / 2) * min(1.0, picture.width / picture.height)))
    return float(distance_to_fill(sphere.radius, 1.0, shorter))


def _pulled_back(rig: PathSpec, sphere: Sphere, by: float) -> list[dict[str, Any]]:
    """All keys, so many times as far from the subject's middle."""
    centre = np.asarray(sphere.centre)
    keys = []
    for key in rig.keys:
        told = key.model_dump(mode="json", exclude_defaults=True)
        place = centre + by * (np.asarray(key.position) - centre)
        told["position"] = [float(f"{value:.9g}") for value in place]
        keys.append(told)
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
        mends.append(Mend("Go round the corners", {"camera": {"rig": {"curve": "smooth"}}}))
    if rig.pace == "keys":
        mends.append(Mend("Keep an even pace", {"camera": {"rig": {"pace": "even"}}}))
    return Finding(
        "camera-jerks",
        f"the camera jerks at key {int(np.argmin(apart)) + 1}, frame {frame:,}: its speed changes by "
        f"{jolts[worst] / mean:.0%} of the mean from one frame to the next",
        "It will be seen as a jolt.",
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
    mends = [Mend("Show it once, with both ends", {"clock": {"span": "ends"}})]
    if gap > 1.5 * step:
        if not rig.closed and len(rig.keys) > 2:
            mends.insert(0, Mend("Go on to the first key", {"camera": {"rig": {"closed": True}}}))
        what = f"the camera ends {gap:.3g} away from where it began, {turn:.3g}° turned"
        return Finding("flight-does-not-close", what, "The loop will jump at its seam.", tuple(mends))
    over = _velocities(path.positions)
    change = float(np.linalg.norm(over[0] - over[-1]))
    if change > JERK * float(figures.speeds.mean()) and change > SMOOTHER * float(np.median(figures.jolts)):
        what = f"the loop meets, but its speed changes by {change / figures.speeds.mean():.0%} of the mean there"
        return Finding("flight-does-not-close", what, "It will be seen as a jolt once a turn.", tuple(mends))
    return None


def _velocities(positions: NDArray[np.float64]) -> NDArray[np.float64]:
    """Steps from the last frame to the first, and from the one before it to the last."""
    return np.stack([positions[0] - positions[-1], positions[-1] - positions[-2]])


def _strobes(rig: PathSpec, plan: Plan, figures: PathFigures) -> Finding | None:
    clock, width = plan.clock, plan.shot.picture.width
    fastest = int(figures.edge_px.argmax())
    pixels, most = float(figures.edge_px[fastest]), width / PAN_FRAMES
    if pixels <= most or clock.shutter.opening >= OPEN or rig.looks == "subject":
        return None
    blur: dict[str, Any] = {"clock": {"shutter": "180°"}, "picture": {"samples": max(plan.shot.picture.samples, 16)}}
    longer = int(np.ceil(clock.motion * pixels / most))
    mends = [Mend("Open the shutter to 180°, 16 samples", blur)]
    if longer <= 20 * clock.motion:
        mends.append(Mend(f"Take longer, {longer:,} frames", {"clock": {"frames": longer, "seconds": None}}))
    return Finding(
        "pan-strobes",
        f"the view pans by {pixels:.3g} pixels a frame at frame {fastest:,}; more than {most:.3g} strobes",
        "What passes by will be seen double.",
        tuple(mends),
    )
