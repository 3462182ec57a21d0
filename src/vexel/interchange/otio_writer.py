"""Writes a reel as an OpenTimelineIO timeline, by the standard's own library."""

import os
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import Any

import opentimelineio as otio

from vexel.core.reel.item_spec import AnyItem, ClipItem, GapItem, GroupItem, LayoutItem, TitleItem
from vexel.core.reel.media import MediaFacts, MediaRef
from vexel.core.reel.played_item import Playing
from vexel.core.reel.reel_plan import ReelPlan
from vexel.core.wording import counted
from vexel.interchange.otio_values import OURS
from vexel.sources.pictures.image_sequence import sequence_of

SOUND_RATE = 48_000
Place = Callable[[MediaRef], Path | None]
"""Where the first file of media is; None where there is none."""


def write_otio(plan: ReelPlan, place: Place, folder: Path) -> tuple[str, list[str]]:
    """A reel as the JSON text of a timeline, and a list of what only its metadata holds.

    Parameters
    ----------
    place : callable
    folder : Path
        To which paths are made relative.
    """
    reel, notes = plan.reel, []
    timeline = otio.schema.Timeline(reel.title)
    rest = {
        name: value for name, value in reel.model_dump(mode="json", exclude_defaults=True).items() if name != "items"
    }
    timeline.metadata[OURS] = {"reel": rest}
    track = otio.schema.Track("Pictures", kind=otio.schema.TrackKind.Video)
    timeline.tracks.append(track)
    rate = float(plan.rate.fps)
    if plan.sequence is not None:
        if plan.frames != plan.sequence.count:
            notes.append(
                f"the whole is fitted to {counted(plan.frames, 'frame')}: items have their lengths before that"
            )
        _write_items(track, plan, place, folder, rate, notes)
    for marker in reel.markers:
        time = otio.opentime.TimeRange(_time(marker.frame, rate), _time(0, rate))
        track.markers.append(otio.schema.Marker(marker.name, marked_range=time))
    for number, sound in enumerate(reel.sound, 1):
        lasts = float(plan.frames / plan.rate.fps) - sound.at if sound.seconds is None else sound.seconds
        audio = otio.schema.Track(f"Sound {number}", kind=otio.schema.TrackKind.Audio)
        if sound.at:
            audio.append(otio.schema.Gap(duration=_time(round(sound.at * SOUND_RATE), SOUND_RATE)))
        reference = otio.schema.ExternalReference(Path(sound.file).as_posix())
        span = otio.opentime.TimeRange(
            _time(round(sound.first * SOUND_RATE), SOUND_RATE), _time(round(lasts * SOUND_RATE), SOUND_RATE)
        )
        clip = otio.schema.Clip(Path(sound.file).name, reference, span)
        clip.metadata[OURS] = {"sound": sound.model_dump(mode="json", exclude_defaults=True)}
        audio.append(clip)
        timeline.tracks.append(audio)
    return otio.adapters.write_to_string(timeline, "otio_json"), notes


def _write_items(track: Any, plan: ReelPlan, place: Place, folder: Path, rate: float, notes: list[str]) -> None:
    """Items cut in the middle of what they overlap by, with a transition there."""
    assert plan.sequence is not None
    row = plan.sequence
    for number, item in enumerate(plan.reel.items):
        before = row.overlaps[number - 1] // 2 if number else 0
        after = 0
        if number < len(row.overlaps):
            after = row.overlaps[number] - row.overlaps[number] // 2
        count = row.tracks[number].count - before - after
        made = _written(plan, number, before, count, place, folder, rate)
        kept = item.model_dump(mode="json", exclude_defaults=True) | {"kind": item.kind}
        span = made.source_range
        made.metadata[OURS] = (
            {"item": kept, "start": span.start_time.value, "frames": count} if span else {"item": kept}
        )
        track.append(made)
        if unfit := _unfit(item, row.tracks[number]):
            notes.append(f"{plan.names[number]}: {unfit} is kept in its metadata alone")
        if number < len(row.overlaps) and row.overlaps[number]:
            transition = row.transitions[number]
            known = (
                otio.schema.TransitionTypes.SMPTE_Dissolve
                if transition.kind == "cross-dissolve"
                else "Custom_Transition"
            )
            track.append(otio.schema.Transition(
                transition.kind, known, _time(row.overlaps[number] // 2, rate), _time(after, rate),
                {OURS: {"transition": transition.model_dump(mode="json", exclude_defaults=True)}},
            ))  # fmt: skip


def _written(plan: ReelPlan, number: int, before: int, count: int, place: Place, folder: Path, rate: float) -> Any:
    assert plan.sequence is not None
    item, name, track = plan.reel.items[number], plan.names[number], plan.sequence.tracks[number]
    whole = otio.opentime.TimeRange(_time(0, rate), _time(count, rate))
    if isinstance(item, GapItem):
        return otio.schema.Gap(name, source_range=whole)
    if isinstance(item, TitleItem):
        return otio.schema.Clip(name, otio.schema.GeneratorReference(name, "title", whole, {"text": item.text}), whole)
    if isinstance(track, Playing):
        media = float(track.facts.rate)
        start = track.lowest(Fraction(before), Fraction(before + count - 1))
        clip = otio.schema.Clip(
            name,
            _reference(track.item.ref, track.facts, place(track.item.ref), folder),
            otio.opentime.TimeRange(_time(float(start), media), _time(count, rate)),
        )
        scalar = float(track.pace * plan.rate.fps / track.facts.rate) * (-1 if track.item.order == "backward" else 1)
        if scalar != 1:
            clip.effects.append(otio.schema.LinearTimeWarp(time_scalar=scalar))
        return clip
    if isinstance(item, (LayoutItem, GroupItem)):
        stack = otio.schema.Stack(name, source_range=whole)
        return stack
    return otio.schema.Clip(name, otio.schema.MissingReference(name), whole)


def _unfit(item: AnyItem, track: Any) -> str:
    """What of an item a timeline has no place for."""
    if isinstance(item, (LayoutItem, GroupItem)):
        return f"the {item.kind}"
    if isinstance(track, Playing):
        parts = [
            word
            for word, there in (
                ("repeats", track.item.repeat > 1),
                ("ping-pong", track.item.order == "there-and-back"),
                ("held frames", track.item.hold_start + track.item.hold_end > 0),
                ("its own sound", isinstance(track.item, ClipItem) and track.item.audible),
                ("true frames", track.item.between == "true" and track.pace.denominator > 1),
            )
            if there
        ]
        return ", ".join(parts)
    return ""


def _reference(ref: MediaRef, facts: MediaFacts, first: Path | None, folder: Path) -> Any:
    rate = float(facts.rate)
    available = otio.opentime.TimeRange(_time(0, rate), _time(facts.frames, rate))
    if first is None:
        return otio.schema.MissingReference(ref.label, available)
    shown = _relative(first, folder)
    found = sequence_of(first.name, [path.name for path in first.parent.iterdir()]) if ref.kind != "clip" else None
    if found is None:
        return otio.schema.ExternalReference(shown, available)
    return otio.schema.ImageSequenceReference(
        target_url_base=_relative(first.parent, folder), name_prefix=found.head, name_suffix=found.tail,
        start_frame=found.names[0][0], frame_step=1, rate=rate, frame_zero_padding=found.padding,
        available_range=available,
    )  # fmt: skip


def _relative(path: Path, folder: Path) -> str:
    """A path as seen from a folder, so that a project may move."""
    return Path(os.path.relpath(path.absolute(), folder.absolute())).as_posix()


def _time(value: float, rate: float) -> Any:
    return otio.opentime.RationalTime(value, rate)
