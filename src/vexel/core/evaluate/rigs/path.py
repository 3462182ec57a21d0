"""The rig that goes along keys, for all frames at once."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from vexel.core.camera.camera_path import CameraPath, rolled, view_of
from vexel.core.camera.curve import Curve, catmull_rom, straight
from vexel.core.camera.framing import Sphere
from vexel.core.camera.steady_up import steady_ups
from vexel.core.document.rig_spec import PathSpec
from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.evaluate.lane_sampling import shot_phases
from vexel.core.evaluate.rigs.path_conversion import keys_along
from vexel.core.evaluate.rigs.path_findings import find_flip, path_findings
from vexel.core.evaluate.rigs.rig import Rig, RigPath, SaveView, Tracks
from vexel.core.evaluate.source_facts import Point, Subject
from vexel.core.finding import Finding, Fix
from vexel.core.lanes.easing import Easing
from vexel.core.lanes.lane import Key, lane_values
from vexel.core.short_number import short
from vexel.core.vectors import crosses, in_blocks, lengths, units

Array = NDArray[np.float64]
DETOUR = 1.5
"""Distance from the subject's middle, in radii, of a key that leads round it."""


class PathRig(Rig[PathSpec]):
    """A camera that goes along keys."""

    def sample(self, shot: Shot, subject: Subject, phases: Array, tracks: Tracks) -> tuple[CameraPath, Array]:
        """See `Rig.sample`."""
        assert subject.sphere is not None
        path, of_keys = path_along_keys(self.spec, phases, subject.sphere)
        lens = np.full_like(phases, self.camera.lens.focal_mm)
        focal = tracks.get("lens:focal", lens if of_keys is None else np.where(np.isnan(of_keys), lens, of_keys))
        return path, focal

    def lean(self, shot: Shot, phases: Array) -> Array | None:
        """See `Rig.lean`: degrees that the way turns to the right during a frame, seen from above, times the banking.

        From half a frame before to half a frame after, so that all looks of an
        open shutter lean by the same rule; a closed path continues at its seam.
        """
        plan, half = self.spec, 0.5 / shot.clock.exact.steps
        if not plan.bank:
            return None
        goes_on = plan.closed and shot.clock.span == "loop"
        curve = _curve(plan, [key.position for key in plan.keys])

        def heading(at: Array) -> tuple[Array, NDArray[np.bool_]]:
            way = curve.slope(path_places(plan, curve, shot_phases(shot, at)))
            return np.arctan2(way[:, 0], way[:, 1]), np.hypot(way[:, 0], way[:, 1]) > 1e-12 * max(curve.length, 1e-300)

        before, after = phases - half, phases + half
        if goes_on:
            before, after = before % 1.0, after % 1.0
        else:
            before, after = np.maximum(before, 0.0), np.minimum(after, 1.0)
        (begin, begins), (end, ends) = heading(before), heading(after)
        turn = np.degrees((end - begin + np.pi) % (2 * np.pi) - np.pi)
        # At the ends of an open path only one half exists; a key that does not move does not turn.
        whole = 1.0 if goes_on else 2 * half / np.maximum(after - before, half)
        lean: Array = plan.bank * np.where(begins & ends, turn * whole, 0.0)
        return lean

    def marks(self, path: RigPath) -> tuple[list[Point], list[int]]:
        """See `Rig.marks`."""
        keys = [key.position for key in self.spec.keys]
        return keys, [int(np.linalg.norm(path.path.positions - np.array(key), axis=1).argmin()) for key in keys]

    def findings(self, path: RigPath) -> list[Finding]:
        """See `Rig.findings`."""
        flip = find_flip(path)
        return [*path_findings(self.spec, path), *([self._flips(path, *flip)] if flip else [])]

    def _flips(self, path: RigPath, frame: int, degrees: float) -> Finding:
        """The picture that turns over, and what helps."""
        positions, radius = path.path.positions, path.subject.sphere.radius if path.subject.sphere else 1.0
        fixes = [Fix("Keep the camera's up steady", {"camera": {"rig": {"up": "steady"}}})]
        way = positions[min(frame + 1, len(positions) - 1)] - positions[max(frame - 1, 0)]
        aside = np.cross(way, [0.0, 0.0, 1.0])
        if self.spec.pace == "even" and np.linalg.norm(aside):
            place = positions[frame] + radius * aside / np.linalg.norm(aside)
            fixes += self._past(positions[frame], place, radius)
        return Finding(
            "camera-flips",
            f"The picture turns by {degrees:.0f}° at frame {frame:,}, where the camera looks straight up or down",
            "It flips over from one frame to the next.",
            tuple(fixes),
        )

    def detour(self, path: RigPath, begin: int, end: int) -> tuple[Fix, ...]:
        """A key more, outside the subject's sphere, where the way between two keys outside leads through it."""
        sphere = path.subject.sphere
        if self.spec.pace != "even" or sphere is None:
            return ()
        centre = np.asarray(sphere.centre)
        way = path.path.positions[begin : end + 1]
        inside = way[np.linalg.norm(way - centre, axis=1).argmin()]
        _, begun, following = self._stretch(inside)
        ends = np.linalg.norm(np.stack([begun, following]) - centre, axis=1)
        if (ends <= sphere.radius).any():
            return ()
        aside = np.cross(following - begun, [0.0, 0.0, 1.0]) + (inside - centre)
        if not np.linalg.norm(aside):
            # Straight up or down through the middle: any side will do.
            aside = np.array([1.0, 0.0, 0.0])
        outward = aside / np.linalg.norm(aside)
        return tuple(self._key_more(inside, centre + DETOUR * sphere.radius * outward, "Go around it"))

    def _stretch(self, place: Array) -> tuple[int, Array, Array]:
        """Between which two keys a place lies with the least detour: the first one's number, and both positions."""
        keys = np.array([key.position for key in self.spec.keys])
        following = np.roll(keys, -1, axis=0)[: len(keys) if self.spec.closed else -1]
        begun = keys[: len(following)]
        detours = [np.linalg.norm(ends - place, axis=1) for ends in (begun, following)]
        after = int((detours[0] + detours[1] - np.linalg.norm(following - begun, axis=1)).argmin())
        return after, begun[after], following[after]

    def _past(self, near: Array, place: Array, radius: float) -> list[Fix]:
        """Move the key at a place to another; where there is none, add one."""
        apart = [float(np.linalg.norm(near - np.asarray(key.position))) for key in self.spec.keys]
        number = int(np.argmin(apart))
        if apart[number] > radius:
            return self._key_more(near, place, "Go past the pole")
        keys = [key.model_dump(mode="json", exclude_defaults=True) for key in self.spec.keys]
        keys[number] |= {"position": [short(float(value)) for value in place]}
        return [Fix(f"Move key {number + 1} past the pole", {"camera": {"rig": {"keys": keys}}})]

    def _key_more(self, near: Array, place: Array, says: str) -> list[Fix]:
        """A key at a place, between the two that lead past another."""
        after, _, _ = self._stretch(near)
        more = [key.model_dump(mode="json", exclude_defaults=True) for key in self.spec.keys]
        looks = {"look": more[after]["look"]} if "look" in more[after] else {}
        more.insert(after + 1, looks | {"position": [short(float(value)) for value in place]})
        return [Fix(f"{says} with a key after key {after + 1}", {"camera": {"rig": {"keys": more}}})]

    @classmethod
    def converted(cls, path: RigPath, frame: int, save_view: SaveView) -> dict[str, Any]:
        """See `Rig.converted`."""
        return {"rig": {"kind": "path"} | keys_along(path)}


def path_places(plan: PathSpec, curve: Curve, phases: Array) -> Array:
    """Number of stretches the camera has passed at phases of the shot, shape (N,).

    At an even pace equal phases are equal lengths. By its keys it is at each at
    its time, and never goes back in between (monotone cubic, as a smooth lane).
    """
    if plan.pace == "even":
        return curve.place_at(phases * curve.length)
    times = [float(key.at or 0) for key in plan.keys]
    if plan.closed:
        times.append(times[0] + 1)
    smooth = Easing.parse("smooth")
    keys = [Key(time, float(n), smooth) for n, time in enumerate(times)]
    around = times[0] + (phases - times[0]) % 1 if plan.closed else phases
    return lane_values(keys, np.where((phases == 1) & plan.closed, times[-1], around))


def path_along_keys(plan: PathSpec, phases: Array, subject: Sphere) -> tuple[CameraPath, Array | None]:
    """Positions, targets and ups along a path, and focal lengths where its keys say any.

    Parameters
    ----------
    plan : PathPlan
    phases : ndarray, shape (N,)
    subject : Sphere

    Returns
    -------
    CameraPath
    ndarray, shape (N,), or None
        Focal lengths in mm; NaN where no key says one.
    """
    curve = _curve(plan, [key.position for key in plan.keys])
    places = path_places(plan, curve, phases)
    positions = curve.at(places)
    targets = _targets(plan, curve, places, positions, subject)
    _check_sight(positions, targets, phases)
    rolls = _along_keys(plan, [key.roll_deg for key in plan.keys], places, goes_round=True)
    if plan.up == "steady":
        ups = _steady(plan, curve, phases, subject, targets - positions, rolls)
    else:
        (ups,) = in_blocks(len(places), lambda rows: (rolled(targets[rows] - positions[rows], rolls[rows]),))
    focals = [np.nan if key.focal_mm is None else key.focal_mm for key in plan.keys]
    focal = None if np.isnan(focals).all() else _along_keys(plan, focals, places)
    return view_of(positions, targets, ups), focal


def _steady(plan: PathSpec, curve: Curve, phases: Array, subject: Sphere, ways: Array, rolls: Array) -> Array:
    """Ups that turn as little as possible, rolled as the keys say."""

    def forward(at: Array) -> Array:
        places = path_places(plan, curve, at)
        positions = curve.at(places)
        return _targets(plan, curve, places, positions, subject) - positions

    ups, own = steady_ups(forward, phases, closes=plan.closed), units(ways)
    angle = np.radians(rolls)[:, None]
    return ups * np.cos(angle) + crosses(own, ups) * np.sin(angle)


def _check_sight(positions: Array, targets: Array, phases: Array) -> None:
    apart = lengths(targets - positions)
    touched = int(apart.argmin())
    if apart[touched] <= 1e-9 * max(float(apart.max()), 1e-300):
        raise Mistake(
            f"the camera passes through the point that it looks at, {phases[touched]:.1%} along its path: "
            "move the path aside"
        )


def _curve(plan: PathSpec, points: list[tuple[float, float, float]]) -> Curve:
    make = catmull_rom if plan.curve == "smooth" else straight
    return make(np.array(points, dtype=np.float64), plan.closed)


def _targets(plan: PathSpec, curve: Curve, places: Array, positions: Array, subject: Sphere) -> Array:
    if plan.looks == "subject":
        return np.broadcast_to(np.asarray(subject.centre, dtype=np.float64), positions.shape)
    if plan.looks == "along":
        way = curve.slope(places)
        ahead: Array = way / np.linalg.norm(way, axis=1, keepdims=True) * max(subject.radius, 1e-9)
        return positions + ahead
    looks = np.array([key.look for key in plan.keys], dtype=np.float64)
    if np.ptp(looks, axis=0).max() == 0:
        return np.broadcast_to(looks[0], positions.shape)
    ends = np.concatenate([looks, looks[:1]]) if plan.closed else looks
    # What it looks at may rest from key to key, where a curve by distances has no length.
    at = np.arange(len(ends), dtype=np.float64)
    smooth = Easing.parse("smooth" if plan.curve == "smooth" else "linear")
    axes = [
        lane_values([Key(n, value, smooth) for n, value in zip(at, ends[:, axis], strict=True)], places, plan.closed)
        for axis in range(3)
    ]
    return np.stack(axes, axis=1)


def _along_keys(plan: PathSpec, values: list[float], places: Array, goes_round: bool = False) -> Array:
    """Numbers of the keys, straight from each to the next; a closed path comes to the first one again.

    Angles take the shortest way: 350° continues to 360° and not back to 0°.
    """
    on = 360 * round((values[-1] - values[0]) / 360) if goes_round else 0
    ends = [*values, values[0] + on] if plan.closed else values
    between: Array = np.interp(places, np.arange(len(ends)), ends)
    return between
