"""Pace: how many inner steps of a simulation lie between two frames."""

from dataclasses import dataclass
from fractions import Fraction

from vexel.core.errors import Mistake
from vexel.core.time.clock import decimal

MAX_STEPS = 10**9


@dataclass(frozen=True)
class Substeps:
    """Steps of a simulation against frames of a shot.

    Attributes
    ----------
    step : Fraction
        Inner step in simulated seconds.
    pace : Fraction
        Simulated seconds a second of video.
    rate : Fraction
        Frames a second.
    warm_up : int
        Steps before frame 0.
    """

    step: Fraction
    pace: Fraction
    rate: Fraction
    warm_up: int = 0

    @property
    def steps_a_frame(self) -> Fraction:
        """Steps between two frames, exactly; seldom whole."""
        return self.pace / (self.rate * self.step)

    def step_of(self, frame: Fraction) -> int:
        """Steps done at a frame, or between two; none before the beginning.

        Computed from the frame's number, so the remainder is carried exactly:
        no frame is ever a whole step late.

        Raises
        ------
        Mistake
            When that is more steps than can be meant.
        """
        steps = max(self.warm_up + (frame * self.steps_a_frame).__floor__(), 0)
        if steps > MAX_STEPS:
            raise Mistake(
                f"frame {frame.__floor__():,} would come after {steps:,} steps of {decimal(self.step, 9)} s: "
                "lower source.pace"
            )
        return steps

    @property
    def sentence(self) -> str:
        """The derivation in words, and whether frames are unequally far apart."""
        exact = self.steps_a_frame
        line = f"{decimal(self.pace)} s per second ÷ {decimal(self.rate, 3)} fps ÷ {decimal(self.step, 9)} s per step"
        if exact.denominator == 1:
            return f"{line} = {exact.numerator:,} steps per frame"
        low = exact.__floor__()
        return f"{line} = {decimal(exact)} steps per frame: uneven, {low:,} or {low + 1:,} in turn"

    def even_paces(self) -> list[Fraction]:
        """The nearest slower and faster pace that give whole steps a frame."""
        low = self.steps_a_frame.__floor__()
        return [steps * self.rate * self.step for steps in (low, low + 1) if steps > 0]
