"""What is shown for some frames of a reel: still, in a row with transitions, at another pace, several at once."""

from bisect import bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property
from itertools import accumulate
from typing import Protocol

import numpy as np

from vexel.core.lanes.easing import Easing
from vexel.core.lanes.lane import Key, lane_values
from vexel.core.reel.item_spec import LayoutItem, TransitionSpec
from vexel.core.reel.node import Cells, Divided, Mixed, Node, Plain, SideTransition
from vexel.core.reel.played_item import MissingItem


class Track(Protocol):
    """Something that is shown for some frames of the reel."""

    @property
    def count(self) -> int:
        """Its frames."""

    def at(self, place: Fraction) -> Node:
        """What it shows at a place, counted in frames from its begin."""


@dataclass(frozen=True)
class Still:
    """Something that stands."""

    node: Node
    count: int

    def at(self, place: Fraction) -> Node:
        """See `Track.at`."""
        return self.node


@dataclass(frozen=True)
class ItemSequence:
    """Items one after another, each going over into the next.

    Attributes
    ----------
    tracks : tuple of Track
    transitions : tuple of TransitionSpec
        From each to the next; of a transition that is longer than its items, `overlaps` is what fits.
    """

    tracks: tuple[Track, ...]
    transitions: tuple[TransitionSpec, ...]

    @cached_property
    def overlaps(self) -> tuple[int, ...]:
        """Frames that each transition takes from both of its items."""
        found: list[int] = []
        for number, transition in enumerate(self.transitions):
            room = self.tracks[number].count - (found[-1] if found else 0)
            found.append(max(min(transition.frames, room, self.tracks[number + 1].count), 0))
        return tuple(found)

    @cached_property
    def starts(self) -> tuple[int, ...]:
        """Frame at which each item begins."""
        steps = [track.count - overlap for track, overlap in zip(self.tracks, self.overlaps, strict=False)]
        return tuple(accumulate(steps, initial=0))

    @cached_property
    def count(self) -> int:
        """Frames in all."""
        return self.starts[-1] + self.tracks[-1].count

    def item_at(self, place: Fraction) -> int:
        """The last item that has begun at a place."""
        return max(bisect_right(self.starts, place) - 1, 0)

    def at(self, place: Fraction) -> Node:
        """See `Track.at`."""
        number = self.item_at(place)
        within = place - self.starts[number]
        node = self.tracks[number].at(within)
        if number and within < self.overlaps[number - 1]:
            transition, frames = self.transitions[number - 1], self.overlaps[number - 1]
            before = self.tracks[number - 1].at(place - self.starts[number - 1])
            # Of n frames the k-th has k+1 of n+1 parts of the next: neither item is seen alone within the transition.
            share = _eased(transition.ease, (within + 1) / (frames + 1))
            return joined(transition, before, node, share)
        return node


def _eased(ease: str, progress: Fraction) -> float:
    return float(Easing.parse(ease)(np.array([float(progress)]))[0])


def joined(transition: TransitionSpec, one: Node, other: Node, share: float) -> Node:
    """Two pictures within a transition."""
    # An easing that swings would ask for more than all of a picture.
    share = min(max(share, 0.0), 1.0)
    if transition.kind == "dip-to-colour":
        ground = Plain(transition.colour)
        return Mixed(one, ground, 2 * share) if share < 0.5 else Mixed(ground, other, 2 * share - 1)
    if transition.kind in ("wipe", "slide"):
        return SideTransition(one, other, share, transition.kind, transition.towards)
    return Mixed(one, other, share)


@dataclass(frozen=True)
class Remapped:
    """A row at another pace, or over again.

    Attributes
    ----------
    sequence : ItemSequence
    count : int
    pace : Fraction
        Frames of the row from one frame to the next; with an easing, on average.
    repeat : int
    ease : str
    """

    sequence: ItemSequence
    count: int
    pace: Fraction
    repeat: int = 1
    ease: str = "linear"

    def at(self, place: Fraction) -> Node:
        """See `Track.at`."""
        whole = self.sequence.count * self.repeat
        if self.ease == "linear":
            found = place * self.pace
        else:
            found = Fraction(_eased(self.ease, place / self.count)).limit_denominator(10**6) * whole
        # An easing that swings leaves the row at its ends, and so does a place within a last frame that is rounded.
        if not 0 <= found < whole:
            found = Fraction(0 if found < 0 else whole - 1)
        return self.sequence.at(found % self.sequence.count)


@dataclass(frozen=True)
class Together:
    """The pictures of a layout."""

    layout: LayoutItem
    tracks: tuple[Track, ...]
    count: int

    def at(self, place: Fraction) -> Node:
        """See `Track.at`."""
        shown = []
        for cell, track in zip(self.layout.cells, self.tracks, strict=True):
            # Before it begins a picture shows its first frame, after its end its last.
            own = min(max(place - cell.offset, Fraction(0)), Fraction(track.count - 1))
            shown.append(track.at(own))
        if self.layout.arrangement == "divided":
            return Divided(shown[0], shown[1], self._divider(place))
        return Cells(self.layout, tuple(shown))

    def _divider(self, place: Fraction) -> float:
        keys = [Key(at, value, Easing.parse(self.layout.ease)) for at, value in self.layout.divider]
        phase = float(place / max(self.count - 1, 1))
        return float(np.clip(lane_values(keys, np.array([phase]))[0], 0, 1))


def missing_items(track: Track) -> Iterator[MissingItem]:
    """All holes of a track, within others too."""
    if isinstance(track, MissingItem):
        yield track
    within: Sequence[Track] = ()
    if isinstance(track, (ItemSequence, Together)):
        within = track.tracks
    elif isinstance(track, Remapped):
        within = (track.sequence,)
    for one in within:
        yield from missing_items(one)
