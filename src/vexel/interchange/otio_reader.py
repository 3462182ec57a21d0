"""Reads an OpenTimelineIO timeline of any program as a reel, by the standard's own library.

The library is native and ends its process over some damaged files: it is only called where that may be.
See `vexel.workers.stage_process.StageProcess.timeline`.
"""

from collections.abc import Iterator
from fractions import Fraction
from typing import Any

import opentimelineio as otio

from vexel.core.errors import Mistake
from vexel.core.reel.reel_spec import Reel, read_reel_document
from vexel.core.time.rate import Rate
from vexel.core.wording import counted
from vexel.interchange.otio_rows import Row, row_of
from vexel.interchange.otio_sounds import sounds_of
from vexel.interchange.otio_values import MOST_NAME, Notes, exact, fraction, kept, name_of, nearest, tried

_RATES = (Fraction(1), Fraction(1000))


def read_otio(text: str, name: str) -> tuple[Reel, list[str]]:
    """The reel of a timeline, and a sentence for each thing that was skipped.

    Raises
    ------
    Mistake
        When it is no timeline, or no reel can be made of it.
    """
    try:
        found = otio.adapters.read_from_string(text, "otio_json")
    except Exception as error:  # noqa: BLE001 (its library raises errors of many kinds)
        raise Mistake(f"{name} cannot be read as an OpenTimelineIO file: {error}") from None
    notes: Notes = []
    timeline = _timeline_in(found, name, notes)
    ours = kept(timeline, "reel", notes, name_of(timeline, name))
    try:
        return _reel_of(timeline, name, ours, notes)
    except Mistake:
        if not ours:
            raise
    notes.append("what Vexel kept in its metadata is not valid, and is ignored")
    return _reel_of(timeline, name, {}, notes)


def _timeline_in(found: Any, name: str, notes: Notes) -> Any:
    if isinstance(found, otio.schema.SerializableCollection):
        timelines = [one for one in found if isinstance(one, otio.schema.Timeline)]
        if len(timelines) > 1:
            notes.append(f"{name} holds {len(timelines)} timelines, and the first is imported")
        found = timelines[0] if timelines else found
    if not isinstance(found, otio.schema.Timeline):
        raise Mistake(f"{name} holds a {type(found).__name__}, not a timeline")
    return found


def _reel_of(timeline: Any, name: str, ours: dict[str, Any], notes: Notes) -> tuple[Reel, list[str]]:
    video = [track for track in timeline.video_tracks() if len(track) and _is_used(track, notes)]
    rate = _rate_of(timeline, video, ours, notes)
    document: dict[str, Any] = {"title": name_of(timeline, name), "rate": str(rate.fps)} | ours
    if len(video) > 1:
        notes.append(
            f"{counted(len(video) - 1, 'further track')} of pictures {'lies' if len(video) == 2 else 'lie'} over the "
            "first and left out: a reel has one row, in which a layout shows several at once"
        )
    for track in timeline.tracks:
        if track.kind not in (otio.schema.TrackKind.Video, otio.schema.TrackKind.Audio):
            notes.append(f"the track {track.name}, of kind {track.kind}, is left out")
    stack = timeline.tracks
    if stack.effects:
        notes.append(f"effects of the whole are left out: {', '.join(type(one).__name__ for one in stack.effects)}")
    row = row_of(_trimmed(_trimmed(video[0], video[0], notes), stack, notes), rate, notes) if video else Row()
    document["items"] = row.items
    if "sound" not in ours:
        heard = [track for track in timeline.audio_tracks() if len(track) and _is_used(track, notes)]
        tracks = [_trimmed(_trimmed(track, track, notes), stack, notes) for track in heard]
        document["sound"] = [one for track in tracks for one in sounds_of(track, notes)]
    if video and "markers" not in ours:
        document["markers"] = [*_markers(video[0], rate, notes), *_markers(stack, rate, notes), *row.markers]
        document["markers"].sort(key=lambda mark: mark["frame"])
    start = timeline.global_start_time
    if start is not None and start.value:
        notes.append("the time at which it begins is left out: a reel counts from 0")
    return read_reel_document(document, name), list(dict.fromkeys(notes))


def _is_used(track: Any, notes: Notes) -> bool:
    if track.effects:
        names = ", ".join(type(one).__name__ for one in track.effects)
        notes.append(f"effects of the track {track.name} are left out: {names}")
    if not track.enabled:
        notes.append(f"the track {track.name} is disabled, so it is left out")
    return bool(track.enabled)


def _trimmed(track: Any, by: Any, notes: Notes) -> Any:
    """A track cut to the range of its parent, or to its own range; unchanged where there is none."""
    span = by.source_range
    if span is None:
        return track

    def cut() -> Any:
        found = otio.algorithms.track_trimmed_to_range(track, span)
        found.source_range = None
        return found

    # A transition across the cut is what its library does not cut.
    return tried(cut, f"the range of {by.name or 'the whole'}", notes) or track


def _markers(part: Any, rate: Rate, notes: Notes) -> Iterator[dict[str, Any]]:
    """Markers of a track, or of the whole, in frames of the reel."""
    for mark in part.markers:

        def read(mark: Any = mark) -> dict[str, Any]:
            begin = exact(part.source_range.start_time, rate.fps) if part.source_range is not None else 0
            frame = nearest(exact(mark.marked_range.start_time, rate.fps) - begin)
            return {"frame": max(frame, 0), "name": mark.name[:MOST_NAME]}

        if (found := tried(read, f"the marker {mark.name}", notes)) is not None:
            yield found


def _rate_of(timeline: Any, video: list[Any], ours: dict[str, Any], notes: Notes) -> Rate:
    """The rate that Vexel kept, else that of the first clip, else of the timeline's start."""
    if "rate" in ours:
        try:
            return Rate.parse(str(ours["rate"]))
        except Mistake:
            notes.append(f"the rate {str(ours.pop('rate'))[:40]!r} in its metadata is none, and is ignored")
    parts = [part for track in video for part in _parts(track)]
    clips = [part for part in parts if isinstance(part, otio.schema.Clip)]
    found = [clip.source_range or (clip.media_reference and clip.media_reference.available_range) for clip in clips]
    found += [part.source_range for part in parts if not found]
    times = [span.duration for span in found if span is not None]
    times += [timeline.global_start_time] if timeline.global_start_time is not None else []
    rates = [rate for time in times if (rate := fraction(time.rate)) and _RATES[0] <= rate <= _RATES[1]]
    if not rates:
        if video:
            notes.append("no clip has a usable rate, so the reel has 24 fps")
        return Rate(Fraction(24))
    if len(set(rates)) > 1:
        notes.append(f"its clips have {len(set(rates))} rates; the reel has that of the first, {Rate(rates[0]).label}")
    return Rate(rates[0])


def _parts(track: Any) -> list[Any]:
    """Parts of a track at any depth that have a length."""
    found = tried(lambda: list(track.find_children()), "a part of a track", [])
    return [part for part in found or [] if isinstance(part, otio.core.Item)]
