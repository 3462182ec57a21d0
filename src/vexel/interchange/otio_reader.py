"""Reads an OpenTimelineIO timeline as a reel, by its own library, whoever wrote it.

The library is native and ends its process over some damaged files: it is only called where that may be.
See `vexel.crew.stage_process.StageProcess.timeline`.
"""

import math
from collections.abc import Callable, Iterator
from fractions import Fraction
from functools import partial
from typing import Any
from urllib.parse import unquote, urlparse

import opentimelineio as otio
from pydantic import TypeAdapter, ValidationError

from vexel.core.errors import Mistake
from vexel.core.reel.item_spec import AnyItem, JointSpec
from vexel.core.reel.reel_spec import Reel, read_reel_document
from vexel.core.time.rate import Rate
from vexel.core.validation_message import validation_message
from vexel.core.wording import counted
from vexel.interchange.otio_writer import OURS

_MOST_NAME, _MOST_FRAMES = 200, 1_000_000
_RATES = (Fraction(1), Fraction(1000))
_FINEST = 1001
_ITEM: TypeAdapter[AnyItem] = TypeAdapter(AnyItem)
_Notes = list[str]


def read_otio(text: str, name: str) -> tuple[Reel, list[str]]:
    """The reel of a timeline, and a sentence for each thing that was skipped.

    Raises
    ------
    Mistake
        When it is no timeline, or no reel can be made of it.
    """
    try:
        found = otio.adapters.read_from_string(text, "otio_json")
    except Exception as error:  # its library raises errors of many kinds
        raise Mistake(f"{name} cannot be read as an OpenTimelineIO file: {error}") from None
    notes: _Notes = []
    timeline = _timeline_in(found, name, notes)
    kept = _ours(timeline, "reel", notes, _name_of(timeline, name))
    try:
        return _reel_of(timeline, name, kept, notes)
    except Mistake:
        if not kept:
            raise
    notes.append("what Vexel kept in its metadata is not valid, and is ignored")
    return _reel_of(timeline, name, {}, notes)


def _timeline_in(found: Any, name: str, notes: _Notes) -> Any:
    if isinstance(found, otio.schema.SerializableCollection):
        timelines = [one for one in found if isinstance(one, otio.schema.Timeline)]
        if len(timelines) > 1:
            notes.append(f"{name} holds {len(timelines)} timelines, and the first is imported")
        found = timelines[0] if timelines else found
    if not isinstance(found, otio.schema.Timeline):
        raise Mistake(f"{name} holds a {type(found).__name__}, and no timeline")
    return found


def _reel_of(timeline: Any, name: str, kept: dict[str, Any], notes: _Notes) -> tuple[Reel, list[str]]:
    video = [track for track in timeline.video_tracks() if len(track)]
    rate = _rate_of(timeline, video, kept, notes)
    document: dict[str, Any] = {"title": _name_of(timeline, name), "rate": str(rate.fps)} | kept
    if len(video) > 1:
        notes.append(
            f"{counted(len(video) - 1, 'further track')} of pictures {'lies' if len(video) == 2 else 'lie'} over the "
            "first and left out: a reel has one row, in which a layout shows several at once"
        )
    document["items"] = list(_read_items(video[0], rate, notes)) if video else []
    if "sound" not in kept:
        document["sound"] = [one for track in timeline.audio_tracks() for one in _read_sounds(track, notes)]
    if video and "markers" not in kept:
        read = [_tried(partial(_read_marker, one, rate), f"the marker {one.name}", notes) for one in video[0].markers]
        document["markers"] = [mark for mark in read if mark is not None]
    return read_reel_document(document, name), list(dict.fromkeys(notes))


def _tried(read: Callable[[], Any], what: str, notes: _Notes) -> Any:
    """What was read of a part of a timeline; None where it cannot be, which is noted."""
    try:
        return read()
    except Exception as error:  # its library, and values that no program should write, raise errors of many kinds
        reason = str(error).splitlines()[0][:200] if str(error) else type(error).__name__
        notes.append(f"{what or 'an item without a name'} is skipped, since it cannot be read: {reason}")
        return None


def _rate_of(timeline: Any, video: list[Any], kept: dict[str, Any], notes: _Notes) -> Rate:
    """The rate that Vexel kept, else that of the first clip, else of the timeline's start."""
    if "rate" in kept:
        try:
            return Rate.parse(str(kept["rate"]))
        except Mistake:
            notes.append(f"the rate {str(kept.pop('rate'))[:40]!r} in its metadata is none, and is ignored")
    found = [clip.source_range or clip.media_reference.available_range for track in video for clip in _clips(track)]
    times = [span.duration for span in found if span is not None]
    times += [timeline.global_start_time] if timeline.global_start_time is not None else []
    for time in times:
        if (rate := _fraction(time.rate)) and _RATES[0] <= rate <= _RATES[1]:
            return Rate(rate)
    if video:
        notes.append("no clip has a usable rate, so the reel has 24 fps")
    return Rate(Fraction(24))


def _clips(track: Any) -> Iterator[Any]:
    for child in track:
        if isinstance(child, otio.schema.Clip) and child.media_reference is not None:
            yield child


def _fraction(rate: float) -> Fraction | None:
    """A rate as an exact fraction; None where it is no rate."""
    return Fraction(rate).limit_denominator(_FINEST) if math.isfinite(rate) and rate > 0 else None


def _read_items(track: Any, rate: Rate, notes: _Notes) -> Iterator[dict[str, Any]]:
    children = list(track)
    for number, child in enumerate(children):
        if isinstance(child, otio.schema.Transition):
            continue
        before, after = (_transition(children, place) for place in (number - 1, number + 1))
        head = _handle(before, "in_offset", rate, notes)
        tail = _handle(after, "out_offset", rate, notes)
        item = _tried(partial(_read_item, child, rate, head, tail, notes), child.name, notes)
        if item is None:
            # Its place stays, where that is known, so that what follows begins when it did.
            frames = _length_of(child, rate)
            if frames is None:
                continue
            item = {"kind": "gap", "frames": min(max(frames + head + tail, 1), _MOST_FRAMES)}
        if after is not None:
            joint = _tried(partial(_read_joint, after, rate), f"the transition after {child.name}", notes)
            item |= {"joint": joint} if joint else {}
        yield item


def _valid(item: dict[str, Any]) -> dict[str, Any]:
    try:
        _ITEM.validate_python(item, strict=False)
    except ValidationError as error:
        raise Mistake(validation_message(error, Reel)) from None
    return item


def _transition(children: list[Any], place: int) -> Any:
    found = children[place] if 0 <= place < len(children) else None
    return found if isinstance(found, otio.schema.Transition) else None


def _handle(transition: Any, side: str, rate: Rate, notes: _Notes) -> int:
    if transition is None:
        return 0
    return max(_tried(lambda: _frames(getattr(transition, side), rate), "a transition's length", notes) or 0, 0)


def _read_joint(transition: Any, rate: Rate) -> dict[str, Any]:
    frames = max(_frames(transition.in_offset, rate) + _frames(transition.out_offset, rate), 0)
    kept = _plain(transition.metadata.get(OURS, {}))
    kept = kept.get("joint", {}) if isinstance(kept, dict) else {}
    kind = kept.get("kind", "cross-fade") if frames else "cut"
    return JointSpec.model_validate(kept | {"kind": kind, "frames": frames}).model_dump(
        mode="json", exclude_defaults=True
    )


def _read_marker(mark: Any, rate: Rate) -> dict[str, Any]:
    return {"frame": max(_frames(mark.marked_range.start_time, rate), 0), "name": mark.name[:_MOST_NAME]}


def _read_item(child: Any, rate: Rate, head: int, tail: int, notes: _Notes) -> dict[str, Any]:
    return _valid(_item_of(child, rate, head, tail, notes))


def _item_of(child: Any, rate: Rate, head: int, tail: int, notes: _Notes) -> dict[str, Any]:
    count = _length_of(child, rate)
    own = _ours(child, "item", notes, child.name)
    if own and (kept := _as_it_was(child, own, count)) is not None:
        return kept
    if isinstance(child, otio.schema.Gap):
        return {"kind": "gap", "frames": max((count or 0) + head + tail, 1)}
    if not isinstance(child, otio.schema.Clip):
        notes.append(f"{child.name or type(child).__name__}: what is nested is left out, and a gap is in its place")
        return {"kind": "gap", "frames": max(count or 0, 1)}
    if not child.enabled and count is not None:
        notes.append(f"{child.name or 'a clip'} is disabled, so a gap is in its place")
        return {"kind": "gap", "frames": max(count + head + tail, 1)}
    reference = child.media_reference
    if isinstance(reference, otio.schema.GeneratorReference):
        text = str(reference.parameters.get("text", child.name)) or child.name
        frames = {"frames": max(count + head + tail, 1)} if count is not None else {"seconds": 1}
        return {"kind": "title", "text": text[:1000]} | frames
    return _read_played(child, reference, rate, count, (head, tail), notes)


def _as_it_was(child: Any, own: dict[str, Any], count: int | None) -> dict[str, Any] | None:
    """The item that Vexel kept, if the clip is still as long and begins where it did."""
    told = _plain(child.metadata.get(OURS, {}))
    if told.get("frames", count) != count or _starts(child) != told.get("start", _starts(child)):
        return None
    kept = {name: value for name, value in own.items() if name != "joint"}
    try:
        return _valid(kept)
    except Mistake:
        return None


def _read_played(
    clip: Any, reference: Any, rate: Rate, count: int | None, handles: tuple[int, int], notes: _Notes
) -> dict[str, Any]:
    scalar, others = _time_scalar(clip)
    if others:
        notes.append(f"{clip.name}: {', '.join(others)} is left out")
    available = reference.available_range if reference is not None else None
    span = clip.source_range or available
    media = _fraction((available or span).duration.rate) if span is not None else None
    item = _media_of(clip, reference, media or rate.fps, notes) | {"name": clip.name[:_MOST_NAME]}
    if scalar < 0:
        item["order"] = "backward"
    if span is None or media is None or count is None:
        notes.append(f"{clip.name or 'a clip'}: it does not say which frames of its media it shows, so it shows all")
        return item
    pace = Fraction(abs(scalar)).limit_denominator(10_000) * media / rate.fps
    start = span.start_time.rescaled_to(float(media)).value
    offset = available.start_time.rescaled_to(float(media)).value if available is not None else 0
    first = start - offset - float(handles[0] * pace)
    whole = count + sum(handles)
    begin = max(round(first), 0)
    item |= {"first": begin, "last": begin + max(round(whole * pace), 1) - 1}
    if pace != media / rate.fps:
        item["frames"] = max(whole, 1)
    return item


def _time_scalar(clip: Any) -> tuple[float, list[str]]:
    """How much faster a clip plays, and its other effects."""
    warps = [effect for effect in clip.effects if isinstance(effect, otio.schema.LinearTimeWarp)]
    others = [type(effect).__name__ for effect in clip.effects if effect not in warps]
    scalar = next((float(effect.time_scalar) for effect in warps), 1.0)
    # A still frame is a warp of 0; what is no number is none.
    return (scalar if math.isfinite(scalar) and scalar else 1.0), others


def _media_of(clip: Any, reference: Any, media: Fraction, notes: _Notes) -> dict[str, Any]:
    if isinstance(reference, otio.schema.ImageSequenceReference):
        padding = reference.frame_zero_padding
        number = f"%0{padding}d" if padding > 1 else "%d"
        base = _path(reference.target_url_base)
        name = f"{reference.name_prefix}{number}{reference.name_suffix}"
        return {"kind": "stills", "file": f"{base}/{name}" if base else name, "rate": str(media)}
    if isinstance(reference, otio.schema.ExternalReference) and reference.target_url:
        return {"kind": "clip", "file": _path(reference.target_url)}
    name = (reference.name if reference is not None else "") or clip.name or "missing"
    notes.append(f"{clip.name or 'a clip'}: it names no file, so {name} is looked for beside the reel")
    return {"kind": "clip", "file": name}


def _read_sounds(track: Any, notes: _Notes) -> Iterator[dict[str, Any]]:
    for clip in track:
        if isinstance(clip, otio.schema.Clip) and isinstance(clip.media_reference, otio.schema.ExternalReference):
            sound = _tried(partial(_read_sound, clip), f"the sound {clip.name}", notes)
            if sound is not None:
                yield sound


def _read_sound(clip: Any) -> dict[str, Any]:
    span = clip.trimmed_range()
    values = {
        "at": clip.range_in_parent().start_time.to_seconds(),
        "first": span.start_time.to_seconds(),
        "seconds": span.duration.to_seconds(),
    }
    if not all(math.isfinite(value) and value >= 0 for value in values.values()) or not values["seconds"]:
        raise ValueError("its times are no numbers")
    return {"file": _path(clip.media_reference.target_url)} | values


def _ours(part: Any, key: str, notes: _Notes, name: str) -> dict[str, Any]:
    """What Vexel kept in the metadata of a part; nothing where that is of another program, or damaged."""
    kept = _plain(part.metadata.get(OURS, {}))
    found = kept.get(key, {}) if isinstance(kept, dict) else {}
    if not isinstance(found, dict):
        notes.append(f"{name}: what its metadata keep for Vexel is not valid, and is ignored")
        return {}
    return found


def _name_of(part: Any, otherwise: str) -> str:
    return (part.name.strip() or otherwise)[:_MOST_NAME]


def _path(url: str) -> str:
    found = urlparse(url)
    return unquote(found.path) if found.scheme == "file" else unquote(url)


def _starts(child: Any) -> float | None:
    return child.source_range.start_time.value if child.source_range else None


def _length_of(child: Any, rate: Rate) -> int | None:
    """Frames of the reel that a part lasts; None where it does not say."""
    try:
        return _frames(child.duration(), rate)
    except Exception:  # its library has an error of its own for a part without a range
        return None


def _frames(time: Any, rate: Rate) -> int:
    frames: int = round(time.rescaled_to(float(rate.fps)).value)
    return frames


def _plain(value: Any) -> Any:
    """Values of its library as those of Python."""
    if hasattr(value, "items"):
        return {str(key): _plain(one) for key, one in value.items()}
    if isinstance(value, (list, tuple)) or type(value).__name__ == "AnyVector":
        return [_plain(one) for one in value]
    return value
