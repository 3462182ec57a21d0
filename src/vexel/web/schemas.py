"""What goes over the wire, as pydantic models: the OpenAPI document comes from these."""

from typing import Any

from pydantic import BaseModel, Field

from vexel.core.brief_part import BriefPart
from vexel.core.camera.panorama import Panorama
from vexel.core.checks.estimate import Progress
from vexel.core.checks.reckoning import Reckoning
from vexel.core.checks.seam import Seam
from vexel.core.document.passes import Pass
from vexel.core.document.shot import Shot
from vexel.core.document.source_spec import Gives
from vexel.core.edits.convert_rig import RigKind
from vexel.core.edits.set_term import Term
from vexel.core.evaluate.lane_targets import LaneTarget
from vexel.core.time.ruler import Tick
from vexel.output.receipt import Check

MOST_NUMBER = 2**53
"""The largest whole number that JSON passes on exactly everywhere."""


class Mended(BaseModel):
    """A mend of a finding."""

    label: str
    patch: dict[str, Any]


class FindingBody(BaseModel):
    """A finding of preflight."""

    name: str
    what: str
    cost: str
    mends: list[Mended]


class LaneCurve(BaseModel):
    """Values of a lane along the shot, at most some hundred of them."""

    drive: str
    low: float = Field(description="over the whole shot, keys included")
    high: float
    frames: list[int] = Field(description="shown frames at which the values stand")
    values: list[float]
    places: list[float] = Field(description="where in its keys the lane stands; empty for one that follows another")


class StripBody(BaseModel):
    """A stretch of the shot as the strip shows it: marks of its ruler, and its lanes."""

    ticks: list[Tick]
    curves: list[LaneCurve]


class EndingBody(BaseModel):
    """How long the shot is when it ends with its motion."""

    frames: int
    patch: dict[str, Any]


class RigBody(BaseModel):
    """Another kind of rig, beginning from how the camera moves now."""

    kind: RigKind
    frame: int = Field(default=0, ge=0, description="whose view a camera that stands takes")
    camera: int = Field(default=0, ge=0, description="which one, from the shot's own on")


class NewCamera(BaseModel):
    """A further camera, which stands where the shot's own one is in a frame."""

    frame: int = Field(default=0, ge=0)
    patch: dict[str, Any] = Field(default={}, description="merge patch that is shown and not saved")


class SaveView(BaseModel):
    """A view to be saved: that of a frame, with a drag's own camera if given."""

    frame: int = Field(ge=0)
    patch: dict[str, Any] = Field(default={}, description="merge patch that is shown and not saved")
    name: str = Field(default="", max_length=80)


class NamedValue(BaseModel):
    """A fact for people."""

    name: str
    value: str


class CameraPathBody(BaseModel):
    """How a camera moves, at most some hundred places of it."""

    name: str
    frames: list[int]
    positions: list[tuple[float, float, float]]
    looks: list[tuple[float, float, float]]
    ups: list[tuple[float, float, float]]
    views_wide_deg: list[float]
    views_high_deg: list[float]


class PathFiguresBody(BaseModel):
    """The cameras of a shot in plan and elevation, and how its own one moves."""

    cameras: list[CameraPathBody]
    centre: tuple[float, float, float]
    radius: float = Field(description="of the sphere about the subject")
    outlines: list[list[tuple[float, float]]] = Field(description="of the subject: from above, front and side")
    places: list[tuple[float, float, float]] = Field(description="keys of the path, or saved views")
    stops: list[int] = Field(description="shown frames at which keys or views are reached")
    frames: list[int] = Field(description="shown frames at which the speeds stand")
    speeds: list[float] = Field(description="units of the source a frame; empty where nothing moves")
    margins: list[float] = Field(description="room about the subject, in shares of half the frame")
    told: list[NamedValue]


class PathFile(BaseModel):
    """A file that says where the camera goes."""

    name: str = Field(max_length=200, description="its ending tells what it is")
    data: str = Field(max_length=40_000_000, description="its bytes, in base64")
    camera: str = Field(default="", max_length=200, description="name of the camera, where glTF holds several")


class DistanceBody(BaseModel):
    """How far away something is along the line of sight."""

    distance: float | None = Field(description="in the source's units; null where nothing is")
    point: tuple[float, float, float] | None = Field(description="that is seen there")


class Stagger(BaseModel):
    """By how much of its own time each lane overlaps the next."""

    overlap: float = Field(ge=0, le=1)


class PlayedTrack(BaseModel):
    """What a gesture did to one thing: shown frame and value, in the order in which they came."""

    drive: str
    samples: list[tuple[float, float]] = Field(max_length=100_000)


class PlayedIn(BaseModel):
    """A gesture made while the shot played."""

    tracks: list[PlayedTrack] = Field(min_length=1, max_length=8)
    tolerance: float = Field(default=0.01, ge=0, le=0.5, description="share of its range that keys may miss")


class LensBody(BaseModel):
    """Field of view in degrees, and what is sharp, in the source's units."""

    wide_deg: float
    high_deg: float
    diagonal_deg: float
    hyperfocal: float | None = Field(description="null where all is sharp")
    near: float | None = Field(description="of what is sharp; null where the focus is not a stated distance")
    far: float | None = Field(description="null where that is infinite, or not known")
    sensors: dict[str, str] = Field(description="usual ones by their size, and what they are called")


class ShotBody(BaseModel):
    """A shot as the Bench shows it."""

    id: str
    document: Shot
    revision: int
    undo: str
    redo: str
    edited: str
    reckoning: Reckoning
    terms: list[Term]
    findings: list[FindingBody]
    curves: list[LaneCurve]
    lens: LensBody
    ending: EndingBody | None
    brief: list[BriefPart] = Field(description="the shot as one sentence")
    seam: Seam = Field(description="how the end of the shot meets its beginning")


class TermBody(BaseModel):
    """A term of the reckoning and what was typed for it."""

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


class ShotLines(BaseModel):
    """The shot list."""

    shots: list[ShotLine]
    removed: str = Field(default="", description="name of the one that was just taken off, for putting it back")


class NewShot(BaseModel):
    """A shot to be made: from a demo source, an uploaded file or a path on this machine."""

    demo: str = ""
    path: str = ""
    title: str = ""
    rate: str = Field(default="", description="of a sequence of stills, which does not say it")


class Based(BaseModel):
    """The revision that an edit was made from."""

    revision: int | None = Field(
        default=None, ge=0, le=MOST_NUMBER, description="a clash with a later edit is refused; left out: the newest"
    )


class Edit(BaseModel):
    """An edit of a shot: a merge patch (RFC 7396) and what it does, for undo."""

    patch: dict[str, Any]
    what: str = ""
    burst: str = Field(default="", max_length=80, description="edits that bear the same one are one undo")


class DialBody(BaseModel):
    """A dial of a source."""

    name: str
    default: float
    low: float
    high: float
    unit: str
    about: str


class DiffLine(BaseModel):
    """A line of a difference: it stays (a space), comes (+) or goes (-)."""

    sign: str
    text: str


class ProposalBody(BaseModel):
    """How a plain script becomes a source, or why that cannot be proposed."""

    mark: str = Field(description="sketch or model; empty where nothing is proposed")
    lines: list[DiffLine]
    notes: list[str]
    file: str = Field(description="that would be written")


class CodeBody(BaseModel):
    """Text of a source's main file."""

    text: str
    language: str
    writable: bool
    revision: int = Field(description="of its history; to be sent with the next text")
    undo: bool = Field(description="whether an earlier text can be brought back")
    redo: bool
    proposal: ProposalBody | None = Field(description="for a Python file that marks no function")


class CodeEdit(BaseModel):
    """New text of a source's main file."""

    text: str
    burst: str = Field(default="", max_length=80, description="texts that bear the same one are one undo")


class PrintedBody(BaseModel):
    """What a source's code printed when it was last asked for a frame."""

    text: str


class PushBody(BaseModel):
    """How a running program hands over frames."""

    address: str
    python: str
    curl: str


class SourceBody(BaseModel):
    """What a source says of itself."""

    kind: str
    file: str
    dials: list[DialBody]
    settings: list[str] = Field(description="dials that no lane may drive")
    about: list[NamedValue] = Field(description="what it is")
    findings: list[FindingBody] = Field(description="what is odd about it")
    parts: list[str] = Field(description="names of parts that a lane may fade")
    arrays: list[str] = Field(description="names of arrays whose colours a lane may spread")
    listed: bool = Field(description="whether it is a list of pictures or slices")
    code: bool = Field(description="whether it is a person's own text, for the editor")
    camera: bool = Field(description="whether the shot's camera looks at it; a source of pictures needs none")
    targets: list[LaneTarget] = Field(description="what lanes may drive, with values to begin from")


class CostBody(BaseModel):
    """What a capture is expected to cost: from an earlier run that was made alike, or from one frame made just now."""

    run: int | None = Field(description="the run that was measured")
    frame: int | None = Field(description="the frame that was made")
    frame_seconds: float
    frame_bytes: float
    seconds: float = Field(description="for the frames that are not there yet")
    bytes: int


class ProofOrder(BaseModel):
    """Which frame is to be made at full size and quality."""

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


class Done(BaseModel):
    """An operation that has nothing to tell."""


class DemoSource(BaseModel):
    """A source that comes with Vexel."""

    name: str
    title: str
    kind: str
    about: str


class DemoSources(BaseModel):
    """All demo sources."""

    sources: list[DemoSource]


class UploadBody(BaseModel):
    """An uploaded source."""

    path: str
    kind: str
    about: list[NamedValue] = Field(description="what it is, so that a person can say the rate of stills")
    frames: int | None = Field(description="how many frames it has, where they are fixed")


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
    run_id: int
    shot_id: str
    title: str
    recipe: str
    about: str
    file: str
    path: str = Field(description="where it is on this machine")
    folder: bool = Field(description="whether it is a folder of frames")
    state: str
    message: str
    created: str
    done: int
    count: int
    rate: float
    receipt: ReceiptBody | None
    trouble: str = Field(description="how the file is no longer what its receipt tells; empty if it is")
    panorama: Panorama | None = Field(description="of a panorama")


class RunningFile(BaseModel):
    """A file that runs, or that code which runs draws on."""

    name: str
    path: str
    bytes: int
    text: str = Field(description="empty where it is no text, or too long to be shown")


class UnseenSource(BaseModel):
    """Code that has not been agreed to."""

    digest: str
    kind: str
    shots: list[str] = Field(description="titles of the shots that it is the source of")
    files: list[RunningFile]


class ConsentBody(BaseModel):
    """What of a project waits for a person's word before it runs."""

    own: bool = Field(description="made here, so that nothing is asked")
    unseen: list[UnseenSource]


class Agreement(BaseModel):
    """Code that a person has seen, and lets run."""

    digests: list[str]


class NewsBody(BaseModel):
    """What has happened, for a page that asks."""

    mark: str = Field(description="to be given the next time")
    news: list[dict[str, Any]]
    gap: bool = Field(description="something is missing between, so that all must be asked anew")


class CheckBody(BaseModel):
    """A check of a run's frames and files."""

    done: int
    count: int
    going: bool
    whole: bool
    sentence: str = Field(description="what was found, for people")


class RunBody(BaseModel):
    """A run."""

    id: int
    shot_id: str
    title: str
    state: str
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
    summary: str
    size: str
    camera_passes: list[str] = Field(description="cameras with their passes; a take counts its pictures frame by frame")
    panoramas: list[Panorama | None] = Field(description="of each camera pass, where it is a panorama")
    recipe: str = Field(description="what the shot is made into")
    makes: str = Field(description="what is made when all frames are there, in a word; empty for frames alone")
    rough: bool
    progress: Progress | None
    check: CheckBody | None = Field(description="the newest one since Vexel was started")
    outputs: list[OutputBody]


class CaptureOrder(BaseModel):
    """What a run is to make."""

    rough: bool = Field(default=False, description="small and quick")
    to_file: bool = Field(default=False, description="and then the file of the shot's recipe")


class RemovalBody(BaseModel):
    """What goes with a run."""

    frames: int
    files: int
    bytes: int


class LeftBody(BaseModel):
    """How much of a shot is yet to be captured."""

    count: int = Field(description="pictures of the shot")
    left: int | None = Field(description="of them not there yet; null where they were not counted")


class RunBodies(BaseModel):
    """Runs, newest first."""

    runs: list[RunBody]


class FrameBody(BaseModel):
    """A row of the ledger."""

    number: int
    state: str
    seconds: float
    bytes: int
    error: str
    key: str


class FrameBodies(BaseModel):
    """Rows of the ledger, from an offset."""

    total: int
    offset: int
    frames: list[FrameBody]


class StatesBody(BaseModel):
    """State of every frame, one letter each: w waiting, m made, k kept, f failed."""

    states: str


class RecipeBody(BaseModel):
    """A recipe for compiling."""

    name: str
    about: str
    makes: str = Field(description="what it makes, in a word")
    folder: bool = Field(description="whether it lays frames into a folder")


class SourceKindBody(BaseModel):
    """A kind of source."""

    name: str
    is_a: str = Field(description="what it is, in a few words")
    bring: str = Field(description="what a person brings for it")
    gives: Gives
    dials: bool
    blurs: bool
    own_text: bool
    needs_rate: bool


class RigKindBody(BaseModel):
    """A kind of rig."""

    kind: RigKind
    label: str


class PassBody(BaseModel):
    """A pass."""

    name: Pass
    label: str
    in_view: bool = Field(description="whether a saved view may be drawn as it")


class TargetBody(BaseModel):
    """What a lane may drive, or a family of such things."""

    drive: str = Field(description="a family ends in a colon")
    label: str = Field(description="{} stands for the name of one of a family")


class Vocabulary(BaseModel):
    """Names and rules of the core that the interface asks, rather than repeats."""

    sources: list[SourceKindBody]
    rigs: list[RigKindBody]
    passes: list[PassBody]
    recipes: list["RecipeBody"]
    easings: list[str]
    targets: list[TargetBody]


class RecipeBodies(BaseModel):
    """All recipes."""

    recipes: list[RecipeBody]


class CompileOrder(BaseModel):
    """Which recipe to compile a take by."""

    recipe: str
    camera_pass: int = Field(default=0, ge=0, description="which camera with which pass")
    folder: str = Field(default="", max_length=1000, description="where a folder of frames is to be; an absolute path")
    links: bool = Field(default=False, description="hard links in that folder in place of copies")


class ErrorBody(BaseModel):
    """A refusal in one sentence.

    `line` is that of the source's own code, or 0; `limited` says that a limit
    was reached which a capture may not have; `changed` names what others have
    changed since the revision that an edit was made from.
    """

    error: str
    line: int = 0
    limited: bool = False
    changed: list[str] = []
    unseen: bool = Field(default=False, description="code from elsewhere has not been agreed to")
