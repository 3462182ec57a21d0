"""Tracks of sound of an OpenTimelineIO timeline as sounds of a reel."""

import math
from collections.abc import Iterator
from functools import partial
from typing import Any

import opentimelineio as otio

from vexel.interchange.otio_values import Notes, path_of, tried


def sounds_of(track: Any, notes: Notes) -> Iterator[dict[str, Any]]:
    """Its sounds, in order; what is skipped is noted."""
    for part in track:
        name = f"the sound {part.name}".rstrip()
        if isinstance(part, otio.schema.Gap):
            continue
        if isinstance(part, otio.schema.Transition):
            notes.append("transitions between sounds are left out")
        elif not isinstance(part, otio.schema.Clip):
            notes.append(f"{name} is skipped: a {type(part).__name__} within a track of sound")
        elif not part.enabled:
            notes.append(f"{name} is disabled, so it is left out")
        elif not isinstance(part.media_reference, otio.schema.ExternalReference) or not part.media_reference.target_url:
            notes.append(f"{name} names no file, so it is left out")
        elif (sound := tried(partial(_sound, part, name, notes), name, notes)) is not None:
            yield sound


def _sound(clip: Any, name: str, notes: Notes) -> dict[str, Any]:
    span, available = clip.trimmed_range(), clip.media_reference.available_range
    # Times of media may count from a timecode.
    begin = available.start_time.to_seconds() if available is not None else 0.0
    values = {
        "at": clip.range_in_parent().start_time.to_seconds(),
        "first": span.start_time.to_seconds() - begin,
        "seconds": span.duration.to_seconds(),
    }
    if not all(math.isfinite(value) for value in values.values()) or min(values.values()) < 0 or not values["seconds"]:
        raise ValueError("its times are no numbers")
    if available is None and values["first"]:
        notes.append(
            f"{name} does not say at which time its file begins, so {values['first']:g} s are counted from its start"
        )
    if clip.effects:
        notes.append(f"{name}: {', '.join(type(effect).__name__ for effect in clip.effects)} is left out")
    return {"file": path_of(clip.media_reference.target_url)} | values
