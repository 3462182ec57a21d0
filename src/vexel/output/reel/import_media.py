"""Import media files into a reel, as items and sounds."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import av

from vexel.core.errors import Mistake
from vexel.output.reading.picture_file import READABLE, read_picture
from vexel.output.reel.media import ClipMedia
from vexel.sources.pictures.image_sequence import sequence_of
from vexel.sources.video.opening import open_media

STILL_SECONDS = 3
"""Length of a single image."""
SOUNDS = (".wav", ".mp3", ".flac", ".ogg", ".oga", ".opus", ".m4a", ".aac", ".aif", ".aiff")
CLIPS = (".mp4", ".mov", ".webm", ".mkv", ".avi", ".m4v", ".gif", ".apng")


@dataclass(frozen=True)
class ImportedMedia:
    """Items and sounds, in the form of a reel's document."""

    items: list[dict[str, Any]]
    sounds: list[dict[str, Any]]


def import_media(places: Sequence[Path], folder: Path) -> ImportedMedia:
    """Make items and sounds of files, with paths relative to `folder`.

    Images that count on are one item, others one each.

    Raises
    ------
    Mistake
        When one is none of these, or cannot be read.
    """
    images = [place for place in places if place.suffix.lower() in READABLE]
    clips = [place for place in places if place.suffix.lower() in CLIPS]
    sounds = [place for place in places if place.suffix.lower() in SOUNDS]
    known = {*images, *clips, *sounds}
    for place in places:
        if place not in known:
            raise Mistake(
                f"{place.name} is not a video, image or sound that a reel can play: make a shot of it "
                "on the page Shots, or import another file"
            )

    def said(place: Path) -> str:
        return str(place.relative_to(folder))

    items: list[dict[str, Any]] = [{"kind": "clip", "file": said(_checked(place))} for place in clips]
    for group in _grouped(images):
        read_picture(group[0])
        if len(group) == 1:
            items.append({"kind": "stills", "file": said(group[0]), "seconds": STILL_SECONDS})
        else:
            names = sequence_of(group[0].name, [place.name for place in group])
            assert names is not None
            items.append({"kind": "stills", "file": said(group[0].with_name(names.pattern))})
    return ImportedMedia(items, [{"file": said(_heard(place))} for place in sounds])


def _grouped(images: Sequence[Path]) -> Iterator[list[Path]]:
    """Images that count on together."""
    left = sorted(images)
    while left:
        first = left[0]
        beside = {place.name: place for place in left if place.parent == first.parent}
        like = sequence_of(first.name, beside)
        group = [beside[name] for _, name in like.names] if like and not like.doubles else [first]
        yield group
        left = [place for place in left if place not in group]


def _checked(place: Path) -> Path:
    ClipMedia.of(place)
    return place


def _heard(place: Path) -> Path:
    try:
        with open_media(place) as container:
            if not container.streams.audio:
                raise Mistake(f"{place.name} has no sound: import another file")
    except (av.FFmpegError, OSError) as error:
        raise Mistake(f"{place.name} cannot be read as sound ({error}): import another file") from None
    return place
