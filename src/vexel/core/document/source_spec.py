"""The source of a shot document: one form for each kind."""

from dataclasses import dataclass
from pathlib import PurePosixPath
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, field_validator

from vexel.core.brief_part import BriefPart
from vexel.core.document.fit import Fit
from vexel.core.document.part import Part
from vexel.core.time.rate import MAX_SOURCE_RATE, Rate

Gives = Literal["geometry", "picture", "either"]


@dataclass(frozen=True)
class SourceTraits:
    """One record for each kind; rules ask it instead of naming kinds.

    Attributes
    ----------
    is_a : str
        What it is, in a few words, such as ``code that draws a picture``.
    bring : str
        What the user imports for it.
    gives : {"geometry", "picture", "either"}
        Geometry for a camera to look at, a picture, or either, as its code decides.
    dials : bool
        Whether it may have numbers that a lane drives.
    blurs : bool
        Whether it can be asked for several instants within an open shutter.
    own_text : bool
        Whether its main file is text that the user can edit.
    runs_once : bool
        Whether its last frame is not followed by its first.
    remembers : bool
        Whether a frame depends on the frames before it.
    needs_rate : bool
        Whether its file does not state a playback rate.
    """

    is_a: str
    bring: str
    gives: Gives
    dials: bool = False
    blurs: bool = True
    own_text: bool = False
    runs_once: bool = False
    remembers: bool = False
    needs_rate: bool = False


class SourceSpec(Part):
    """A file that is shown; `traits` is what is always true of its kind."""

    traits: ClassVar[SourceTraits]
    file: str = Field(min_length=1, description="relative to the shot document")

    @property
    def name(self) -> str:
        """Its main file, without its folders."""
        return PurePosixPath(self.file).name

    def brief(self) -> list[BriefPart]:
        """What the brief adds after its name."""
        return []

    def options(self) -> dict[str, Any]:
        """What the document sets of how the file is read: all but its kind, its path and its dials."""
        return self.model_dump(mode="json", exclude={"kind", "file", "dials"})


class WithDials(SourceSpec):
    """A source with dials."""

    dials: dict[str, float] = Field(default={}, description="values that differ from the dials' own")


Reading = Annotated[str, Field(min_length=1, max_length=400, pattern=r"^[^\x00]+$")]
"""A path, or ``env:`` with a name."""


class WithCode(WithDials):
    """A source whose code is run."""

    reads: list[Reading] = Field(
        default=[],
        max_length=100,
        description="what the code reads beside its own files: paths, relative to its file, or env: with a name",
    )
    reads_from: dict[Reading, Reading] = Field(
        default={},
        max_length=100,
        description="files and folders that are read in place of those in reads, relative to the shot document",
    )
    ignores: list[Reading] = Field(
        default=[], max_length=100, description="what it reads and does not depend on: as in reads"
    )

    def options(self) -> dict[str, Any]:
        """Leave out `ignores` and the path of what it reads; keep `reads` only where the document sets it."""
        options = super().options()
        options.pop("ignores")
        options.pop("reads_from")
        return options if self.reads else {name: value for name, value in options.items() if name != "reads"}


class ModelSource(WithCode):
    """Code that builds geometry from dials."""

    kind: Literal["model"]
    traits: ClassVar[SourceTraits] = SourceTraits(
        "code that builds geometry", "Python with @model", "geometry", dials=True, own_text=True
    )


class SketchSource(WithCode):
    """Code that draws a picture."""

    kind: Literal["sketch"]
    traits: ClassVar[SourceTraits] = SourceTraits(
        "code that draws a picture", "Python with @sketch", "either", dials=True, own_text=True
    )
    seed: int = Field(default=0, ge=0, lt=2**32, description="of the random numbers passed to the drawing")


class SimulationSource(WithCode):
    """Code that advances a state."""

    kind: Literal["simulation"]
    traits: ClassVar[SourceTraits] = SourceTraits(
        "code that advances a state",
        "Python with @simulation",
        "either",
        dials=True,
        own_text=True,
        runs_once=True,
        remembers=True,
    )
    pace: float = Field(default=1, gt=0, le=1e9, description="simulated seconds per second of video")
    warm_up: int = Field(default=0, ge=0, le=10**8, description="steps before frame 0")
    seed: int = Field(default=0, ge=0, lt=2**32, description="of the random numbers passed to it")

    def brief(self) -> list[BriefPart]:
        """See `SourceSpec.brief`."""
        return [BriefPart("running"), BriefPart(f"{self.pace:.6g} s per second", "source", "Pace")]

    def options(self) -> dict[str, Any]:
        """Pace and warm-up only choose steps, so another choice finds its states again."""
        return {"seed": self.seed} | ({"reads": self.reads} if self.reads else {})


class SeriesSource(WithCode):
    """Data, one slice a frame: arrays, tables, or a set of VTK files."""

    kind: Literal["series"]
    traits: ClassVar[SourceTraits] = SourceTraits(
        "data, one slice per frame", "CSV, Parquet, .npy, VTK sets", "either", dials=True, runs_once=True
    )
    rate: str | None = Field(default=None, description="slices per second; null shows one slice per frame")
    between: Literal["nearest", "linear"] = Field(
        default="nearest", description="what is between two slices: the previous one, or both mixed"
    )
    by: str = Field(
        default="", title="Column", description="column of a table whose values make the slices; empty is row by row"
    )
    array: str = Field(
        default="", title="Array of the file", description="name of the array in a .npz that holds several"
    )
    draw: str = Field(
        default="", title="Drawn by", description="Python file beside the data whose sketch or model takes slice"
    )

    @field_validator("rate")
    @classmethod
    def _is_rate(cls, text: str | None) -> str | None:
        if text is not None:
            Rate.parse(text, MAX_SOURCE_RATE)
        return text


class ObjectSource(SourceSpec):
    """A mesh file: OBJ, STL, PLY, glTF, GLB or VTP."""

    kind: Literal["object"]
    traits: ClassVar[SourceTraits] = SourceTraits(
        "a mesh file",
        "OBJ, STL, PLY, glTF, VTP",
        "geometry",
    )
    up: Literal["auto", "y", "z"] = Field(
        default="auto", description="the file's axis that points up; auto is y for glTF, else z"
    )
    animation: str = Field(default="", description="name of the animation in a glTF file; empty is the first one")
    low_pass: float = Field(
        default=0.3, ge=0, le=100, description="of a scan's soft points: square pixels that are added to their variance"
    )


class PageSource(WithDials):
    """HTML or SVG with its scripts and assets, shown in a browser; or a ZIP archive of them."""

    kind: Literal["page"]
    traits: ClassVar[SourceTraits] = SourceTraits(
        "a page in a browser",
        "HTML, SVG, or a ZIP of a page",
        "picture",
        dials=True,
        blurs=False,
        own_text=True,
        remembers=True,
    )
    seed: int = Field(default=0, ge=0, lt=2**31, description="of Math.random")


class WithFixedFrames(SourceSpec):
    """A source whose pictures exist already, each at its time."""

    between: Literal["nearest", "blend", "refuse"] = Field(
        default="nearest",
        description="where frame times differ from the source's: the picture that is current then, "
        "both neighbours blended, or none at all",
    )

    def options(self) -> dict[str, Any]:
        """A source that refuses shows the same pictures as one that does not."""
        options = super().options()
        return options | {"between": "blend" if self.between == "blend" else "nearest"}


class StillsSource(WithFixedFrames):
    """A numbered image sequence; the file is any one of its pictures."""

    kind: Literal["stills"]
    traits: ClassVar[SourceTraits] = SourceTraits(
        "numbered pictures",
        "numbered PNG, JPEG, TIFF, WebP, EXR or HDR",
        "picture",
        blurs=False,
        runs_once=True,
        needs_rate=True,
    )
    rate: str = Field(description="pictures per second, which a sequence does not say")
    reverse: bool = Field(default=False, description="from the last number to the first")
    gaps: Literal["refuse", "hold", "blend", "skip"] = Field(
        default="refuse",
        description="what a missing number shows: the previous one, its neighbours blended, or nothing: it is left out",
    )
    other_sizes: Fit | Literal["skip"] = Field(
        default="contain",
        description="pictures of another size than most: shown whole, filling the frame, unscaled, or left out",
    )
    layer: str = Field(default="", max_length=255, description="of layered EXR files; empty for the main one")

    def options(self) -> dict[str, Any]:
        """The usual treatment of other sizes is left out, so that frames made before there was a choice stay known."""
        options = super().options()
        if self.other_sizes == "contain":
            options.pop("other_sizes")
        return options

    def brief(self) -> list[BriefPart]:
        """See `SourceSpec.brief`."""
        return [BriefPart("backwards", "source", "Order")] if self.reverse else []

    @field_validator("rate")
    @classmethod
    def _is_rate(cls, text: str) -> str:
        Rate.parse(text)
        return text


class PhotoSource(WithDials):
    """One picture, of which each frame shows a part, by the dials x, y and zoom."""

    kind: Literal["photo"]
    traits: ClassVar[SourceTraits] = SourceTraits(
        "one picture, panned and zoomed", "one photograph", "picture", dials=True, runs_once=True
    )
    layer: str = Field(default="", max_length=255, description="of a layered EXR file; empty for the main one")


class ClipSource(WithFixedFrames):
    """A video file."""

    kind: Literal["clip"]
    traits: ClassVar[SourceTraits] = SourceTraits(
        "a video file", "MP4, MOV, WebM and others", "picture", blurs=False, runs_once=True
    )
    fields: Literal["as-is", "deinterlace"] = Field(
        default="as-is", description="of interlaced video: both fields woven together, or deinterlaced"
    )
    colours: Literal["as-is", "srgb"] = Field(
        default="as-is", description="of HDR and BT.2020 video: shown as if they were sRGB, or converted to it"
    )


AnySource = Annotated[
    ModelSource
    | SketchSource
    | SimulationSource
    | SeriesSource
    | ObjectSource
    | PageSource
    | StillsSource
    | PhotoSource
    | ClipSource,
    Field(discriminator="kind"),
]
