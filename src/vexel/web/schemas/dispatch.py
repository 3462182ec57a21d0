"""Schemas of what leaves a project: recipes, orders, trials and lines."""

from typing import Any

from pydantic import BaseModel, Field

from vexel.core.recipes.recipe import Recipe
from vexel.web.schemas.runs import OutputBody


class ScaleBody(BaseModel):
    """How a kind of file counts quality."""

    best: float
    worst: float
    usual: float
    whole: bool


class FullRecipeBody(BaseModel):
    """A recipe with all that the interface asks of it."""

    name: str
    about: str
    loses: str
    makes: str
    suffix: str
    folder: bool
    group: str
    usual: bool = Field(description="whether most files are made by it")
    own: bool = Field(description="a custom one, which can be changed and deleted")
    scale: ScaleBody | None = Field(description="null where nothing is lost")
    video: bool
    alpha: str
    plays: bool
    pictures: bool = Field(description="whether it shows pictures, which can be tried")
    pixels: list[str]
    document: Recipe


class FullRecipeBodies(BaseModel):
    """All recipes, and what is wrong with files that are none."""

    recipes: list[FullRecipeBody]
    troubles: list[str]


class DispatchOrder(BaseModel):
    """The files to make from a take."""

    recipes: list[dict[str, Any]] = Field(min_length=1, max_length=64, description="documents of recipes")
    camera_passes: list[int] = Field(min_length=1, max_length=256)
    folder: str = Field(default="", max_length=1000, description="an absolute path; empty is the project's outputs")
    names: str = Field(default="", max_length=200, description="pattern of the names; empty for each recipe's own")


class FileNamesBody(BaseModel):
    """Where the files of an order would be, if it were given now."""

    folder: str
    names: list[str] = Field(description="camera pass by camera pass, recipe by recipe")


class OutputBodies(BaseModel):
    """Files, newest first."""

    outputs: list[OutputBody]


class TrialOrder(BaseModel):
    """A recipe to be tried on a stretch of a take."""

    recipe: dict[str, Any]
    camera_pass: int = Field(default=0, ge=0)
    frame: int = Field(default=0, ge=0)
    ticket: str = Field(default="", max_length=60, description="by which the trial can be called off")


class TrialCalledOff(BaseModel):
    """A trial that was ended."""

    ticket: str


class TrialBody(BaseModel):
    """What a stretch came to."""

    bytes: int
    pictures: int
    seconds: float
    width: int
    height: int
    tried: int
    psnr: float
    ssim: float
    retimed: str = Field(description="frames that another rate drops, doubles or blends; empty for none")
    fitted: str = Field(description="what a limit of its size does to a GIF; empty for none")
    renewable: bool = Field(description="whether the shot can be captured at that rate instead")
    notes: list[str]
    made: str = Field(description="the expected picture, a data address")
    found: str = Field(description="the picture as the file shows it")


class RateOrder(BaseModel):
    """The rate at which a shot is captured again."""

    rate: str = Field(max_length=40)


class ShotMadeBody(BaseModel):
    """A new shot."""

    id: str


class GifRowBody(BaseModel):
    """A way to make a GIF, and the bytes that it would have."""

    long_side: int
    colours: int
    rate: str = Field(description="empty for the take's own")
    dither: str
    pictures: int
    bytes: int


class GifTableBody(BaseModel):
    """Ways to make a GIF, the best looking first."""

    rows: list[GifRowBody]


class LineBody(BaseModel):
    """The encoder's command line that makes the same."""

    posix: str
    windows: str
    notes: list[str]
