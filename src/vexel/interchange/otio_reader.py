"""Reads an OpenTimelineIO timeline as a reel, by its own library, whoever wrote it."""

from collections.abc import Iterator
from fractions import Fraction
from typing import Any
from urllib.parse import unquote, urlparse

import opentimelineio as otio

from vexel.core.errors import Mistake
from vexel.core.reel.item_spec import JointSpec
from vexel.core.reel.reel_spec import Reel, read_reel_document
from vexel.core.time.rate import Rate
from vexel.core.wording import counted
from vexel.interchange.otio_writer import OURS


def read_otio(text: str, name: str) -> tuple[Reel, list[str]]:
    """The reel of a timeline, and what was left out of it.

    Raises
    ------
    Mistake
        When it is no timeline.
    """
    try:
        timeline = otio.adapters.read_from_string(text, "otio_json")
    except Exception as error:  # its library raises errors of many kinds
        raise Mistake(f"{name} cannot be read as an OpenTimelineIO file: {error}") from None
    if not isinstance(timeline, otio.schema.Timeline):
        raise Mistake(f"{name} holds a {type(timeline).__name__}, and no timeline")
    notes: list[str] = []
    kept = _plain(timeline.metadata.get(OURS, {})).get("reel", {})
    video = [track for track in timeline.video_tracks() if len(track)]
    rate = Rate.parse(kept["rate"]) if "rate" in kept else _rate_of(video)
    document: dict[str, Any] = {"title": timeline.name or name, "rate": str(rate.fps)} | kept
    if len(video) > 1:
        notes.append(
            f"{counted(len(video) - 1, 'further track')} of pictures {'lies' if len(video) == 2 else 'lie'} over the "
            "first and left out: a reel has one row, in which a layout shows several at once"
        )
    document["items"] = list(_read_items(video[0], rate, notes)) if video else []
    if "sound" not in kept:
        document["sound"] = [one for track in timeline.audio_tracks() for one in _read_sounds(track)]
    if video and "markers" not in kept:
        document["markers"] = [
            {"frame": round(mark.marked_range.start_time.rescaled_to(float(rate.fps)).value), "name": mark.name}
            for mark in video[0].markers
        ]
    return read_reel_document(document, name), notes


def _rate_of(video: list[Any]) -> Rate:
    for track in video:
        for clip in track.find_clips():
            return Rate(Fraction(clip.duration().rate).limit_denominator(1001))
    return Rate(Fraction(24))


def _read_items(track: Any, rate: Rate, notes: list[str]) -> Iterator[dict[str, Any]]:
    children = list(track)
    for number, child in enumerate(children):
        if isinstance(child, otio.schema.Transition):
            continue
        before = children[number - 1] if number and isinstance(children[number - 1], otio.schema.Transition) else None
        after = children[number + 1] if number + 1 < len(children) else None
        after = after if isinstance(after, otio.schema.Transition) else None
        head = _frames(before.in_offset, rate) if before else 0
        tail = _frames(after.out_offset, rate) if after else 0
        item = _read_item(child, rate, head, tail, notes)
        if after is not None:
            item["joint"] = _read_joint(after, rate)
        yield item


def _read_joint(transition: Any, rate: Rate) -> dict[str, Any]:
    frames = _frames(transition.in_offset, rate) + _frames(transition.out_offset, rate)
    kept = _plain(transition.metadata.get(OURS, {})).get("joint", {})
    kind = kept.get("kind", "cross-fade") if frames else "cut"
    return JointSpec.model_validate(kept | {"kind": kind, "frames": frames}).model_dump(
        mode="json", exclude_defaults=True
    )


def _read_item(child: Any, rate: Rate, head: int, tail: int, notes: list[str]) -> dict[str, Any]:
    count = _frames(child.duration(), rate)
    own = _plain(child.metadata.get(OURS, {}))
    if "item" in own and own.get("frames", count) == count and _starts(child) == own.get("start", _starts(child)):
        return {name: value for name, value in own["item"].items() if name != "joint"}
    if isinstance(child, otio.schema.Gap):
        return {"kind": "gap", "frames": max(count + head + tail, 1)}
    if not isinstance(child, otio.schema.Clip):
        notes.append(f"{child.name or type(child).__name__}: what is nested is left out, and a gap is in its place")
        return {"kind": "gap", "frames": max(count, 1)}
    reference = child.media_reference
    if isinstance(reference, otio.schema.GeneratorReference):
        text = str(reference.parameters.get("text", child.name))
        return {"kind": "title", "text": text, "frames": max(count + head + tail, 1)}
    return _read_played(child, reference, rate, count, (head, tail), notes)


def _read_played(
    clip: Any, reference: Any, rate: Rate, count: int, handles: tuple[int, int], notes: list[str]
) -> dict[str, Any]:
    available = reference.available_range or clip.trimmed_range()
    media = Fraction(available.duration.rate).limit_denominator(1001)
    scalar = next((e.time_scalar for e in clip.effects if isinstance(e, otio.schema.LinearTimeWarp)), 1.0)
    others = [type(e).__name__ for e in clip.effects if not isinstance(e, otio.schema.LinearTimeWarp)]
    if others:
        notes.append(f"{clip.name}: {', '.join(others)} is left out")
    pace = Fraction(abs(scalar) or 1.0).limit_denominator(10_000) * media / rate.fps
    start = clip.trimmed_range().start_time.rescaled_to(float(media)).value
    first = start - available.start_time.rescaled_to(float(media)).value - float(handles[0] * pace)
    whole = count + sum(handles)
    begin = max(round(first), 0)
    last = begin + max(round(whole * pace), 1) - 1
    item = _media_of(reference, media) | {"name": clip.name, "first": begin, "last": last}
    if scalar < 0:
        item["order"] = "backward"
    if pace != media / rate.fps:
        item["frames"] = whole
    return item


def _media_of(reference: Any, media: Fraction) -> dict[str, Any]:
    if isinstance(reference, otio.schema.ImageSequenceReference):
        padding = reference.frame_zero_padding
        number = f"%0{padding}d" if padding > 1 else "%d"
        base = _path(reference.target_url_base)
        file = f"{base}/{reference.name_prefix}{number}{reference.name_suffix}" if base else (
            f"{reference.name_prefix}{number}{reference.name_suffix}")  # fmt: skip
        return {"kind": "stills", "file": file, "rate": str(media)}
    if isinstance(reference, otio.schema.ExternalReference):
        return {"kind": "clip", "file": _path(reference.target_url)}
    return {"kind": "clip", "file": reference.name or "missing"}


def _read_sounds(track: Any) -> Iterator[dict[str, Any]]:
    for clip in track.find_clips():
        if isinstance(clip.media_reference, otio.schema.ExternalReference):
            span = clip.trimmed_range()
            begins = clip.range_in_parent().start_time.to_seconds()
            yield {
                "file": _path(clip.media_reference.target_url), "at": begins,
                "first": span.start_time.to_seconds(), "seconds": span.duration.to_seconds(),
            }  # fmt: skip


def _path(url: str) -> str:
    found = urlparse(url)
    return unquote(found.path) if found.scheme == "file" else unquote(url)


def _starts(child: Any) -> float | None:
    return child.source_range.start_time.value if child.source_range else None


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
