"""How the frames of one item are played: picture by picture of the reel, at any place in between too."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property

from vexel.core.errors import Mistake
from vexel.core.reel.item_spec import PlayedSpec
from vexel.core.reel.media import MediaFacts
from vexel.core.reel.node import MissingMedia, Mixed, Node, Shown
from vexel.core.time.clock import Clock
from vexel.core.time.frame_selection import FrameSelection
from vexel.core.time.rate import Rate

HALF = Fraction(1, 2)


@dataclass(frozen=True)
class InStep:
    """Where an item that continues another's motion begins, and how it is played.

    Attributes
    ----------
    begin : Fraction
        Frame of the media.
    pace : Fraction
    moving : int
        See `Playing`.
    """

    begin: Fraction
    pace: Fraction
    moving: int


@dataclass(frozen=True)
class Playing:
    """An item's frames in the reel.

    A place counts the reel's frames from the item's begin, and may lie between two of them.

    Attributes
    ----------
    item : PlayedSpec
    facts : MediaFacts
    rate : Rate
        Of the reel.
    step : InStep or None
        Where it matches the motion of the item before; it then runs through the whole motion.
    """

    item: PlayedSpec
    facts: MediaFacts
    rate: Rate
    step: InStep | None = None

    @cached_property
    def _once(self) -> Sequence[int]:
        """Frames of one playing, in order."""
        item, count = self.item, self.facts.frames
        if self.step is not None:
            return range(count)
        selection = FrameSelection(item.first, item.last, 1, 0, 0, item.order, self.facts.closes)
        try:
            selection.check(count)
        except Mistake as error:
            raise Mistake(f"{self.item.ref.label}: {error}") from None
        shown: list[int] = selection.frames_of(count).tolist()
        return shown

    @cached_property
    def closes(self) -> bool:
        """Whether the first frame of a playing follows its last."""
        whole = self.item.first == 0 and self.item.last in (None, self.facts.frames - 1)
        return self.facts.closes and (whole or self.step is not None)

    @cached_property
    def steps(self) -> int:
        """Frames of the media that are played, with repeats."""
        return len(self._once) * (1 if self.step else self.item.repeat)

    @cached_property
    def moving(self) -> int:
        """Frames of the reel while it moves."""
        item = self.item
        if self.step is not None:
            return self.step.moving
        if item.frames is not None:
            return item.frames
        if item.seconds is not None:
            return Clock.frames_lasting(self.rate, Fraction(repr(item.seconds)))
        lasts = self.steps / self.facts.rate / Fraction(repr(item.speed))
        return max((lasts * self.rate.fps + HALF).__floor__(), 1)

    @property
    def count(self) -> int:
        """Frames of the reel in all."""
        return self.item.hold_start + self.moving + self.item.hold_end

    @cached_property
    def pace(self) -> Fraction:
        """Frames of the media from one frame of the reel to the next."""
        if self.step is not None:
            return self.step.pace
        if self.item.frames is None and self.item.seconds is None:
            return self.facts.rate * Fraction(repr(self.item.speed)) / self.rate.fps
        if self.closes or self.moving == 1:
            return Fraction(self.steps, self.moving)
        # What does not close is shown from its first frame to its last.
        return Fraction(self.steps - 1, self.moving - 1)

    @property
    def refused(self) -> bool:
        """Whether frames would be dropped or doubled where the item forbids it."""
        return self.item.between == "refuse" and self.steps > 1 and self.pace != 1

    @property
    def _refusal(self) -> Mistake:
        return Mistake(
            f"{self.item.ref.label}: frames of it would be dropped or doubled at {self.rate.label}, which between: "
            "refuse forbids: choose nearest, blend or true, or give the reel its rate"
        )

    def check(self) -> None:
        """Whether all that is asked for can be had.

        Raises
        ------
        Mistake
        """
        if self.count and self.refused:
            raise self._refusal

    @property
    def runs_out(self) -> bool:
        """Whether it matches motion beyond the end of that motion, and freezes there."""
        if self.step is None or self.closes:
            return False
        return self.step.begin + (self.step.moving - 1) * self.step.pace > self.steps - 1

    def media_place(self, place: Fraction) -> Fraction:
        """Where in the frames that are played, repeats counted on, a place of the reel lies."""
        moved = max(place - self.item.hold_start, Fraction(0))
        if not self.closes or self.item.hold_end:
            # A loop moves on from its last frame to its first; what does not close ends with its last frame.
            moved = min(moved, Fraction(self.moving - 1))
        found = moved * self.pace + (self.step.begin if self.step else 0)
        return found % self.steps if self.closes else min(max(found, Fraction(0)), Fraction(self.steps - 1))

    def motion_at(self, place: Fraction) -> Fraction:
        """Where in the whole motion a place of what is played forward lies, beyond its last frame too."""
        moved = max(place - self.item.hold_start, Fraction(0))
        if self.step is not None:
            return self.step.begin + moved * self.pace
        return self.item.first + (moved * self.pace) % len(self._once)

    def lowest(self, begin: Fraction, end: Fraction) -> Fraction:
        """The lowest frame of the media between two places: the first that is shown, or backward the last.

        Playback that repeats, or plays back and forth, is compared where it begins.
        """
        if self.step is not None:
            return self.motion_at(begin)
        if self.item.order == "backward":
            return len(self._once) - 1 - self.media_place(end) % len(self._once) + self.item.first
        return self.motion_at(max(begin, Fraction(self.item.hold_start)))

    def first_shown(self) -> int:
        """The frame of the media that is shown first."""
        return self._frame((self.media_place(Fraction(0)) - HALF).__ceil__())

    def at(self, place: Fraction) -> Node:
        """What is shown at a place."""
        found, item = self.media_place(place), self.item
        # A frame is an instant: the one that is nearest is shown, of two the earlier.
        if item.between == "refuse" and (self.refused or found.denominator > 1):
            raise self._refusal
        nearest = Shown(item.ref, self._frame((found - HALF).__ceil__()), item.fit, item.focus)
        if found.denominator == 1 or item.between == "nearest" or (item.between == "true" and not self.facts.renewable):
            return nearest
        if item.between == "true":
            return self._exact(found, nearest)
        if item.between == "blend":
            begin = found.__floor__()
            one, other = (Shown(item.ref, self._frame(number), item.fit, item.focus) for number in (begin, begin + 1))
            return Mixed(one, other, float(found - begin))
        raise self._refusal

    def _frame(self, number: int) -> int:
        number = number % self.steps if self.closes else min(max(number, 0), self.steps - 1)
        return self._once[number % len(self._once)]

    def _exact(self, found: Fraction, nearest: Shown) -> Shown:
        """The instant of the motion at exactly this place."""
        begin = found.__floor__()
        one, other = self._frame(begin), self._frame(begin + 1)
        if self.closes and self.item.order != "there-and-back":
            other = one + (-1 if self.item.order == "backward" and self.step is None else 1)
        if abs(other - one) != 1:
            # From the end of one playing to the begin of the next there is nothing between.
            return nearest
        steps = self.facts.frames - (0 if self.facts.closes else 1)
        phase = (one + (other - one) * (found - begin)) / steps
        return replace(nearest, phase=phase % 1 if self.facts.closes else phase)


@dataclass(frozen=True)
class MissingItem:
    """An item whose frames do not exist, or that asks for the impossible: `why` gives the reason."""

    what: str
    count: int
    why: str = ""

    def at(self, place: Fraction) -> Node:
        """A hole."""
        return MissingMedia(self.what, self.why)
