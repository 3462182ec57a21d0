"""Schemas of reviews: what is looked at, its figures and notes."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field, model_validator

from vexel.core.errors import Mistake
from vexel.core.progress import Progress
from vexel.web.schemas.common import MOST_NUMBER, NamedValue

SubjectKind = Literal["take", "file", "reel", "import"]
Share = Annotated[float, Field(ge=0, le=1)]
Frame = Annotated[int, Field(ge=0, le=MOST_NUMBER)]
MOST_TEXT, MOST_AUTHOR = 4000, 80


class PassQuery(BaseModel):
    """Which camera and pass of a take, by number."""

    camera_pass: int = Field(default=0, ge=0, le=10_000)


class ReviewBody(BaseModel):
    """What is reviewed."""

    kind: SubjectKind
    name: str
    title: str
    count: int
    first: int = Field(description="number of the first frame in its shot")
    rate: str = Field(description="frames a second, as a fraction")
    fps: float
    width: int
    height: int
    bits: int = Field(description="of a channel; 0 for floating-point numbers")
    closes: bool = Field(description="whether the first frame follows the last")
    is_data: bool
    missing: list[int] = Field(description="frames that are not there: the one before is shown")
    camera_passes: list[str]
    camera_pass: int
    content: str = Field(description="changes with the frames")
    shot_id: str
    others: list["OtherBody"] = Field(description="what it can be compared with, the likeliest first")


class OtherBody(BaseModel):
    """Something that can be reviewed."""

    kind: SubjectKind
    name: str
    title: str
    about: str
    created: str = Field(description="empty for a reel")
    count: int = Field(description="frames, where that is known")


class OtherBodies(BaseModel):
    """All that can be reviewed."""

    others: list[OtherBody]


class LookQuery(PassQuery):
    """How a frame is shown."""

    wide: int = Field(default=0, ge=0, le=8192, description="width of a small picture; 0 for the frame's own")
    stops: float = Field(default=0.0, ge=-20, le=20, description="by how much its light is raised")


class PlaceQuery(PassQuery):
    """A frame as people type it."""

    text: str = Field(max_length=40, description="its number, or seconds as 2.5s, or a timecode")


class PlaceBody(BaseModel):
    """A frame of what is reviewed."""

    frame: int = Field(description="its place, counted from 0")
    seconds: str
    timecode: str = Field(description="empty where the rate has none")


class SheetQuery(PassQuery):
    """Which frames a contact sheet shows: every n-th one, some by their numbers, or those with notes or findings."""

    of: Literal["every", "noted", "findings"] = "every"
    every: int = Field(default=24, ge=1, le=1_000_000)
    frames: str = Field(default="", max_length=2000, description="such as 12,40-62x2")
    columns: int = Field(default=5, ge=1, le=20)


class PixelQuery(PassQuery):
    """Which pixel."""

    frame: Frame
    x: int = Field(ge=0, le=1_000_000)
    y: int = Field(ge=0, le=1_000_000)


class PixelBody(BaseModel):
    """The numbers of a pixel, in those of its file."""

    values: list[float | None] = Field(description="red, green, blue and alpha, or a number alone; null for no number")
    bits: int = Field(description="of a channel; 0 for floating-point numbers")


class DifferenceQuery(PassQuery):
    """Two frames."""

    frame: Frame
    other_kind: SubjectKind
    other: str = Field(max_length=100)
    other_pass: int = Field(default=0, ge=0, le=10_000)
    other_frame: Frame


class DifferenceBody(BaseModel):
    """How two frames differ; values are shares of full scale, or numbers of their files where these hold light."""

    mean: float
    most: float
    changed: float = Field(description="share of pixels that differ")
    x: int = Field(description="of the pixel that differs most")
    y: int
    is_light: bool


class PairQuery(PassQuery):
    """What a subject is compared with, and how frames are matched."""

    other_kind: SubjectKind
    other: str = Field(max_length=100)
    other_pass: int = Field(default=0, ge=0, le=10_000)
    by: Literal["frame", "time"] = "frame"
    offset: int = Field(default=0, ge=-MOST_NUMBER, le=MOST_NUMBER)


class SeenBody(BaseModel):
    """A finding, with the frames that it is about."""

    name: str
    what: str
    cost: str
    frames: list[int]


class CurvesBody(BaseModel):
    """Figures frame by frame, as shares of full scale."""

    mean: list[float]
    low: list[float]
    high: list[float]
    red: list[float]
    green: list[float]
    blue: list[float]
    dark: list[float]
    light: list[float]
    sharpness: list[float]
    noise: list[float]
    clear: list[float]
    step: list[float] = Field(description="mean difference to the frame before; of the first, to the last")
    step_most: list[float]
    changed: list[float]


class FiguresBody(BaseModel):
    """Figures of all frames, once they are measured."""

    state: Literal["none", "queued", "running", "stopped", "failed", "done"]
    message: str
    progress: Progress | None
    curves: CurvesBody | None
    findings: list[SeenBody]
    looked_closer: list[int] = Field(description="frames in which bands and fringes were looked for")


class MadeFromBody(BaseModel):
    """The provenance record of a file, and the parts that this project has."""

    said: str = Field(description="its record in a line; empty where it carries none")
    take: int
    shot_id: str
    reel: str
    recipe: str
    camera_pass: int
    gone: list[str]


class InspectedBody(BaseModel):
    """Facts and findings of a file, or of a folder of images."""

    facts: list[NamedValue]
    findings: list[str]
    damaged: bool
    made: MadeFromBody | None


class ImportedBody(BaseModel):
    """What was dropped on Review."""

    name: str


class PairBody(BaseModel):
    """What is known of two subjects together."""

    state: Literal["none", "queued", "running", "stopped", "failed", "done"]
    message: str
    progress: Progress | None
    first: int = Field(description="the first frame that has one of the other's")
    apart: list[float] | None = Field(description="mean difference from there on, as shares of full scale")
    most: list[float] | None = Field(description="the largest differences")
    findings: list[SeenBody]


class PageBody(BaseModel):
    """How far a review page is."""

    state: Literal["none", "queued", "running", "stopped", "failed", "done"]
    message: str
    progress: Progress | None


class MergedBody(BaseModel):
    """What came back with a review page."""

    new: int
    changed: int = Field(description="notes that were closed or opened again")


class MarkBody(BaseModel):
    """A place in the picture: a dot, or a box or an arrow from one point to another, as shares of its size."""

    shape: Literal["dot", "box", "arrow"]
    x: Share
    y: Share
    to_x: Share = 0.0
    to_y: Share = 0.0


class NoteOrder(BaseModel):
    """A note to be written down."""

    camera_pass: int = Field(default=0, ge=0, le=10_000)
    first: Frame
    last: Frame
    mark: MarkBody | None = None
    text: str = Field(min_length=1, max_length=MOST_TEXT)
    author: str = Field(default="", max_length=MOST_AUTHOR)

    @model_validator(mode="after")
    def _ordered(self) -> "NoteOrder":
        if self.last < self.first:
            raise Mistake("last: the last frame of a note is not before its first")
        return self


class NoteEdit(BaseModel):
    """What changes in a note; null leaves it."""

    text: str | None = Field(default=None, min_length=1, max_length=MOST_TEXT)
    is_open: bool | None = None


class NoteBody(BaseModel):
    """A note."""

    id: int
    camera_pass: int
    first: int
    last: int
    mark: MarkBody | None
    text: str
    author: str
    created: str
    is_open: bool


class NoteBodies(BaseModel):
    """Notes by their frames."""

    notes: list[NoteBody]


class ChangesQuery(BaseModel):
    """What a take is compared with."""

    other: int = Field(default=0, ge=0, le=MOST_NUMBER, description="another take; 0 for its shot now")


class ChangeBody(BaseModel):
    """A setting that differs."""

    path: str
    label: str = Field(description="for people")
    one: str
    other: str


class LinesBody(BaseModel):
    """Lines of a source's file that differ, counted from 1; empty where one has none there."""

    file: str
    one: list[int]
    other: list[int]


class ChangesBody(BaseModel):
    """What differs between the settings of two takes, or of a take and its shot now."""

    one: str
    other: str
    changes: list[ChangeBody]
    lines: list[LinesBody]
    notes: list[str] = Field(description="other differences, such as the version that made them")
    patch: dict[str, Any] = Field(
        description="a merge patch that gives the shot of now the settings of the take; empty where there is none"
    )
