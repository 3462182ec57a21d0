"""Which instants of a shot a reel wants captured for real."""

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from math import lcm

from vexel.core.reel.item_spec import PlayedSpec
from vexel.core.reel.media import MediaRef
from vexel.core.reel.node import shown_in
from vexel.core.reel.reel_plan import Facts, ReelPlan
from vexel.core.time.clock import MAX_FRAMES

GRAIN = 64
"""Parts of a frame to which instants are rounded where no motion of a possible length meets them all."""


@dataclass(frozen=True)
class TrueFrames:
    """Frames of a shot's motion in other steps.

    Attributes
    ----------
    motion : int
        Frames that the whole motion is given, of which only some are captured.
    steps : int
        From phase 0 to 1.
    numbers : tuple of int
        Those that the reel shows, rising.
    rounded : bool
        Whether instants were rounded, to a 64th of the distance between two frames.
    """

    motion: int
    steps: int
    numbers: tuple[int, ...]
    rounded: bool

    def number(self, phase: Fraction) -> int:
        """The frame of an instant."""
        return (phase * self.steps + Fraction(1, 2)).__floor__() % self.motion


def true_frames(plan: ReelPlan, facts: Facts) -> Mapping[MediaRef, TrueFrames]:
    """Instants between the frames of takes that must be captured, by their media."""
    wanted: dict[MediaRef, set[Fraction]] = {}
    if not any(isinstance(item, PlayedSpec) and item.between == "true" for item in plan.reel.walked()):
        return {}
    for number in range(plan.frames):
        for shown in shown_in(plan.node(number)):
            if shown.phase is not None:
                wanted.setdefault(shown.ref, set()).add(shown.phase)
    return {ref: _frames(ref, phases, facts) for ref, phases in wanted.items()}


def _frames(ref: MediaRef, phases: set[Fraction], facts: Facts) -> TrueFrames:
    known = facts[ref]
    assert known is not None
    steps = 1
    for phase in phases:
        steps = lcm(steps, phase.denominator)
        if steps >= MAX_FRAMES:
            break
    exact = steps < MAX_FRAMES
    if not exact:
        steps = min((known.frames - (0 if known.closes else 1)) * GRAIN, MAX_FRAMES - 1)
    motion = steps if known.closes else steps + 1
    plain = TrueFrames(motion, steps, (), not exact)
    numbers = sorted({plain.number(phase) for phase in phases})
    return TrueFrames(motion, steps, tuple(numbers), not exact)
