"""A reel worked out: how long it is and why, and what each of its frames shows."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property
from pathlib import PurePath
from types import MappingProxyType
from typing import Any, TypeAlias

from vexel.core.document.label import Label, fields_of, written
from vexel.core.errors import Mistake
from vexel.core.recipes.cue import Cue
from vexel.core.reel.item_spec import (
    AnyItem,
    GapItem,
    GroupItem,
    ItemSpec,
    LayoutItem,
    PlayedSpec,
    ReelItem,
    TitleItem,
)
from vexel.core.reel.media import MediaFacts, MediaRef
from vexel.core.reel.node import Card, Node, Plain, ReelFrame, Shown, shown_in
from vexel.core.reel.played_item import InStep, MissingItem, Playing
from vexel.core.reel.reel_spec import LABEL_FIELDS, Reel
from vexel.core.reel.tracks import ItemSequence, Remapped, Still, Together, Track
from vexel.core.time.clock import MAX_FRAMES, Clock, decimal
from vexel.core.time.rate import Rate
from vexel.core.time.timecode import has_timecode, timecode
from vexel.core.wording import counted

Facts: TypeAlias = Mapping[MediaRef, MediaFacts | None]
"""What is known of all media; None for what is not there."""
_OF_ITEMS = frozenset({"item", "count", "value"})
"""Fields of labels that change with the items alone."""
UNSAID = "–"
"""Of a label's field that what is shown does not have."""
TITLE_SECONDS = 3
"""Of a title, a gap or a hole that says no length."""
MOST_SHOWN = 12
"""Items whose lengths are spelled out."""


@dataclass(frozen=True)
class ReelPlan:
    """A reel worked out.

    Attributes
    ----------
    reel : Reel
    sequence : ItemSequence or None
        None for a reel without items.
    names : tuple of str
        Of the items.
    facts : mapping of MediaRef to MediaFacts
        Of their media.
    """

    reel: Reel
    sequence: ItemSequence | None
    names: tuple[str, ...]
    facts: Facts

    @cached_property
    def rate(self) -> Rate:
        """At which it is played."""
        return self.reel.exact_rate

    @cached_property
    def frames(self) -> int:
        """How many there are."""
        if self.sequence is None:
            return 0
        fitted = frames_of(self.reel.frames, self.reel.seconds, self.rate)
        return self.sequence.count if fitted is None else fitted

    @cached_property
    def item_documents(self) -> list[dict[str, Any]]:
        """The items as plain JSON values, from which patches are made."""
        return [item.model_dump(mode="json") for item in self.reel.items]

    @cached_property
    def _track(self) -> Track:
        assert self.sequence is not None
        if self.frames == self.sequence.count:
            return self.sequence
        return Remapped(self.sequence, self.frames, Fraction(self.sequence.count, self.frames))

    def node(self, number: int) -> Node:
        """What a frame shows, without labels."""
        return self._track.at(Fraction(number))

    def frame(self, number: int) -> ReelFrame:
        """What a frame shows.

        Raises
        ------
        Mistake
            When an item refuses what its place in the reel does to it.
        """
        return ReelFrame(self.node(number), self.labels_at(number))

    def item_of(self, number: int) -> int:
        """The item that a frame belongs to; within a transition the later one."""
        assert self.sequence is not None
        return self.sequence.item_at(Fraction(number) * self.sequence.count / self.frames)

    @cached_property
    def starts(self) -> tuple[int, ...]:
        """Frame of the reel at which each item begins."""
        if self.sequence is None:
            return ()
        return tuple(-(-start * self.frames // self.sequence.count) for start in self.sequence.starts)

    @cached_property
    def edges(self) -> tuple[float, ...]:
        """Where items begin in the reel, and where the last ends, in frames; a transition is shared at its middle."""
        if self.sequence is None:
            return ()
        scale = self.frames / self.sequence.count
        inner = [
            start + overlap / 2 for start, overlap in zip(self.sequence.starts[1:], self.sequence.overlaps, strict=True)
        ]
        return (0.0, *(edge * scale for edge in inner), float(self.frames))

    def part_names(self, number: int) -> list[str]:
        """Names of the items within an item."""
        return [_name(part, self.facts) for part in self.reel.items[number].parts]

    @property
    def chapters(self) -> tuple[Cue, ...]:
        """A chapter an item."""
        ends = [*self.starts[1:], self.frames]
        spans = zip(self.names, self.starts, ends, strict=True) if self.sequence else ()
        return tuple(Cue(name, begin, end) for name, begin, end in spans if begin < end)

    @property
    def subtitles(self) -> tuple[Cue, ...]:
        """The text of each label while it does not change; a counting label gives its number once a second."""
        each = max(round(self.rate.fps), 1)
        found = [
            cue
            for number, label in enumerate(self.reel.labels)
            for cue in self._cues(number, each if set(fields_of(label.text)) - _OF_ITEMS else self.frames)
        ]
        return tuple(sorted(found, key=lambda cue: (cue.begin, cue.end)))

    def _cues(self, label: int, each: int) -> list[Cue]:
        """Texts of a label at the beginning of each item, and every `each` frames."""
        begins = sorted({*range(0, self.frames, max(each, 1)), *(at for at in self.starts if at < self.frames)})
        cues: list[Cue] = []
        for begin, end in zip(begins, [*begins[1:], self.frames], strict=True):
            said = self.labels_at(begin)[label].text
            if cues and (cues[-1].text, cues[-1].end) == (said, begin):
                cues[-1] = replace(cues[-1], end=end)
            elif said.strip():
                cues.append(Cue(said, begin, end))
        return cues

    @property
    def reason(self) -> str:
        """How the length comes about: ``120 + 120 − 12 = 228 frames = 9.5 s``."""
        if self.sequence is None:
            return "no items = 0 frames"
        lengths = [track.count for track in self.sequence.tracks]
        parts = [f"{n} × {length:,}" if n > 1 else f"{length:,}" for length, n in _runs(lengths)]
        said = " + ".join(parts) if len(parts) <= MOST_SHOWN else f"{counted(len(lengths), 'item')}, {sum(lengths):,}"
        if overlap := sum(self.sequence.overlaps):
            said += f" − {overlap:,}"
        whole = f"{counted(self.sequence.count, 'frame')}"
        if self.frames != self.sequence.count:
            whole += f", fitted to {counted(self.frames, 'frame')}"
        said = f"{said} = {whole}" if len(lengths) > 1 or overlap else whole
        return f"{said} = {decimal(self.frames / self.rate.fps)} s at {self.rate.label}"

    def labels_at(self, number: int) -> tuple[Label, ...]:
        """The reel's own labels on a frame."""
        if not self.reel.labels:
            return ()
        fps = self.rate.fps
        seconds = number / fps
        values: dict[str, float | str] = {
            "frame": number,
            "number": number,
            "count": self.frames,
            "phase": number / max(self.frames - 1, 1),
            "seconds": float(seconds),
            "timecode": timecode(number, self.rate) if has_timecode(self.rate) else f"{float(seconds):.3f} s",
            "item": self.names[self.item_of(number)],
        }
        values |= self._dials(number)
        labels = self.reel.labels
        return tuple(
            Label(written(one.text, values | {"value": one.value}), one.at, one.size, one.colour, one.align)
            for one in labels
        )

    @cached_property
    def label_dials(self) -> tuple[str, ...]:
        """Fields that labels show in addition to the usual ones."""
        found = (name for label in self.reel.labels for name in fields_of(label.text) if name not in LABEL_FIELDS)
        return tuple(dict.fromkeys(found))

    def _dials(self, number: int) -> dict[str, float | str]:
        """Dials of what a frame shows, of a transition those of the later item; a dash where there is none."""
        values: dict[str, float | str] = dict.fromkeys(self.label_dials, UNSAID)
        if not values:
            return values
        for shown in shown_in(self.node(number)):
            known = self.facts.get(shown.ref)
            for name in values:
                if known is not None and name in known.dials:
                    values[name] = _value_at(known, shown, name)
        return values


def _value_at(facts: MediaFacts, shown: Shown, name: str) -> float:
    """A dial at a frame, or at the instant that lies between two."""
    values = facts.dials[name]
    if shown.phase is None:
        return values[shown.frame]
    place = shown.phase * (facts.frames - (0 if facts.closes else 1))
    begin = place.__floor__() % facts.frames
    one, other = values[begin], values[begin + 1]
    return one + float(place % 1) * (other - one)


def frames_of(frames: int | None, seconds: float | None, rate: Rate) -> int | None:
    """A stated length in frames; None where none is."""
    if frames is not None:
        return frames
    return None if seconds is None else Clock.frames_lasting(rate, Fraction(repr(seconds)))


def plan_reel(reel: Reel, facts: Facts, before: ReelPlan | None = None) -> ReelPlan:
    """Work out a reel.

    Parameters
    ----------
    before : ReelPlan, optional
        Of the reel before an edit: what its items show is taken over for those that are the same objects.

    Raises
    ------
    Mistake
        When an item asks for frames that its media do not have, or the reel becomes too long.
    """
    if not reel.items:
        return ReelPlan(reel, None, (), facts)
    sequence = _sequence(reel.items, reel.exact_rate, facts, _tracks_of(before, reel, facts))
    of_media = {ref: media_name(ref, known) for ref, known in facts.items()}
    names = (_name(item, facts, of_media) for item in reel.items)
    plan = ReelPlan(reel, sequence, tuple(names), facts)
    if plan.frames > MAX_FRAMES:
        raise Mistake(f"{reel.title} has {plan.frames:,} frames, more than the {MAX_FRAMES:,} that a file may have")
    return plan


def _tracks_of(before: ReelPlan | None, reel: Reel, facts: Facts) -> Mapping[int, Track]:
    """What items show, by their identities, where it is what equal items of a plan before showed."""
    if before is None or before.sequence is None or before.reel.rate != reel.rate:
        return {}
    unchanged = {ref for ref, known in facts.items() if before.facts.get(ref) is known}
    found: dict[int, Track] = {}
    known, items = list(zip(before.reel.items, before.sequence.tracks, strict=True)), reel.items
    # Items that an edit left alone are the same objects; those that undo read again are at the places they had.
    from_begin, from_end = zip(known, items, strict=False), zip(known[::-1], items[::-1], strict=False)
    for (item, track), now in (*from_begin, *from_end):
        if isinstance(track, Playing) and track.step is None and track.item.ref in unchanged:
            found[id(item)] = track
            if now == item:
                found[id(now)] = track
    return found


def _sequence(
    items: Sequence[AnyItem], rate: Rate, facts: Facts, known: Mapping[int, Track] = MappingProxyType({})
) -> ItemSequence:
    tracks: list[Track] = []
    for number, item in enumerate(items):
        track = known.get(id(item)) or _track(item, rate, facts)
        before = tracks[-1] if tracks else None
        if number and items[number - 1].transition.in_step and may_go_in_step(before, track):
            assert isinstance(before, Playing) and isinstance(track, Playing)
            begins = Fraction(before.count - min(items[number - 1].transition.frames, before.count))
            track = replace(track, step=InStep(before.motion_at(begins), track.pace, track.moving))
        tracks.append(track)
    return ItemSequence(tuple(tracks), tuple(item.transition for item in items[:-1]))


def may_go_in_step(one: Track | None, other: Track) -> bool:
    """Whether two items show one shot at one pace, so that the second can continue where the first is."""
    if not (isinstance(one, Playing) and isinstance(other, Playing)) or not one.facts.shot:
        return False
    forward = one.item.order == other.item.order == "forward"
    return one.facts.shot == other.facts.shot and one.pace == other.pace and forward


def _track(item: AnyItem, rate: Rate, facts: Facts) -> Track:
    """What an item shows; a hole where it asks for what cannot be, so that the others can still be seen."""
    try:
        track = _track_of(item, rate, facts)
        if isinstance(track, Playing):
            track.check()
        return track
    except Mistake as error:
        usual = Clock.frames_lasting(rate, Fraction(TITLE_SECONDS))
        return MissingItem(_name(item, facts), item.frames or usual, str(error))


def _track_of(item: AnyItem, rate: Rate, facts: Facts) -> Track:
    stated = frames_of(item.frames, item.seconds, rate)
    usual = Clock.frames_lasting(rate, Fraction(TITLE_SECONDS)) if stated is None else stated
    if isinstance(item, PlayedSpec):
        known = facts.get(item.ref)
        if known is None:
            return MissingItem(item.ref.label, _guessed(item, stated, usual))
        return Playing(item, known, rate)
    if isinstance(item, TitleItem):
        return Still(Card(item), usual)
    if isinstance(item, GapItem):
        return Still(Plain(), usual)
    if isinstance(item, GroupItem):
        own = Rate.parse(item.rate) if item.rate else rate
        sequence = _sequence(item.items, own, facts)
        whole = sequence.count * item.repeat
        pace = Fraction(repr(item.speed)) * own.fps / rate.fps if stated is None else Fraction(whole, stated)
        count = max((whole / pace + Fraction(1, 2)).__floor__(), 1) if stated is None else stated
        as_it_is = item.repeat == 1 and pace == 1 and item.ease == "linear"
        return sequence if as_it_is else Remapped(sequence, count, pace, item.repeat, item.ease)
    if isinstance(item, ReelItem):
        # Those that can be read were put in their places before.
        return MissingItem(item.reel, usual)
    tracks = tuple(_track(cell.item, rate, facts) for cell in item.cells)
    longest = max(track.count + max(cell.offset, 0) for track, cell in zip(tracks, item.cells, strict=True))
    return Together(item, tracks, longest if stated is None else stated)


def _guessed(item: PlayedSpec, stated: int | None, usual: int) -> int:
    """Frames of an item that is gone: those it says, or a usual length."""
    if stated is not None:
        return stated
    if item.last is not None:
        return (item.last - item.first + 1) * item.repeat + item.hold_start + item.hold_end
    return usual


def _name(item: ItemSpec, facts: Facts, of_media: Mapping[MediaRef, str] = MappingProxyType({})) -> str:
    if item.name:
        return item.name
    if isinstance(item, PlayedSpec):
        return of_media.get(ref := item.ref) or media_name(ref, facts.get(ref))
    if isinstance(item, TitleItem):
        return item.text.split("\n")[0] or "Title"
    return _UNNAMED[type(item)]


def media_name(ref: MediaRef, known: MediaFacts | None) -> str:
    """A name of media for people: of their shot, and of the camera and pass where there are several."""
    if not known or not known.title:
        return PurePath(ref.place).name
    return ", ".join([known.title, *_apart(ref, known)])


def _apart(ref: MediaRef, facts: MediaFacts) -> list[str]:
    """The words that distinguish a camera pass from the others of its take."""
    shown = next((one for one in facts.passes if ref.camera in ("", one[0]) and ref.render_pass in ("", one[1])), None)
    if shown is None:
        return []
    return [name for name, all_ in zip(shown, zip(*facts.passes, strict=True), strict=True) if len(set(all_)) > 1]


_UNNAMED = {GapItem: "Gap", LayoutItem: "Layout", GroupItem: "Group", ReelItem: "Reel"}


def _runs(values: list[int]) -> list[tuple[int, int]]:
    """Values that follow each other and are equal, with how many they are."""
    found: list[tuple[int, int]] = []
    for value in values:
        if found and found[-1][0] == value:
            found[-1] = (value, found[-1][1] + 1)
        else:
            found.append((value, 1))
    return found
