"""Findings about the frames of a take, from their figures."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import groupby

import numpy as np

from vexel.core.finding import Finding, FindingName
from vexel.core.review.figures import Measured
from vexel.core.wording import counted

CODE = 1 / 255
NEAR = 6
"""Steps on either side that a step is compared with."""
JUMPS = 4.2
"""A step that exceeds its neighbours by this factor is a jump; shells that grow in steps reach 3.8."""
SEEN = 0.5 * CODE
"""Mean differences below this are not seen."""
FROZEN = 3
"""Equal frames in a row that are a freeze."""
FLICKERS = 5
"""Swings of brightness in a row that are flicker."""
SWING = 0.7 * CODE
CLIPPED = 0.01
ROLL_OFF = 0.05
BORDER = 0.3
"""Where more of the border than this is white, the background is."""
OPEN_SEAM = 3.0
BANDED = 0.2
FRINGED = 0.5


@dataclass(frozen=True)
class Seen:
    """A finding, with the frames that it is about.

    Attributes
    ----------
    finding : Finding
    frames : tuple of int
        Places in the sequence, in order.
    """

    finding: Finding
    frames: tuple[int, ...]


def seen_in(
    measured: Measured, *, loops: bool = False, planned_equal: Sequence[bool] = (), is_light: bool = False
) -> list[Seen]:
    """All that is found.

    Parameters
    ----------
    measured : Measured
    loops : bool
        Whether the first frame follows the last one.
    planned_equal : sequence of bool
        Of each frame, whether its plan makes it equal to the one before; empty where no plan is known.
    is_light : bool
        Whether the files hold light that may exceed 1: then nothing is clipped in them.
    """
    lonely = _out_of_line(measured)
    return [
        *_empty(measured),
        *_told(
            "frame-out-of-line", lonely, "is out of line with its neighbours",
            "It was made at another instant, or by another version of the source: capture it again.",
        ),
        *_jumps(measured, lonely),
        *_frozen(measured, planned_equal),
        *_flicker(measured, lonely),
        *(_seam(measured) if loops else ()),
        *(() if is_light else _clipped(measured)),
        *_banding(measured),
        *_fringe(measured),
    ]  # fmt: skip


def usual_step(measured: Measured) -> float:
    """The median of the mean differences between neighbours."""
    means = [step.mean for step in measured.steps[1:]]
    return float(np.median(means)) if means else 0.0


def _told(name: FindingName, frames: Sequence[int], what: str, cost: str) -> Iterator[Seen]:
    if frames:
        yield Seen(Finding(name, f"{_those(frames)} {what}", cost), tuple(frames))


def _those(frames: Sequence[int]) -> str:
    if len(frames) == 1:
        return f"Frame {frames[0]}"
    if frames[-1] - frames[0] == len(frames) - 1:
        return f"Each of the frames {frames[0]} to {frames[-1]}"
    shown = ", ".join(str(frame) for frame in frames[:5])
    return f"Each of {counted(len(frames), 'frame')} ({shown}{', …' if len(frames) > 5 else ''})"


def _usual_at(means: Sequence[float], at: int, apart: int = 1) -> float | None:
    """What the steps around one usually are: the larger median of both sides; None where there are too few."""
    before, after = means[max(at - apart + 1 - NEAR, 1) : max(at - apart + 1, 1)], means[at + apart : at + apart + NEAR]
    medians = [float(np.median(side)) for side in (before, after) if len(side) >= 3]
    return max(medians) if medians else None


def _out_of_line(measured: Measured) -> list[int]:
    """Frames that differ from both neighbours more than these from each other."""
    means = [step.mean for step in measured.steps]
    found = []
    for at in range(1, len(means) - 1):
        both = min(means[at], means[at + 1])
        usual = _usual_at(means, at, 2)
        if usual is not None and both > SEEN and both > 1.5 * measured.skips[at] and both > 2 * usual:
            found.append(at)
    return found


def _jumps(measured: Measured, lonely: Sequence[int]) -> Iterator[Seen]:
    means = [step.mean for step in measured.steps]
    own = {*lonely, *(frame + 1 for frame in lonely)}
    frames = [
        at
        for at in range(1, len(means))
        if at not in own
        and means[at] > 4 * SEEN
        and (usual := _usual_at(means, at)) is not None
        and means[at] > JUMPS * usual
    ]
    yield from _told(
        "jump", frames, "differs from the one before far more than its neighbours do",
        "The picture jumps there: look at both frames, and at what the source does between them.",
    )  # fmt: skip


def _frozen(measured: Measured, planned_equal: Sequence[bool]) -> Iterator[Seen]:
    same = [
        at > 0 and step.most == 0.0 and not (planned_equal and planned_equal[at])
        for at, step in enumerate(measured.steps)
    ]
    moving = sum(not one for one in same[1:]) >= len(same) / 2
    runs = [[at for at, _ in run] for held, run in groupby(enumerate(same), key=lambda one: one[1]) if held]
    frames = [at for run in runs if len(run) >= FROZEN for at in run]
    if moving:
        yield from _told(
            "frozen", frames, "is equal to the one before",
            "The picture does not move there, and does elsewhere: the source may not have been ready.",
        )  # fmt: skip


def _flicker(measured: Measured, lonely: Sequence[int]) -> Iterator[Seen]:
    means = np.array([frame.mean for frame in measured.frames])
    if means.size < FLICKERS + 2:
        return
    swing = np.zeros(means.size)
    swing[1:-1] = means[1:-1] - (means[:-2] + means[2:]) / 2
    swing[list(lonely)] = 0.0
    strong = np.abs(swing) > SWING
    turns = np.zeros(means.size, bool)
    turns[1:] = strong[1:] & strong[:-1] & (np.sign(swing[1:]) != np.sign(swing[:-1]))
    frames: list[int] = []
    for at, run in groupby(enumerate(turns), key=lambda one: bool(one[1])):
        places = [place for place, _ in run]
        if at and len(places) >= FLICKERS - 1:
            frames += [places[0] - 1, *places]
    yield from _told(
        "flicker", frames, "is brighter or darker than both of its neighbours, alternately",
        "The video flickers there: light, exposure or noise differ from frame to frame.",
    )  # fmt: skip


def _seam(measured: Measured) -> Iterator[Seen]:
    means = [step.mean for step in measured.steps]
    if len(means) < 3:
        return
    usual, most = usual_step(measured), max(means[1:])
    if means[0] > 4 * SEEN and means[0] > OPEN_SEAM * usual and means[0] > 1.5 * most:
        times = f"{means[0] / usual:.1f} times the usual step" if usual > 0 else "and nothing else moves"
        finding = Finding(
            "seam-open", f"The first frame differs from the last one by {means[0] * 255:.1f} of 255, {times}",
            "The loop jumps at its seam.",
        )  # fmt: skip
        yield Seen(finding, (len(means) - 1, 0))


def _empty(measured: Measured) -> Iterator[Seen]:
    clear = [at for at, frame in enumerate(measured.frames) if frame.clear == 1.0]
    black = [at for at, frame in enumerate(measured.frames) if frame.high == 0.0 and frame.clear < 1.0]
    plain = [at for at, frame in enumerate(measured.frames) if frame.is_empty and frame.clear < 1.0 and frame.high > 0]
    cost = "Nothing is seen there: the subject is out of the picture, or was not drawn."
    yield from _told("empty-frame", clear, "is fully transparent", cost)
    yield from _told("empty-frame", black, "is black", cost)
    yield from _told("empty-frame", plain, "has one colour alone", cost)


def _clipped(measured: Measured) -> Iterator[Seen]:
    frames = [
        at
        for at, frame in enumerate(measured.frames)
        # Highlights run out towards white; plain graphics do not.
        if frame.light > CLIPPED and frame.near_light > ROLL_OFF * frame.light and frame.light_border < BORDER
    ]
    most = max((measured.frames[at].light for at in frames), default=0.0)
    yield from _told(
        "highlights-clipped", frames, f"has clipped highlights, of up to {100 * most:.1f} % of its pixels",
        "They are plain white without detail: less light, or EXR, keeps it.",
    )  # fmt: skip


def _banding(measured: Measured) -> Iterator[Seen]:
    frames = [at for at, one in sorted(measured.closer.items()) if one.banding > BANDED]
    yield from _told(
        "banding", frames, "has a slow gradient in visible bands",
        "Steps of 8 bits are seen there: capture with 16 bits, and compile by a recipe of 10 bits or with dither.",
    )  # fmt: skip


def _fringe(measured: Measured) -> Iterator[Seen]:
    for sign, colour in ((1, "dark"), (-1, "light")):
        frames = [at for at, one in sorted(measured.closer.items()) if sign * one.fringe > FRINGED]
        yield from _told(
            "edge-fringe", frames, f"has a {colour} fringe at transparent edges",
            "Its colours were mixed with the background and not divided by alpha: export straight alpha, or say that "
            "it is premultiplied.",
        )  # fmt: skip
