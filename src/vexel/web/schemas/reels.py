"""Schemas of reels."""

from typing import Any, Literal

from pydantic import BaseModel, Field

from vexel.core.reel.reel_brief import ReelPart
from vexel.core.reel.reel_spec import Reel
from vexel.web.schemas.common import Based, FindingBody


class SizeBody(BaseModel):
    """A size in which files of a reel are made."""

    format: str = Field(description="name of the format; empty for the reel's own size")
    width: int
    height: int


class ReelLine(BaseModel):
    """A reel in the list."""

    id: str
    title: str
    summary: str
    frames: int = Field(default=0, description="0 where it is no reel")
    sizes: list[SizeBody] = Field(default=[], description="in which its files are made")
    error: str = Field(default="", description="why its file is no reel")


class ReelLines(BaseModel):
    """All reels."""

    reels: list[ReelLine]


class NewReel(BaseModel):
    """A new reel, of takes one after another."""

    title: str = Field(default="", max_length=200)
    runs: list[int] = Field(default=[], max_length=200)


class ReelPartBody(BaseModel):
    """An item within an item."""

    name: str
    passes: list[tuple[str, str]] = Field(description="cameras and passes that it could show")


class ReelItemBody(BaseModel):
    """An item as it came out."""

    name: str
    kind: str
    frames: int = Field(description="of the item, including those shared with its neighbours")
    media: int = Field(description="frames available to play; 0 where nothing is trimmed")
    pace: float = Field(description="of those, from one frame of the reel to the next")
    parts: list[ReelPartBody] = Field(description="the items within it")
    passes: list[tuple[str, str]] = Field(description="cameras and passes that it could show")
    overlap: int = Field(description="frames shared with the next")
    source: str = Field(description="what is known of its frames, for people")
    width: int = Field(description="of its frames; 0 where it plays none")
    height: int
    trouble: str = Field(description="why it is a hole; empty where it is not")


class ToCapture(BaseModel):
    """Frames that are missing from a reel."""

    label: str
    frames: int


class ReelFiles(BaseModel):
    """Imported files, as items and sounds of a reel."""

    items: list[dict[str, Any]]
    sounds: list[dict[str, Any]]


class ReelBody(BaseModel):
    """A reel worked out."""

    id: str
    document: Reel
    revision: int
    undo: str
    redo: str
    frames: int
    seconds: float
    rate: float
    reason: str
    trouble: str = Field(description="why it cannot be worked out; empty where it can")
    brief: list[ReelPart]
    items: list[ReelItemBody]
    findings: list[FindingBody]
    more_findings: bool = Field(default=False, description="whether there are more than these")
    to_capture: list[ToCapture]
    to_renew: list[ToCapture] = Field(description="takes that are older than their shots")
    path: str
    starts: list[int] = Field(default=[], description="frame of the reel at which each item begins")
    edges: list[float] = Field(default=[], description="where in the reel cards begin, and the last ends, in frames")
    state: str = Field(default="", description="names this answer; see `since`")
    since: str = Field(
        default="", description="the answer whose first and last items are left out here; empty for none"
    )
    head: int = Field(default=0, description="how many items at the begin are those of that answer")
    tail: int = Field(default=0, description="how many at the end are")


class SinceReel(Based):
    """What an edit was made from, and the answer that the interface has."""

    since: str = Field(default="", max_length=40, description="its `state`: only items that have changed are answered")


class ReelEdit(BaseModel):
    """An edit of a reel."""

    patch: dict[str, Any] = Field(description="a merge patch (RFC 7396) of the full document")
    what: str = Field(default="the last edit", max_length=200)
    burst: str = Field(default="", max_length=100)


class PictureOrder(BaseModel):
    """The frame to show, and its size."""

    frame: int = Field(default=0, ge=0, le=10**9)
    side: int = Field(default=960, ge=16, le=4096)


class ReelPictureOrder(PictureOrder):
    """The same of a reel, in one of its formats."""

    format: str = Field(default="", max_length=40, description="name of the format; empty for the reel's own size")


class ListOrder(BaseModel):
    """Which list of a reel's cuts is wanted."""

    ending: str = Field(default="otio", max_length=10)


class ReelListBody(BaseModel):
    """A reel's cuts for other programs."""

    name: str
    text: str
    notes: list[str] = Field(description="what the list has no place for")


class ReelOfTimeline(BaseModel):
    """A reel made from an imported timeline."""

    id: str
    notes: list[str] = Field(description="skipped items of the timeline")


class MarkerOrder(BaseModel):
    """An action on markers: put one at each beat, or snap cuts to them."""

    what: Literal["beats", "twice", "half", "cuts"]


class ReelLooks(BaseModel):
    """What the pictures of a reel tell."""

    findings: list[FindingBody]
    left_out: str = Field(description="what was not looked at, for people; empty where all was")


class ReelRuns(BaseModel):
    """Runs that were ordered."""

    runs: list[int]


class SoundPeaks(BaseModel):
    """How loud a sound file is along its length."""

    seconds: float
    peaks: list[float] = Field(description="the loudest sample of each part, from 0 to 1")


class ReelDispatch(BaseModel):
    """The files to make from a reel."""

    recipes: list[dict[str, Any]] = Field(min_length=1, max_length=64)
    formats: list[str] | None = Field(
        default=None,
        max_length=64,
        description="names of the formats in which they are made; an empty one is the reel's own size; null for all",
    )
    folder: str = Field(default="", max_length=1000)
    names: str = Field(default="", max_length=200)
