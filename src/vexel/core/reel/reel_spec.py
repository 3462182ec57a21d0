"""The reel document: takes put together, read from JSON."""

import json
from collections.abc import Iterator
from contextlib import suppress
from typing import Any, Literal

from pydantic import Field, ValidationError, field_validator, model_validator

from vexel.core.document.background import TRANSPARENT
from vexel.core.document.fit import Fit
from vexel.core.document.label import OF_TIME, fields_of
from vexel.core.document.part import Part
from vexel.core.document.picture_spec import LabelSpec
from vexel.core.document_text import document_text
from vexel.core.errors import Mistake
from vexel.core.merge_patch import merged
from vexel.core.reel.item_spec import (
    DEFAULT_GROUND,
    MOST_FORMATS,
    AnyItem,
    ClipItem,
    Hex,
    ItemSpec,
    LengthSpec,
    PlayedSpec,
    ReelItem,
    Seconds,
    StillsItem,
    TitleItem,
    newer_names,
)
from vexel.core.reel.items_patch import patched_items
from vexel.core.reel.media import MediaRef
from vexel.core.time.rate import USUAL_RATE, Rate
from vexel.core.validation_message import validation_message
from vexel.core.wording import nearest_name

MOST_ITEMS = 5000
LABEL_FIELDS = (*OF_TIME, "item", "value")
"""Fields of a reel's labels, in addition to dials of the media."""


class SoundSpec(Part):
    """A sound below the picture."""

    file: str = Field(min_length=1, max_length=1000)
    at: float = Field(default=0, ge=0, le=100_000, description="second of the reel at which it begins")
    first: float = Field(default=0, ge=0, le=100_000, description="second of the file from which it is played")
    seconds: Seconds | None = Field(default=None, description="how long; null to its end, or the reel's")
    gain_db: float = Field(default=0, ge=-96, le=24)
    fade_in: float = Field(default=0, ge=0, le=600, description="seconds")
    fade_out: float = Field(default=0, ge=0, le=600, description="seconds")


class MarkSpec(Part):
    """An image that lies over all frames, in a corner."""

    file: str = Field(min_length=1, max_length=1000)
    corner: Literal["top-left", "top-right", "bottom-left", "bottom-right"] = "bottom-right"
    size: float = Field(default=0.1, ge=0.01, le=1, description="its height, as a share of the frame's")
    margin: float = Field(default=0.03, ge=0, le=0.5, description="as a share of the frame's height")
    opacity: float = Field(default=1, ge=0, le=1)


class MarkerSpec(Part):
    """A named frame of the reel, such as a beat of its music."""

    frame: int = Field(ge=0, le=100_000_000)
    name: str = Field(default="", max_length=200)
    found: bool = Field(default=False, description="a beat that was found, which another search replaces")


class FormatSpec(Part):
    """A further size in which files of a reel are made, such as square or upright."""

    name: str = Field(min_length=1, max_length=40, description="that framings of items refer to")
    width: int = Field(ge=16, le=16384)
    height: int = Field(ge=16, le=16384)
    fit: Fit = Field(default="cover", description="of items without their own framing in this format")


class Reel(LengthSpec):
    """Takes put together. Paths in it are relative to its file; `seconds` or `frames` fit the whole to a length."""

    vexel: Literal[1] = 1
    title: str = Field(min_length=1, max_length=200)
    rate: str = Field(default=USUAL_RATE, description='frames per second: "24", "30000/1001"')
    width: int = Field(default=1920, ge=16, le=16384)
    height: int = Field(default=1080, ge=16, le=16384)
    background: Hex | Literal["transparent"] = DEFAULT_GROUND
    items: list[AnyItem] = Field(default=[], max_length=MOST_ITEMS)
    labels: list[LabelSpec] = Field(
        default=[],
        max_length=64,
        description="with {frame}, {seconds}, {timecode}, {phase}, {count}, {item}, and dials of what is shown",
    )
    mark: MarkSpec | None = None
    sound: list[SoundSpec] = Field(default=[], max_length=64)
    loudness: float | None = Field(
        default=None, ge=-60, le=-5, description="loudness of the sound in LUFS (EBU R 128); null leaves it unchanged"
    )
    limit: bool = Field(default=False, description="whether peaks of the sound are held below -1 dBFS")
    markers: list[MarkerSpec] = Field(default=[], max_length=10_000)
    formats: list[FormatSpec] = Field(default=[], max_length=MOST_FORMATS, description="further sizes of its files")
    format: str = Field(default="", max_length=40, description="the one that it is shown in; empty for its own size")

    @model_validator(mode="after")
    def _formats_differ(self) -> "Reel":
        names, sizes = {one.name for one in self.formats}, {(one.width, one.height) for one in self.formats}
        if len(names) < len(self.formats):
            raise Mistake("formats: two have the same name: choose another one")
        if len(sizes | {(self.width, self.height)}) <= len(self.formats):
            raise Mistake("formats: two have the same size, or one has that of the reel: choose another size")
        if self.format and self.format not in names:
            raise Mistake(f"format: {self.format} is none of the reel's formats: {nearest_name(self.format, names)}")
        return self

    @field_validator("labels")
    @classmethod
    def _are_written_rightly(cls, labels: list[LabelSpec]) -> list[LabelSpec]:
        for label in labels:
            fields_of(label.text)
        return labels

    @field_validator("rate")
    @classmethod
    def _is_rate(cls, text: str) -> str:
        Rate.parse(text)
        return text

    @property
    def size(self) -> tuple[int, int]:
        """Width and height of the format that it is shown in."""
        return next(
            ((one.width, one.height) for one in self.formats if one.name == self.format), (self.width, self.height)
        )

    @property
    def exact_rate(self) -> Rate:
        """The rate, in fractions."""
        return Rate.parse(self.rate)

    @property
    def is_transparent(self) -> bool:
        """Whether frames have no ground."""
        return self.background == TRANSPARENT

    def walked(self) -> Iterator[ItemSpec]:
        """All items, those within others too."""
        for item in self.items:
            yield item
            for part in item.parts:
                yield from part.walked()

    def places(self) -> list[str]:
        """Paths of the files that it names, each once."""
        found = []
        for item in self.walked():
            if isinstance(item, ClipItem | StillsItem):
                found.append(item.file)
            elif isinstance(item, TitleItem | ReelItem):
                found.append(item.image if isinstance(item, TitleItem) else item.reel)
        found += [sound.file for sound in self.sound] + ([self.mark.file] if self.mark else [])
        return list(dict.fromkeys(filter(None, found)))

    def refs(self) -> list[MediaRef]:
        """Where its frames come from, each once."""
        return list(dict.fromkeys(item.ref for item in self.walked() if isinstance(item, PlayedSpec)))


def read_reel(text: str | bytes, name: str = "the reel") -> Reel:
    """Read and check a reel document.

    Raises
    ------
    Mistake
        Naming the document, the key and the cure.
    """
    decoded = document_text(text, name)
    if '"joint"' in decoded:
        with suppress(ValueError, RecursionError):
            decoded = json.dumps(newer_names(json.loads(decoded)))
    try:
        reel = Reel.model_validate_json(decoded)
    except ValidationError as error:
        raise Mistake(f"{name}: {validation_message(error, Reel)}") from None
    _check_count(reel, name)
    return reel


def read_reel_document(document: dict[str, Any], name: str = "the reel") -> Reel:
    """Check a reel that is made of JSON values already; see `read_reel`."""
    return read_reel(json.dumps(document), name)


def edited_reel(reel: Reel, patch: dict[str, Any]) -> Reel:
    """A reel with a merge patch (RFC 7396) applied to its full document; items may be named by their places.

    Raises
    ------
    Mistake
        When the reel would be wrong with it.
    """
    patch = newer_names(patch)
    if isinstance(patch.get("items"), list):
        return read_reel(json.dumps(merged(reel.model_dump(mode="json"), patch)), reel.title)
    # Items that stay are not read again: of 5,000 that takes a second.
    rest = {name: value for name, value in patch.items() if name != "items"}
    head = reel.model_copy(update={"items": []})
    if rest:
        head = read_reel(json.dumps(merged(head.model_dump(mode="json"), rest)), reel.title)
    items = patched_items(reel.items, patch["items"] or {}) if "items" in patch else reel.items
    whole = head.model_copy(update={"items": items})
    _check_count(whole, reel.title)
    return whole


def _check_count(reel: Reel, name: str) -> None:
    if sum(1 for _ in reel.walked()) > MOST_ITEMS:
        raise Mistake(f"{name}: holds more than {MOST_ITEMS:,} items with those in groups and layouts: split it")
