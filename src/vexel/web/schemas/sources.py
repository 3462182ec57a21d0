"""Schemas of sources, their code, uploads, and consent to run them."""

from pydantic import BaseModel, Field

from vexel.core.checks.seam import Seam
from vexel.core.evaluate.lane_targets import LaneTarget
from vexel.core.evaluate.source_facts import SourceOddity
from vexel.web.schemas.common import FindingBody, NamedValue
from vexel.web.schemas.runs import RunningFile


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
    undo: bool = Field(description="whether an earlier text can be restored")
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


class SourceStateBody(BaseModel):
    """What a source is now."""

    digest: str = Field(description="of its content; changes with every change of the file; empty where it is gone")


class SourceBody(BaseModel):
    """What a source reports about itself."""

    kind: str
    file: str
    dials: list[DialBody]
    settings: list[str] = Field(description="dials that no lane may drive")
    about: list[NamedValue] = Field(description="what it is")
    findings: list[FindingBody] = Field(description="what is odd about it")
    seam: Seam = Field(description="how the end of the shot meets its beginning, as far as the source tells")
    parts: list[str] = Field(description="names of parts that a lane may fade")
    arrays: list[str] = Field(description="names of arrays whose colours a lane may spread")
    listed: bool = Field(description="whether it is a list of pictures or slices")
    code: bool = Field(description="whether it is the user's text, for the editor")
    camera: bool = Field(description="whether the shot's camera looks at it; a source of pictures needs none")
    targets: list[LaneTarget] = Field(description="what lanes may drive, with values to begin from")


class DemoSource(BaseModel):
    """A source that comes with Vexel."""

    name: str
    title: str
    kind: str
    about: str


class DemoSources(BaseModel):
    """All demo sources."""

    sources: list[DemoSource]


class SourceOddityBody(BaseModel):
    """Something odd about a source, before a shot of it is made."""

    name: SourceOddity
    what: str
    file: str = Field(description="a file that shows it; empty where none does")
    picture: str = Field(description="that file, small, as a data address; empty where there is none")


class SourcePath(BaseModel):
    """A source on this machine."""

    path: str = Field(min_length=1, max_length=4000)


class UploadBody(BaseModel):
    """An uploaded source."""

    path: str
    kind: str
    about: list[NamedValue] = Field(description="its properties, so that the user can choose the rate of stills")
    frames: int | None = Field(description="how many frames it has, where they are fixed")
    findings: list[SourceOddityBody] = Field(default=[], description="what is odd about it, before a shot is made")
    shot: str = Field(default="", description="the shot that came with it: it was a hand-over")


class UnseenSource(BaseModel):
    """Code that is not trusted yet."""

    digest: str
    kind: str
    shots: list[str] = Field(description="titles of the shots that it is the source of")
    files: list[RunningFile]


class ConsentBody(BaseModel):
    """The parts of a project that must be trusted before they run."""

    own: bool = Field(description="made here, so that nothing is asked")
    writes_bounded: bool = Field(description="whether code can write into its own folders only on this machine")
    unseen: list[UnseenSource]


class TrustOrder(BaseModel):
    """Code that the user has reviewed, and trusts."""

    digests: list[str]
