"""Clips of an OpenTimelineIO timeline as items of a reel: which frames of their media they show, and how fast."""

import math
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import opentimelineio as otio

from vexel.core.time.rate import Rate
from vexel.interchange.otio_values import MOST_FRAMES, MOST_NAME, Notes, exact, fraction, nearest, path_of

HALF = Fraction(1, 2)
_FASTEST = 1000
_FINE = 10_000


@dataclass(frozen=True)
class Shown:
    """How long a clip is seen.

    Attributes
    ----------
    frames : int
        Of the reel, between its cuts.
    head, tail : int
        Frames of the reel by which it is seen before its begin and after its end, within transitions.
    """

    frames: int
    head: int = 0
    tail: int = 0

    @property
    def count(self) -> int:
        """Frames of the reel in all."""
        return max(self.frames + self.head + self.tail, 1)


def played(clip: Any, rate: Rate, shown: Shown | None, notes: Notes) -> dict[str, Any]:
    """The item of a clip that shows media; `shown` is None where its length is not known."""
    reference, name = clip.media_reference, clip.name or "a clip"
    scalar = _time_scalar(clip, name, notes)
    if len(clip.media_references()) > 1:
        notes.append(f"{name}: of its {len(clip.media_references())} media references the active one is used")
    available = reference.available_range if reference is not None else None
    span = clip.source_range or available
    media = fraction((available or span).duration.rate) if span is not None else None
    item = _media(clip, reference, media or rate.fps, notes) | {"name": clip.name[:MOST_NAME]}
    if span is None or media is None or shown is None:
        notes.append(f"{name}: its range of media frames is not given, so it shows all of them")
        return item | ({"order": "backward"} if scalar < 0 else {})
    begin = exact(span.start_time, media)
    if available is not None:
        begin -= exact(available.start_time, media)
    elif begin:
        notes.append(
            f"{name}: its media does not say at which time it begins, so frame {nearest(begin):,} is counted from its "
            "first: check the trim where its time begins elsewhere"
        )
    length = nearest(exact(available.duration, media)) if available is not None else None
    return item | _timing(_Played(begin, Fraction(scalar).limit_denominator(_FINE), media, length), rate, shown,
                          name, notes)  # fmt: skip


@dataclass(frozen=True)
class _Played:
    """Frames of media that a clip shows.

    Attributes
    ----------
    begin : Fraction
        Frame of the media at which its range begins; played backward it is the last one that is shown.
    scalar : Fraction
        How much faster than its own rate it is played; negative backward, 0 standing still.
    media : Fraction
        Frames per second.
    length : int or None
        How many frames there are.
    """

    begin: Fraction
    scalar: Fraction
    media: Fraction
    length: int | None


def _timing(of: _Played, rate: Rate, shown: Shown, name: str, notes: Notes) -> dict[str, Any]:
    """First and last frame, order, speed and holds."""
    if not of.scalar:
        still = max(nearest(of.begin), 0)
        still = min(still, of.length - 1) if of.length else still
        return {"first": still, "last": still, "frames": shown.count}
    pace = abs(of.scalar) * of.media / rate.fps
    back = of.scalar < 0
    # Where it is seen before its range, backward beyond the range's end.
    low = of.begin - (shown.tail if back else shown.head) * pace
    before, after = _beyond(low, low + (shown.count - 1) * pace, pace, of.length, shown.count)
    low += before * pace
    moving = shown.count - before - after
    high = low + (moving - 1) * pace
    if (high if back else low).denominator > 1:
        notes.append(f"{name} begins between two frames of its media, and is rounded to the nearest")
    room = nearest(high) + 1 if back else of.length - nearest(low) if of.length else MOST_FRAMES
    steps, values = _paced(moving, pace, abs(of.scalar), room, name, notes)
    if back:
        values |= {"first": nearest(high) - steps + 1, "last": nearest(high), "order": "backward"}
    else:
        values |= {"first": nearest(low), "last": nearest(low) + steps - 1}
    holds = {"hold_start": after if back else before, "hold_end": before if back else after}
    if before or after:
        values |= {key: held for key, held in holds.items() if held}
        notes.append(
            f"{name} extends beyond its media by {before + after:,} of the reel's frames: its end is frozen there"
        )
    return values


def _beyond(low: Fraction, high: Fraction, pace: Fraction, length: int | None, count: int) -> tuple[int, int]:
    """How many of the reel's frames ask for media before its first frame, and after its last."""
    before = max((-low / pace - HALF / pace).__ceil__(), 0)
    after = max(((high - length + HALF) / pace).__ceil__(), 0) if length is not None else 0
    before = min(before, count - 1)
    return before, min(after, count - 1 - before)


def _paced(
    count: int, pace: Fraction, speed: Fraction, room: int, name: str, notes: Notes
) -> tuple[int, dict[str, Any]]:
    """Number of frames that fill this number of reel frames at a pace, and the speed or length that does it."""
    if speed > _FASTEST:
        raise ValueError(f"it plays at {float(speed):g} times its speed, and a reel at {_FASTEST:,} at most")
    needed = min(nearest((count - 1) * pace) + 1, max(room, 1))
    # A reel rounds how long they last: the fewest that come to the count.
    steps = max(needed, (pace * (count - HALF)).__ceil__())
    if steps < pace * (count + HALF) and steps <= room:
        return steps, ({"speed": float(speed)} if speed != 1 else {})
    if count > 1 and Fraction(needed - 1, count - 1) != pace:
        notes.append(
            f"{name}: {needed:,} frames are fitted to {count:,} of the reel's, at nearly {float(speed):g} times their "
            "speed"
        )
    return needed, {"frames": count}


def _time_scalar(clip: Any, name: str, notes: Notes) -> float:
    """How much faster a clip plays; other effects are noted."""
    warps = [effect for effect in clip.effects if isinstance(effect, otio.schema.LinearTimeWarp)]
    others = [effect for effect in clip.effects if effect not in warps]
    if others:
        notes.append(f"{name}: {', '.join(type(effect).__name__ for effect in others)} is left out")
    if len(warps) > 1:
        notes.append(f"{name}: of its {len(warps)} changes of speed the first is used")
    if not warps:
        return 1.0
    if isinstance(warps[0], otio.schema.FreezeFrame):
        return 0.0
    scalar = float(warps[0].time_scalar)
    if not math.isfinite(scalar):
        notes.append(f"{name}: its speed is no number, so it plays at its own")
        return 1.0
    return scalar


def _media(clip: Any, reference: Any, media: Fraction, notes: Notes) -> dict[str, Any]:
    if isinstance(reference, otio.schema.ImageSequenceReference):
        padding = reference.frame_zero_padding
        number = f"%0{padding}d" if padding > 1 else "%d"
        base = path_of(reference.target_url_base)
        name = f"{reference.name_prefix}{number}{reference.name_suffix}"
        if reference.frame_step != 1:
            notes.append(
                f"{clip.name or name}: its images are numbered in steps of {reference.frame_step}; a reel plays every "
                "image that is there, one after the other"
            )
        return {"kind": "stills", "file": f"{base}/{name}" if base else name, "rate": str(media)}
    if isinstance(reference, otio.schema.ExternalReference) and reference.target_url:
        return {"kind": "clip", "file": path_of(reference.target_url)}
    name = (reference.name if reference is not None else "") or clip.name or "missing"
    notes.append(f"{clip.name or 'a clip'}: it names no file, so {name} is looked for beside the reel")
    return {"kind": "clip", "file": name}
