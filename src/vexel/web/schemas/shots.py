"""Schemas of shots, their edits, lanes, strip, cost and proofs."""

from typing import Any

from pydantic import BaseModel, Field

from vexel.core.brief_part import BriefPart
from vexel.core.checks.seam import Seam
from vexel.core.checks.shot_timing import ShotTiming
from vexel.core.document.shot import Shot
from vexel.core.edits.set_term import Term
from vexel.core.progress import Progress
from vexel.core.time.ruler import Tick
from vexel.web.schemas.cameras import LensBody
from vexel.web.schemas.common import FindingBody


class LaneCurve(BaseModel):
    """Values of a lane along the shot, at most some hundred of them."""

    drive: str
    low: float = Field(description="over the whole shot, keys included")
    high: float
    frames: list[int] = Field(description="frames that the values belong to")
    values: list[float]
    places: list[float] = Field(description="positions within its keys; empty for a lane that follows another")


class StripBody(BaseModel):
    """A stretch of the shot as the strip shows it: marks of its ruler, and its lanes."""

    ticks: list[Tick]
    curves: list[LaneCurve]


class EndingBody(BaseModel):
    """How long the shot is when it ends with its motion."""

    frames: int
    patch: dict[str, Any]


class Stagger(BaseModel):
    """The share of its duration by which each lane overlaps the next."""

    overlap: float = Field(ge=0, le=1)


class PlayedTrack(BaseModel):
    """What a gesture did to one thing: shown frame and value, in the order in which they came."""

    drive: str
    samples: list[tuple[float, float]] = Field(max_length=100_000)


class PlayedIn(BaseModel):
    """A gesture made while the shot played."""

    tracks: list[PlayedTrack] = Field(min_length=1, max_length=8)
    tolerance: float = Field(default=0.01, ge=0, le=0.5, description="share of its range that keys may miss")


class SeamBody(BaseModel):
    """A seam that was measured."""

    seam: Seam


class ShotBody(BaseModel):
    """A shot as the Bench shows it."""

    id: str
    document: Shot
    revision: int
    undo: str
    redo: str
    edited: str
    timing: ShotTiming
    terms: list[Term]
    findings: list[FindingBody]
    curves: list[LaneCurve]
    lens: LensBody
    ending: EndingBody | None
    brief: list[BriefPart] = Field(description="the shot as one sentence")
    seam: Seam = Field(description="how the end of the shot meets its beginning")


class TermBody(BaseModel):
    """A term of the timing and what was typed for it."""

    term: str
    text: str = Field(max_length=100)


class InstantBody(BaseModel):
    """Where a frame stands."""

    frame: int
    seconds: float = Field(description="in the video")
    timecode: str = Field(description="in the video; empty where the rate has none")
    motion_frame: int
    phase: float


class ShotLine(BaseModel):
    """A shot in the shot list."""

    id: str
    title: str
    kind: str
    file: str
    summary: str
    size: str
    edited: str
    revision: int
    runs: int
    output: int | None = Field(description="newest compiled file")
    glance: int = Field(description="frame that shows most of it")
    error: str


class HiddenShot(BaseModel):
    """A shot that was taken off the list."""

    name: str = Field(description="for putting it back")
    title: str


class ShotLines(BaseModel):
    """The shot list."""

    shots: list[ShotLine]
    hidden: list[HiddenShot] = Field(default=[], description="those that were taken off it, the newest first")
    removed: str = Field(default="", description="name of the one that was just taken off, for putting it back")


class NewShot(BaseModel):
    """A shot to be made: from a demo source, an uploaded file or a path on this machine."""

    demo: str = ""
    path: str = ""
    title: str = ""
    rate: str = Field(default="", description="of a sequence of stills, which does not state it")
    gaps: str = Field(default="", max_length=20, description="what its missing numbers show; empty for the usual")
    other_sizes: str = Field(
        default="", max_length=20, description="how its pictures of another size are shown; empty for the usual"
    )


class Edit(BaseModel):
    """An edit of a shot: a merge patch (RFC 7396) and what it does, for undo."""

    patch: dict[str, Any]
    what: str = ""
    burst: str = Field(default="", max_length=80, description="edits that bear the same one are one undo")


class RangeBody(BaseModel):
    """What a figure will lie between."""

    low: float
    high: float


class ForetoldBody(BaseModel):
    """What a probe foretells of a capture."""

    seconds: RangeBody | None = Field(description="with all workers; null where no frame's time is known")
    bytes: RangeBody = Field(description="on disk, of the frames that are not there yet")
    memory: RangeBody | None = Field(description="bytes of each worker")
    file_bytes: RangeBody | None = Field(description="of the files of the shot's recipe together")
    frames: list[int] = Field(description="frames that it rests on")
    left: int = Field(description="frames that were not there")


class ProbeBody(BaseModel):
    """The newest probe of a shot since the server was started."""

    state: str = Field(description="queued, running, stopped, failed or done; empty without one")
    progress: Progress | None
    sentence: str


class CostBody(BaseModel):
    """What a capture is expected to cost: by its probe, else as an earlier run alike, else from one frame made now."""

    foretold: ForetoldBody | None = Field(description="by the probe of the shot as it stands")

    run: int | None = Field(description="the run that was measured")
    frame: int | None = Field(description="the frame that was made")
    frame_seconds: float
    frame_bytes: float
    seconds: float = Field(description="for the frames that are not there yet")
    bytes: int
    findings: list[FindingBody] = Field(description="where the disk has no room for them")


class LeftBody(BaseModel):
    """How much of a shot is yet to be captured."""

    count: int = Field(description="pictures of the shot")
    left: int | None = Field(description="of them not there yet; null where they were not counted")


class ProofOrder(BaseModel):
    """The frame to make at full size and quality."""

    frame: int = Field(default=0, ge=0)
    camera_pass: int = Field(default=0, ge=0)


class ProofBody(BaseModel):
    """A frame at full size and quality."""

    key: str
    frame: int
    camera_pass: int
    name: str = Field(description="under which it is saved")
    picture: str = Field(description="under which it is fetched")
    width: int
    height: int
    samples: int
    bytes: int
    seconds: float | None = Field(description="that it took; null where that is not known any more")
