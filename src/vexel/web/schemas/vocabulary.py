"""Schemas of the names and rules that the interface asks."""

from pydantic import BaseModel, Field

from vexel.core.document.camera_spec import RigKind
from vexel.core.document.passes import Pass
from vexel.core.document.source_spec import Gives
from vexel.web.forms.form import Row


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
    bring: str = Field(description="what the user imports for it")
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
    label: str = Field(description="{} is replaced by the name of a member of the family")
    low: float | None = Field(description="lowest value; null: see the source")
    high: float | None


class EasingBody(BaseModel):
    """An easing by its name."""

    name: str
    handles: list[float] | None = Field(description="x1, y1, x2, y2 of the curve; null where it is no cubic Bézier")


class CutFormatBody(BaseModel):
    """A format of a reel's cuts for other programs."""

    ending: str = Field(description="without its point")
    label: str
    about: str


class Vocabulary(BaseModel):
    """Names and rules of the core that the interface asks, rather than repeats."""

    sources: list[SourceKindBody]
    rigs: list[RigKindBody]
    passes: list[PassBody]
    recipes: list["RecipeBody"]
    easings: list[EasingBody]
    targets: list[TargetBody]
    cut_formats: list[CutFormatBody]
    file_manager: bool = Field(description="whether the machine of the server can show a file in its folder")
    forms: dict[str, list[Row]] = Field(description="rows of the sheets, by their names")


class RecipeBodies(BaseModel):
    """All recipes."""

    recipes: list[RecipeBody]
