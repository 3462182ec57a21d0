"""Writes notes as markers of an OpenTimelineIO timeline, by the standard's own library."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

import opentimelineio as otio


@dataclass(frozen=True)
class NoteMarker:
    """A note on frames of a film: its first and last one, its text, and who wrote it."""

    first: int
    last: int
    text: str
    author: str
    is_open: bool


def notes_as_otio(title: str, count: int, rate: Fraction, notes: Sequence[NoteMarker]) -> str:
    """A timeline with one clip of the whole film, whose markers are the notes, as JSON text.

    Parameters
    ----------
    title : str
    count : int
        Frames of the film.
    rate : Fraction
        Frames a second.
    notes : sequence of NoteMarker
    """
    fps = float(rate)

    def span(first: int, last: int) -> otio.opentime.TimeRange:
        begin, lasts = otio.opentime.RationalTime(first, fps), otio.opentime.RationalTime(last - first + 1, fps)
        return otio.opentime.TimeRange(begin, lasts)

    clip = otio.schema.Clip(title, otio.schema.MissingReference(), span(0, count - 1))
    for note in notes:
        colour = otio.schema.MarkerColor.ORANGE if note.is_open else otio.schema.MarkerColor.GREEN
        comment = ", ".join(filter(None, [note.author, "open" if note.is_open else "done"]))
        clip.markers.append(otio.schema.Marker(note.text, span(note.first, note.last), colour, comment=comment))
    timeline = otio.schema.Timeline(title)
    track = otio.schema.Track("Pictures", kind=otio.schema.TrackKind.Video)
    track.append(clip)
    timeline.tracks.append(track)
    return str(otio.adapters.write_to_string(timeline, "otio_json"))
