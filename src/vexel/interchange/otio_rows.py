"""Tracks of pictures of an OpenTimelineIO timeline as rows of items."""

from dataclasses import dataclass, field
from fractions import Fraction
from functools import partial
from typing import Any

import opentimelineio as otio
from pydantic import TypeAdapter, ValidationError

from vexel.core.errors import Mistake
from vexel.core.reel.item_spec import AnyItem, TransitionSpec, newer_names
from vexel.core.reel.reel_spec import Reel
from vexel.core.time.rate import Rate
from vexel.core.validation_message import validation_message
from vexel.core.wording import counted
from vexel.interchange.otio_clips import Shown, played
from vexel.interchange.otio_values import (
    MOST_FRAMES,
    MOST_NAME,
    OURS,
    Notes,
    exact,
    frames_of,
    kept,
    nearest,
    plain,
    transition_in,
    tried,
)

DEEPEST = 8
"""Greatest depth of nested tracks."""
_ITEM: TypeAdapter[AnyItem] = TypeAdapter(AnyItem)


@dataclass
class Row:
    """Items of a reel, in order, and markers of their clips in frames of the row."""

    items: list[dict[str, Any]] = field(default_factory=list)
    markers: list[dict[str, Any]] = field(default_factory=list)


def row_of(track: Any, rate: Rate, notes: Notes, depth: int = 0) -> Row:
    """Items of a track; what is skipped is noted.

    Every cut is rounded to the reel's frames from the row's begin, so that roundings do not add up.
    """
    children, row = list(track), Row()
    _without_nested(children, notes)
    at = Fraction(0)
    for number, child in enumerate(children):
        if isinstance(child, otio.schema.Transition):
            row.items.extend(_fade(children, number, rate, notes))
            continue
        lasts = _length(child, rate)
        frames = nearest(at + lasts) - nearest(at) if lasts is not None else None
        before, after = (transition_in(children, place) for place in (number - 1, number + 1))
        # At an end of the row there is nothing that a clip is seen together with.
        head = _handle(before, "in_offset", rate, notes) if number > 1 else 0
        tail = _handle(after, "out_offset", rate, notes) if number + 2 < len(children) else 0
        shown = Shown(frames, head, tail) if frames is not None else None
        item = tried(partial(_item, child, rate, shown, notes, depth), child.name, notes)
        if item is None and shown is not None:
            # Its place stays, so that what follows begins when it did.
            item = {"kind": "gap", "frames": min(shown.count, MOST_FRAMES)}
        if item is not None:
            transition = _transition(after, number + 2 >= len(children), rate, child.name, notes)
            row.items.append(item | ({"transition": transition} if transition else {}))
        row.markers.extend(_markers(child, at, rate, notes))
        at += lasts or 0
    return row


def _is_nested(child: Any) -> bool:
    return isinstance(child, (otio.schema.Stack, otio.schema.Track))


def _without_nested(children: list[Any], notes: Notes) -> None:
    """Remove transitions beside what is nested, which has no frames beyond its ends."""
    for number in reversed(range(len(children))):
        beside = (children[place] for place in (number - 1, number + 1) if 0 <= place < len(children))
        if isinstance(children[number], otio.schema.Transition) and any(map(_is_nested, beside)):
            notes.append("a transition beside what is nested is imported as a cut")
            del children[number]


def _length(child: Any, rate: Rate) -> Fraction | None:
    """Frames of the reel that a part lasts, which need not be whole; None where it does not say."""
    try:
        return max(exact(child.duration(), rate.fps), Fraction(0))
    except Exception:  # noqa: BLE001 (its library raises a special error for a part without a range)
        return None


def _handle(transition: Any, side: str, rate: Rate, notes: Notes) -> int:
    if transition is None:
        return 0
    return max(tried(lambda: frames_of(getattr(transition, side), rate), "a transition's length", notes) or 0, 0)


def _fade(children: list[Any], number: int, rate: Rate, notes: Notes) -> list[dict[str, Any]]:
    """The gap that a transition at an end of the row leads from, or to."""
    if number not in (0, len(children) - 1) or len(children) < 2:
        return []
    first = number == 0
    frames = _handle(children[number], "out_offset" if first else "in_offset", rate, notes)
    if not frames:
        notes.append(f"the transition at the row's {'begin' if first else 'end'} lasts no frame, and is left out")
        return []
    transition = {"transition": {"kind": "cross-dissolve", "frames": frames}} if first else {}
    return [{"kind": "gap", "frames": frames} | transition]


def _transition(transition: Any, last: bool, rate: Rate, name: str, notes: Notes) -> dict[str, Any] | None:
    if transition is None:
        return None
    read = partial(_read_transition, transition, last, rate, name, notes)
    found: dict[str, Any] | None = tried(read, f"the transition after {name}", notes)
    return found


def _read_transition(transition: Any, last: bool, rate: Rate, name: str, notes: Notes) -> dict[str, Any]:
    after = 0 if last else frames_of(transition.out_offset, rate)
    frames = max(frames_of(transition.in_offset, rate) + after, 0)
    held = plain(transition.metadata.get(OURS, {}))
    ours: Any = newer_names(held).get("transition", {}) if isinstance(held, dict) else {}
    kind = ours.get("kind", "cross-dissolve") if frames else "cut"
    if frames and not ours and transition.transition_type != otio.schema.TransitionTypes.SMPTE_Dissolve:
        notes.append(f"the transition after {name}, {transition.transition_type}, is imported as a cross-dissolve")
    return TransitionSpec.model_validate(ours | {"kind": kind, "frames": frames}).model_dump(
        mode="json", exclude_defaults=True
    )


def _markers(child: Any, at: Fraction, rate: Rate, notes: Notes) -> list[dict[str, Any]]:
    """Markers of a part of a track, in frames of the row."""
    if not hasattr(child, "markers"):
        return []

    def read(mark: Any) -> dict[str, Any]:
        span = child.trimmed_range()
        into = exact(mark.marked_range.start_time, rate.fps) - exact(span.start_time, rate.fps)
        warp = next((one for one in child.effects if isinstance(one, otio.schema.LinearTimeWarp)), None)
        if warp is not None and warp.time_scalar:
            # Markers are in time of the media.
            scalar = Fraction(warp.time_scalar).limit_denominator(10_000)
            into = into / scalar if scalar > 0 else exact(span.duration, rate.fps) + into / scalar
        return {"frame": max(nearest(at + into), 0), "name": mark.name[:MOST_NAME]}

    read_marks = [tried(partial(read, mark), f"the marker {mark.name}", notes) for mark in child.markers]
    return [mark for mark in read_marks if mark is not None]


def _item(child: Any, rate: Rate, shown: Shown | None, notes: Notes, depth: int) -> dict[str, Any]:
    item = _unchecked(child, rate, shown, notes, depth)
    try:
        _ITEM.validate_python(item, strict=False)
    except ValidationError as error:
        raise Mistake(validation_message(error, Reel)) from None
    return item


def _unchecked(child: Any, rate: Rate, shown: Shown | None, notes: Notes, depth: int) -> dict[str, Any]:
    name = child.name or type(child).__name__
    ours = kept(child, "item", notes, child.name)
    if ours and (same := _as_it_was(child, ours, shown)) is not None:
        return same
    gap = {"kind": "gap", "frames": shown.count if shown else 1}
    if isinstance(child, otio.schema.Gap):
        return gap
    if not getattr(child, "enabled", True):
        notes.append(f"{name} is disabled, so a gap is in its place")
        return gap
    if _is_nested(child):
        return _group(child, rate, shown, notes, depth) or gap
    if not isinstance(child, otio.schema.Clip):
        notes.append(f"{name}: a {type(child).__name__} is left out, and a gap is in its place")
        return gap
    reference = child.media_reference
    if isinstance(reference, otio.schema.GeneratorReference):
        text = str(reference.parameters.get("text", child.name)) or child.name
        if reference.generator_kind != "title":
            notes.append(f"{name}: what generates it, {reference.generator_kind}, is a title with its name")
        return {"kind": "title", "text": text[:1000]} | ({"frames": shown.count} if shown else {"seconds": 1})
    return played(child, rate, shown, notes)


def _as_it_was(child: Any, ours: dict[str, Any], shown: Shown | None) -> dict[str, Any] | None:
    """The item that Vexel kept, if the clip is still as long and begins where it did."""
    held = plain(child.metadata.get(OURS, {}))
    count = shown.frames if shown else None
    starts = child.source_range.start_time.value if child.source_range else None
    if held.get("frames", count) != count or starts != held.get("start", starts):
        return None
    item = {name: value for name, value in ours.items() if name not in ("transition", "joint")}
    try:
        _ITEM.validate_python(item, strict=False)
    except ValidationError:
        return None
    return item


def _group(nested: Any, rate: Rate, shown: Shown | None, notes: Notes, depth: int) -> dict[str, Any] | None:
    """What is nested, as a group of its lowest track's items; None where nothing of it can be shown."""
    name = nested.name or type(nested).__name__
    if depth >= DEEPEST:
        notes.append(f"{name}: what is nested deeper than {DEEPEST} tracks is left out, and a gap is in its place")
        return None
    if nested.effects:
        notes.append(f"{name}: {', '.join(type(one).__name__ for one in nested.effects)} is left out")
    track = nested
    if isinstance(nested, otio.schema.Stack):
        layers = [one for one in nested if getattr(one, "kind", "Video") == otio.schema.TrackKind.Video]
        if not layers:
            notes.append(f"{name} holds no pictures, so a gap is in its place")
            return None
        if len(nested) > 1:
            notes.append(f"{name}: of {counted(len(nested), 'nested layer')} the lowest of pictures is imported")
        track = layers[0] if isinstance(layers[0], otio.schema.Track) else _alone(layers[0])
    for one in dict.fromkeys((track, nested)) if track is not nested else (nested,):
        if one.source_range is not None:
            span, cut = one.source_range, track
            track = otio.algorithms.track_trimmed_to_range(cut, span)
            track.source_range = None
    row = row_of(track, rate, notes, depth + 1)
    if not row.items:
        notes.append(f"{name} is empty, so a gap is in its place")
        return None
    if row.markers:
        notes.append(f"{name}: markers of what is nested are left out")
    return {"kind": "group", "items": row.items} | ({"name": nested.name[:MOST_NAME]} if nested.name else {})


def _alone(clip: Any) -> Any:
    """A track of one clip, to be the only one in a stack."""
    return otio.schema.Track(children=[clip.deepcopy()])
