"""Which frames of a shot are made first, to foretell what all of them cost."""

from collections.abc import Mapping, Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from vexel.core.evaluate.plan import Plan

MOST_PROBED = 9
"""Frames that are made one by one, at most."""
APART = 2.0
"""Where neighbours differ by more than this factor, the frame between them is made too."""
STRETCH = 16
"""Frames that follow one another, for the size of a file."""
LONGEST = 32
"""Of one stretch: encoders look ahead and group pictures so far. From it follows what the others leave out."""
SHARE = 3
"""Stretches take at most a third of a shot, where that leaves enough frames."""
FEWEST = 4
"""A stretch of fewer frames tells little of a file: 3 of them follow another one."""
PLACES = 5
"""Places along the shot where frames are quick."""
SECONDS = 15.0
"""How long each worker may take for the stretches; the shortest one may take longer."""


def first_frames(plan: Plan) -> tuple[int, ...]:
    """The first frame, the last, and the one that promises to be the heaviest, in order."""
    count = plan.clock.frames
    return tuple(sorted({0, int(np.argmax(promise(plan))), count - 1}))


def promise(plan: Plan) -> NDArray[np.float64]:
    """How heavy each frame promises to be.

    High dials promise more geometry, and a near camera more pixels to fill. Of
    frames that promise the same, the one in the middle counts slightly more.

    Returns
    -------
    ndarray of float
        One value a frame, without a unit.
    """
    count = plan.clock.frames
    weight = 1e-6 * (1 - np.abs(np.linspace(-1, 1, count)))
    for track in plan.sampled.motion.dials.values():
        most = np.abs(track).max() if track.size else 0.0
        if most > 0 and np.ptp(track) > 0:
            weight = weight + np.abs(track) / most
    sphere = plan.inputs.subject.sphere
    for camera in plan.sampled.cameras:
        if sphere is None:
            break
        away = np.linalg.norm(camera.path.positions - np.asarray(sphere.centre), axis=1)
        near = np.maximum(away, 1e-9)
        if np.ptp(near) > 1e-6 * near.max():
            weight = weight + (near.min() / near) ** 2
    return weight


def frame_between(costs: Mapping[int, float]) -> int | None:
    """The frame in the middle of the widest gap whose ends differ by more than `APART`; None where none is needed.

    Parameters
    ----------
    costs : mapping of int to float
        What each frame that was made cost.
    """
    if len(costs) >= MOST_PROBED:
        return None
    gaps = [
        (after - before, (before + after) // 2)
        for before, after in pairwise(sorted(costs))
        if after - before > 1 and _differ(costs[before], costs[after])
    ]
    return max(gaps)[1] if gaps else None


def _differ(one: float, other: float) -> bool:
    low, high = sorted((one, other))
    return high > APART * max(low, 1e-9)


def stretches(probed: Sequence[int], heaviest: int, count: int, frame_seconds: float, workers: int) -> list[range]:
    """Frames that follow one another: from these the size of a file is foretold, and the usual time of a frame.

    Parameters
    ----------
    probed : sequence of int
        Frames that are there.
    heaviest : int
    count : int
        Frames of the shot.
    frame_seconds : float
        What a frame takes one worker.
    workers : int

    Returns
    -------
    list of range
        At even places along the shot and at the frames that are there where
        frames are quick, else a short one around the heaviest. That around
        the heaviest is the longest.
    """
    affordable = int(SECONDS * workers / max(frame_seconds, 1e-6))
    even = {n * (count - 1) // (PLACES - 1) for n in range(PLACES)}
    for places in ({*even, *probed}, {min(probed), heaviest, max(probed)}, {heaviest}):
        if affordable >= len(places) * FEWEST:
            break
    room, others = min(affordable, count // SHARE), len(places) - 1
    length = longest = min(max(room // len(places), FEWEST), STRETCH, count)
    if (spare := min(room - FEWEST * others, LONGEST, count)) > length and heaviest in places:
        longest = spare
        length = min(max((room - longest) // max(others, 1), FEWEST), STRETCH)
    lengths = {place: longest if place == heaviest else length for place in places}
    begins = {place: min(max(place - wide // 2, 0), count - wide) for place, wide in lengths.items()}
    found: list[range] = []
    for begin, end in sorted((begins[place], begins[place] + lengths[place]) for place in places):
        if found and begin < found[-1].stop:
            found[-1] = range(found[-1].start, max(found[-1].stop, end))
        else:
            found.append(range(begin, end))
    return found
