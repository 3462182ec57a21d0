"""Schemas of runs, their frames, and files compiled of them."""

from pydantic import BaseModel, Field

from vexel.core.camera.panorama import Panorama
from vexel.core.progress import Progress
from vexel.output.job.receipt import Check
from vexel.web.schemas.shots import ForetoldBody


class ReceiptBody(BaseModel):
    """What was read back from a file, held against the plan."""

    file: str
    recipe: str
    bytes: int
    holds: bool
    checks: list[Check]
    notes: list[str]


class OutputBody(BaseModel):
    """A compiled file."""

    id: int
    run_id: int = Field(description="0 where it is of a reel")
    reel: str
    shot_id: str
    title: str
    recipe: str
    about: str
    file: str
    path: str = Field(description="where it is on this machine")
    folder: bool = Field(description="whether it is a folder of frames")
    deletes: bool = Field(description="whether deleting the entry deletes the file too")
    state: str
    message: str
    created: str
    progress: Progress | None = Field(description="while it is made")
    receipt: ReceiptBody | None
    fits: list[str] = Field(description="what would about fit, where it was too large for its limit")
    trouble: str = Field(description="how the file differs from its receipt; empty if it does not")
    panorama: Panorama | None = Field(description="of a panorama")


class RunningFile(BaseModel):
    """A file that runs, or that code which runs draws on."""

    name: str
    path: str
    bytes: int
    text: str = Field(description="empty where it is no text, or too long to be shown")


class CheckBody(BaseModel):
    """A check of a run's frames and files."""

    state: str = Field(description="failed where some frames are damaged or missing")
    progress: Progress | None
    sentence: str = Field(description="what was found, for people")


class CameraPassBody(BaseModel):
    """A camera with a pass."""

    camera: str
    render_pass: str


class RunBody(BaseModel):
    """A run."""

    id: int
    shot_id: str
    title: str
    state: str
    after: int | None = Field(description="the run right before it in the queue, while it is queued")
    message: str
    count: int
    made: int
    kept: int
    failed: int
    waiting: int
    created: str
    ended: str
    seconds: float
    bytes: int
    made_bytes: int = Field(description="of the frames that it made itself")
    summary: str
    size: str
    passes: list[CameraPassBody] = Field(description="the same as names")
    camera_passes: list[str] = Field(description="cameras with their passes; a take counts its pictures frame by frame")
    panoramas: list[Panorama | None] = Field(description="of each camera pass, where it is a panorama")
    recipe: str = Field(description="what the shot is made into")
    makes: str = Field(description="what is made when all frames are there, in a word; empty for frames alone")
    variant: str = Field(description="of the shot's sweep, by its name; empty for the shot itself")
    draft: bool
    paused: bool = Field(description="whether it pauses on request")
    foretold: ForetoldBody | None = Field(description="what a probe said before it began")
    whole: bool = Field(description="whether it is, or will be, of all frames of its shot")
    progress: Progress | None
    check: CheckBody | None = Field(description="the newest one since Vexel was started")
    outputs: list[OutputBody]


class CaptureOrder(BaseModel):
    """What a run is to make."""

    draft: bool = Field(default=False, description="small and quick")
    to_file: bool = Field(default=False, description="and then the file of the shot's recipe")
    frame_seconds: float | None = Field(default=None, gt=0, le=86_400, description="limit of one frame; null as usual")
    tries: int = Field(default=1, ge=1, le=20, description="of a frame that fails")


class AgainOrder(BaseModel):
    """Frames of a run that are made again: some by their numbers, or all that failed with an error."""

    frames: str = Field(default="", max_length=2000, description="such as 12,40-62x2")
    camera_pass: int | None = Field(default=None, ge=0, description="one camera with one pass; null for all")
    error: str | None = Field(default=None, max_length=20_000, description="of frames that failed")
    reason: str = Field(min_length=1, max_length=500, description="kept with the frames")


class QueueOrder(BaseModel):
    """The order in which queued runs begin."""

    runs: list[int] = Field(max_length=10_000)


class QueueBody(BaseModel):
    """The queue of runs."""

    running: int | None
    queued: list[int] = Field(description="the next one first")
    paused: bool
    seconds_left: float | None = Field(description="of all of them; null where it is not known")


class FailureBody(BaseModel):
    """An error that frames of a run failed with."""

    error: str
    count: int
    first: int


class FailureBodies(BaseModel):
    """Errors of a run, the commonest first."""

    failures: list[FailureBody]


class RemovalBody(BaseModel):
    """What goes with a run."""

    frames: int
    files: int
    bytes: int


class HandoverFile(BaseModel):
    """A file that leaves with a hand-over."""

    name: str
    bytes: int


class HandoverBody(BaseModel):
    """What a hand-over of a run holds beside its frames."""

    files: list[HandoverFile]


class RunBodies(BaseModel):
    """Runs, newest first: of very many the newest, the running one and the next ones of the queue."""

    runs: list[RunBody]
    total: int = Field(description="how many there are")


class FrameBody(BaseModel):
    """A row of the ledger."""

    number: int
    state: str
    seconds: float
    bytes: int
    error: str
    key: str
    reason: str = Field(description="why it was captured again, if it was")


class FrameBodies(BaseModel):
    """Rows of the ledger, from an offset."""

    total: int
    offset: int
    frames: list[FrameBody]


class StatesBody(BaseModel):
    """State of every frame, one letter each: w waiting, m made, k kept, f failed."""

    states: str


class CompileOrder(BaseModel):
    """Which recipe to compile a take by."""

    recipe: str
    camera_pass: int = Field(default=0, ge=0, description="which camera with which pass")
    folder: str = Field(default="", max_length=1000, description="folder for frames; an absolute path")
    links: bool = Field(default=False, description="hard links in that folder in place of copies")
