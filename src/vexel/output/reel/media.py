"""Media of a reel opened: their facts, and the pixels of a frame by its number."""

import hashlib
import json
import threading
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Protocol

import numpy as np
from cachetools import LRUCache

from vexel.core.checks.source_sentences import source_sentence
from vexel.core.document.passes import CameraPass
from vexel.core.document.shot import Shot
from vexel.core.document.source_spec import WithFixedFrames
from vexel.core.errors import Failure
from vexel.core.evaluate.lane_sampling import said_dials
from vexel.core.reel.media import MediaFacts, MediaRef
from vexel.core.time.clock import ALL
from vexel.core.time.rate import Rate
from vexel.output.footage.footage import Footage, chosen_pass
from vexel.output.job.pictures import Pixels, Source

KEPT = 24
"""Frames of a clip that were decoded and are kept for threads that come later."""


class Media(Protocol):
    """Frames that a reel shows."""

    @property
    def facts(self) -> MediaFacts:
        """What is known of them."""

    @property
    def notes(self) -> Sequence[str]:
        """How they differ from what a reel holds, and what becomes of that."""

    def picture(self, number: int) -> Pixels:
        """A frame as RGB or RGBA with straight alpha."""

    def file(self, number: int) -> Path | None:
        """The file of a frame; None where it has none."""

    @property
    def first_file(self) -> Path | None:
        """The file of the media, or of their first frame."""


@dataclass(frozen=True)
class FootageMedia:
    """A take, or numbered images."""

    footage: Footage
    source: Source
    facts: MediaFacts

    @classmethod
    def of(cls, footage: Footage, shot: Shot | None = None, *, stale: bool = False) -> "FootageMedia":
        """Footage with the facts from its shot."""
        source = Source.of(footage)
        if not footage.known:
            # Of external images only headers are known: a picture that cannot be decoded is reported when it is opened.
            source.picture(0)
        clock = footage.clock
        facts = MediaFacts(
            footage.count,
            clock.rate.fps,
            source.width,
            source.height,
            clock.span == "loop" and shot is not None and footage.count == shot.clock.exact.frames,
            footage.title,
            motion_of(shot) if shot else "",
            shot is not None and footage.renewable and _is_whole(shot) and footage.count == shot.clock.exact.frames,
            stale,
            source.transparent,
            said_dials(shot) if shot else {},
            subject_of(shot) if shot else "",
            passes_of(shot) if shot else (),
            look_of(shot) if shot else {},
        )
        return cls(footage, source, facts)

    @property
    def notes(self) -> Sequence[str]:
        """See `Media.notes`."""
        said = list(self.footage.notes)
        if self.source.deep:
            said.append("it has 16 bits a channel; the reel is put together in 8")
        if self.footage.panorama is not None:
            said.append("it is a panorama; the reel shows it flat")
        return said

    def picture(self, number: int) -> Pixels:
        """See `Media.picture`."""
        return self.source.picture(number)

    def file(self, number: int) -> Path | None:
        """See `Media.file`."""
        return self.footage.files[number]

    @property
    def first_file(self) -> Path | None:
        """See `Media.first_file`."""
        return self.footage.files[0]


def motion_of(shot: Shot) -> str:
    """What tells shots of the same motion: all that moves, and not how it is seen."""
    whole = shot.model_dump(mode="json")
    moves = {name: whole[name] for name in ("source", "clock", "lanes", "ease")}
    return hashlib.sha256(json.dumps(moves, sort_keys=True).encode()).hexdigest()[:16]


def subject_of(shot: Shot) -> str:
    """What tells shots of one source from those of others."""
    return json.dumps(shot.source.model_dump(mode="json", exclude={"dials"}), sort_keys=True)


def shown_pass(shot: Shot, ref: MediaRef) -> CameraPass:
    """The pass of a shot that media show; by default the first camera's first pass.

    Raises
    ------
    Mistake
        When the shot has no such camera or pass.
    """
    return chosen_pass(shot, ref.camera, ref.render_pass, or_first=True)


def passes_of(shot: Shot) -> tuple[tuple[str, str], ...]:
    """Cameras and passes of a shot."""
    return tuple((one.camera, one.render_pass) for one in shot.camera_passes)


def look_of(shot: Shot) -> dict[str, str]:
    """The look of a shot, as far as its document sets it: picture, lens, framing and light."""
    whole = shot.model_dump(mode="json")
    rig = whole["camera"]["rig"]
    parts = {
        "": {name: whole["picture"][name] for name in ("background", "ground", "contact", "samples")},
        "camera ": {name: rig[name] for name in ("elevation_deg", "fill", "distance") if name in rig},
        "lens ": whole["camera"]["lens"],
        "light ": whole["light"],
    }
    return {
        f"{head}{name.removesuffix('_deg').replace('_', ' ')}": f"{value:g}" if isinstance(value, float) else str(value)
        for head, values in parts.items()
        for name, value in values.items()
    }


def shows_the_same(one: Shot, other: Shot) -> bool:
    """Whether two shots give the same frames, apart from their names and outputs."""
    return one.frame_content == other.frame_content


def _is_whole(shot: Shot) -> bool:
    """Whether the shot shows the whole of its motion, forwards and once."""
    clock = shot.clock.exact
    return clock.selection == ALL or (clock.frames == clock.motion and shot.clock.order == "forward")


@dataclass(frozen=True)
class PlannedMedia:
    """A shot without a take: what is known of its frames before they are captured."""

    facts: MediaFacts
    name: str
    notes: Sequence[str] = ()

    @classmethod
    def of(cls, shot: Shot, name: str) -> "PlannedMedia":
        """The frames that a shot will have."""
        clock, picture = shot.clock.exact, shot.picture
        facts = MediaFacts(
            clock.frames, clock.playback.fps, picture.width, picture.height, clock.span == "loop", shot.title,
            motion_of(shot), not isinstance(shot.source, WithFixedFrames) and _is_whole(shot),
            transparent=picture.behind.kind == "transparent", dials=said_dials(shot),
            subject=subject_of(shot), passes=passes_of(shot), look=look_of(shot),
        )  # fmt: skip
        return cls(facts, name)

    def picture(self, number: int) -> Pixels:
        """See `Media.picture`."""
        raise Failure(f"{self.name} has no take yet: capture it first")

    def file(self, number: int) -> Path | None:
        """See `Media.file`."""
        return None

    @property
    def first_file(self) -> Path | None:
        """See `Media.first_file`."""
        return None


@dataclass(frozen=True)
class TrueFramesMedia:
    """Frames of a shot's motion in other steps, of which only some are there; told by their numbers."""

    footage: Footage
    notes: Sequence[str] = ()

    def holds(self, numbers: Sequence[int]) -> bool:
        """Whether all of these are there."""
        first, held = self.footage.first, set(self.footage.held)
        return all(0 <= n - first < self.footage.count and n - first not in held for n in numbers)

    @property
    def facts(self) -> MediaFacts:
        """See `Media.facts`."""
        return FootageMedia.of(self.footage).facts

    def picture(self, number: int) -> Pixels:
        """See `Media.picture`."""
        return self.footage.picture(number - self.footage.first)

    def file(self, number: int) -> Path | None:
        """See `Media.file`."""
        return self.footage.files[number - self.footage.first]

    @property
    def first_file(self) -> Path | None:
        """See `Media.first_file`."""
        return self.footage.files[0]


@dataclass
class ClipMedia:
    """A video file; its decoder serves one thread at a time.

    Attributes
    ----------
    place : Path
    clip : ClipFile
    facts : MediaFacts
    notes : tuple of str
        What is odd about it.
    slots : sequence of int
        Which frame of the file each frame of the media is.
    """

    place: Path
    clip: Any
    facts: MediaFacts
    notes: Sequence[str] = ()
    slots: Sequence[int] = ()
    _kept: LRUCache[int, Pixels] = field(default_factory=lambda: LRUCache(KEPT))
    _turn: threading.Lock = field(default_factory=threading.Lock)

    @classmethod
    def of(cls, file: Path) -> "ClipMedia":
        """Open it.

        Raises
        ------
        SourceError
            When it is no video.
        """
        from vexel.sources.kinds.clip import ClipFile

        clip = ClipFile(file)
        found = clip.facts
        assert found.source_frames is not None and found.size is not None
        width, height = found.size
        rate, slots = found.source_frames.evenly()
        facts = MediaFacts(len(slots), rate, width, height, title=file.stem, transparent=clip.keeps_alpha)
        notes = [source_sentence(odd) for odd in found.findings]
        if found.source_frames.times:
            said = f"its {found.source_frames.count:,} frames of unequal length fill {len(slots):,}"
            notes.append(f"{said}, {Rate(rate).label}, each repeated for its length")
        if clip.bits > 8:
            notes.append(f"it has {clip.bits} bits a channel; the reel is put together in 8")
        return cls(file, clip, facts, tuple(notes), slots)

    def picture(self, number: int) -> Pixels:
        """See `Media.picture`."""
        number = self.slots[number]
        with self._turn:
            if number not in self._kept:
                rgba = self.clip.picture(number)
                opaque = bool((rgba[..., 3] == 255).all())
                self._kept[number] = np.ascontiguousarray(rgba[..., :3]) if opaque else rgba
            return self._kept[number]

    def file(self, number: int) -> Path | None:
        """See `Media.file`."""
        return None

    @property
    def first_file(self) -> Path | None:
        """See `Media.first_file`."""
        return self.place
