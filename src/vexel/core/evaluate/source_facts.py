"""What is known of a source: what it reports, and what was measured."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Annotated, Any, ClassVar, Literal

from pydantic import ConfigDict, Field, TypeAdapter, ValidationError

from vexel.core.camera.framing import Sphere
from vexel.core.evaluate.frame_spec import SourceIdentity, TimeInputs
from vexel.core.lanes.dial import Dial
from vexel.core.time.animation_length import AnimationLength
from vexel.core.time.source_frames import SourceFrames


@dataclass(frozen=True)
class UpGuess:
    """Which axis of a mesh file points up, as its shape tells; `sure` where it leaves little doubt."""

    axis: Literal["y", "z"]
    sure: bool


SourceOddity = Literal[
    "frames-missing", "files-skipped", "number-twice", "unreadable", "other-size", "other-depth", "leftover",
    "written-backwards", "uneven-frames", "rotated", "values-missing", "not-finite", "uneven-times", "no-header",
    "value-unread",
    "untimed", "times-jump", "undecodable", "stretched", "interlaced", "bright-colours", "wide-colours", "profile",
    "dates-guessed", "rows-reversed", "not-drawn", "missing-beside", "animations", "untamed", "layers",
    "linear-floats", "no-point-colours",
]  # fmt: skip


@dataclass(frozen=True)
class SourceFinding:
    """Something odd about a source, as facts; `vexel.core.checks.source_sentences` words it.

    Attributes
    ----------
    code : str
    facts : mapping of str to int, float or str
        What the sentence needs.
    """

    code: SourceOddity
    facts: Mapping[str, int | float | str] = field(default_factory=dict)


@dataclass(frozen=True)
class SourceFacts:
    """What a source reports about itself.

    Attributes
    ----------
    dials : tuple of Dial
    time_inputs : tuple of str
        Which attributes of the `Instant` it depends on, or ``slot``, its source frame; none if dials are all.
    pictures : bool
        Whether it gives pictures only, so that nothing must be measured.
    source_frames : SourceFrames or None
        The pictures that it has, where their number is fixed.
    sequential : bool
        Whether each frame is reached through those before it, so that one
        process does best with frames that follow each other.
    settings : tuple of str
        Dials that decide the whole course, so that no lane may drive them.
    step : str
        Inner step of a simulation in simulated seconds, as exact text; else empty.
    size : (int, int) or None
        Width and height of its pictures, where they are fixed.
    about : tuple of (str, str)
        What it is, for people: names and values.
    findings : tuple of SourceFinding
        What is odd about it.
    up : {"y", "z"} or None
        Axis of its file that points up when it is shown, where it has one.
    up_stated : bool
        Whether the file's format states which axis that is.
    up_guess : UpGuess or None
        What its shape suggests about that.
    length : OwnLength or None
        How long its animations last by themselves, where that can be read.
    """

    # Kept facts and the digests of plans have the names of the first version: the aliases.
    __pydantic_config__: ClassVar = ConfigDict(serialize_by_alias=True)

    dials: tuple[Dial, ...] = ()
    time_inputs: Annotated[tuple[str, ...], Field(alias="sees")] = ()
    pictures: bool = False
    source_frames: SourceFrames | None = None
    sequential: Annotated[bool, Field(alias="walks")] = False
    settings: tuple[str, ...] = ()
    step: str = ""
    size: tuple[int, int] | None = None
    about: tuple[tuple[str, str], ...] = ()
    findings: tuple[SourceFinding, ...] = ()
    up: Literal["y", "z"] | None = None
    up_stated: bool = False
    up_guess: UpGuess | None = None
    length: AnimationLength | None = None


@dataclass(frozen=True)
class StatesAt:
    """Where the states of a simulation are kept, and the key that seals them."""

    folder: Path
    key: bytes


@dataclass(frozen=True)
class OutsideAt:
    """A file or folder beyond a source's own, as its code reads it.

    Attributes
    ----------
    name : str
        Its declared name.
    place : str
        The whole path that code asks for.
    copy : Path
        Its contents when the shot was planned; no file exists there if it was empty.
    stamp : str
        Identifies that content.
    """

    name: str
    place: str
    copy: Path
    stamp: str


@dataclass(frozen=True)
class SourceAt:
    """How a stage opens a source.

    Attributes
    ----------
    kind : str
    file : Path
        Its main file.
    options : mapping
        What the shot document sets of how it is read.
    digest : str
    backdrop : Path or None
        An image behind it.
    drawing : Path or None
        Code that draws it, where that is not its main file.
    states : StatesAt or None
        Where a simulation keeps its states.
    outside : tuple of OutsideAt
        What its code declares to read beyond its own folder.
    """

    kind: str
    file: Path
    options: Mapping[str, Any] = field(default_factory=dict)
    digest: str = ""
    backdrop: Path | None = None
    drawing: Path | None = None
    states: StatesAt | None = None
    outside: tuple[OutsideAt, ...] = ()


Moment = tuple[dict[str, float], TimeInputs]
"""Dials and what is seen of the instant, at which a subject is measured."""


Point = tuple[float, float, float]


@dataclass(frozen=True)
class Subject:
    """The subject before the camera, measured over the whole shot.

    Attributes
    ----------
    sphere : Sphere or None
        Holds the subject in all measured frames, so that the camera keeps still
        while the subject grows. None where the source gives pictures, which no
        camera looks at.
    ranges : mapping of str to (low, high)
        Range of each coloured quantity over the measured frames.
    parts, arrays : tuple of str
        Names of the parts that were seen, and of the arrays that colour them.
    centroid : (float, float, float) or None
        Middle of its surface, or of its points where it has none.
    box : (low corner, high corner) or None
    outlines : tuple of tuple of (float, float)
        Convex outlines seen from above (x, y), from the front (x, z) and from
        the side (y, z).
    hull : tuple of Point
        Its outermost points, in all measured frames: all corners of its convex
        hull, or the extremes in a fixed set of directions where it has more.
    step : float
        The coarsest step between coordinates that the numbers of its points can
        hold; 0 for none that is known.
    """

    sphere: Sphere | None
    ranges: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    parts: tuple[str, ...] = ()
    arrays: tuple[str, ...] = ()
    centroid: Point | None = None
    box: tuple[Point, Point] | None = None
    outlines: tuple[tuple[tuple[float, float], ...], ...] = ()
    hull: tuple[Point, ...] = ()
    step: float = 0.0


@dataclass(frozen=True)
class PlanInputs:
    """What a plan rests on beside the shot.

    Attributes
    ----------
    engine : str
        Version of the stage.
    source : SourceIdentity
    facts : SourceFacts
    subject : Subject
        Its measurements.
    backdrop : str
        SHA-256 of the image behind it.
    fonts : tuple of str
        Identities of the fonts that its labels take beside the usual one.
    """

    __pydantic_config__: ClassVar = ConfigDict(serialize_by_alias=True)

    engine: str
    source: SourceIdentity
    facts: SourceFacts
    subject: Subject
    backdrop: str = ""
    fonts: tuple[str, ...] = ()

    def dumps(self) -> str:
        """As JSON text."""
        return _INPUTS.dump_json(self).decode()

    @staticmethod
    def loads(text: str) -> "PlanInputs | None":
        """From the text that `dumps` gave; None when another version of Vexel wrote it."""
        try:
            return _INPUTS.validate_json(text)
        except ValidationError:
            return None


_INPUTS = TypeAdapter(PlanInputs)
