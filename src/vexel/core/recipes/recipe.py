"""The recipe: one JSON document that describes how a kind of file is made from a take."""

import re
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator, model_validator

from vexel.core.document_text import document_text
from vexel.core.errors import Mistake
from vexel.core.recipes.byte_size import read_bytes
from vexel.core.recipes.file_names import USUAL_NAMES
from vexel.core.recipes.form import FORMS, Form, depth_of, sides_step
from vexel.core.time.rate import Rate
from vexel.core.validation_message import validation_message
from vexel.core.wording import nearest_name

Side = Annotated[int, Field(ge=16, le=65535)]
COLOUR = re.compile(r"#[0-9a-fA-F]{6}")

Group = Literal["share", "edit", "archive", "web", "pictures", "project"]

MOST_BYTES = 1_000_000


class RecipePart(BaseModel):
    """A part of the document: frozen, and without keys that nobody knows."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class Quality(RecipePart):
    """How good, or how large: at most one of the three.

    Attributes
    ----------
    level : float, optional
        On the codec's own scale: CRF, or quality from 0 to 100.
    kilobits : float, optional
        A second, on average.
    at_most : str, optional
        Bytes of the whole file, such as ``8 MB``.
    effort : {"quick", "usual", "thorough"}
        How long the encoder looks for a smaller file of the same quality.
    """

    level: float | None = Field(default=None, ge=0, le=100)
    kilobits: float | None = Field(default=None, ge=1, le=10_000_000)
    at_most: str = ""
    effort: Literal["quick", "usual", "thorough"] = "usual"

    @field_validator("at_most")
    @classmethod
    def _readable(cls, text: str) -> str:
        if text:
            read_bytes(text)
        return text

    @property
    def most_bytes(self) -> int | None:
        """Bytes that the file may have."""
        return read_bytes(self.at_most) if self.at_most else None


class Size(RecipePart):
    """Size of the file's pictures.

    Attributes
    ----------
    width, height : int, optional
        With one of them the other follows; with both, `fit` sets how another shape is fitted.
    long_side : int, optional
        In place of both.
    fit : {"contain", "cover", "none"}
        Whole picture with bars, filled with parts cut off, or the middle without scaling.
    filter : {"area", "lanczos", "bicubic", "nearest"}
    enlarge : bool
        Whether a smaller picture is made larger.
    odd : {"pad", "crop", "scale"}
        How a side that must be even becomes so.
    """

    width: Side | None = None
    height: Side | None = None
    long_side: Side | None = None
    fit: Literal["contain", "cover", "none"] = "contain"
    filter: Literal["area", "lanczos", "bicubic", "nearest"] = "area"
    enlarge: bool = Field(default=False, title="Enlarge smaller pictures")
    odd: Literal["pad", "crop", "scale"] = Field(default="crop", title="Odd sides")

    @model_validator(mode="after")
    def _one_way(self) -> "Size":
        if self.long_side and (self.width or self.height):
            raise Mistake("give long_side, or width and height, not both")
        return self


class Timing(RecipePart):
    """Which frames, at which rate, how often.

    Attributes
    ----------
    rate : str
        Frames per second of the file; empty keeps the take's.
    between : {"nearest", "blend", "refuse"}
        What is shown where the file's frames are not the take's.
    frames : str
        A stretch such as ``24-95``, or ``first``, ``middle`` or ``last``; empty for all.
    repeats : int, optional
        How often the frames follow each other in the file; None as the shot says, once where the file itself loops.
    plays : int
        Number of plays stored in the file; 0 for ever.
    missing : {"refuse", "hold"}
        Whether a missing frame is refused or repeats the previous one.
    """

    rate: str = ""
    between: Literal["nearest", "blend", "refuse"] = "nearest"
    frames: str = ""
    repeats: int | None = Field(default=None, ge=1, le=1000, title="Repeats in the file")
    plays: int = Field(default=0, ge=0, le=65535)
    missing: Literal["refuse", "hold"] = "refuse"

    @field_validator("rate")
    @classmethod
    def _known(cls, text: str) -> str:
        if text:
            Rate.parse(text)
        return text


class Colour(RecipePart):
    """How colours are coded and tagged; frames have the primaries of BT.709, which sRGB shares.

    Attributes
    ----------
    range : {"limited", "full"}
    matrix : {"bt709", "bt601", "bt2020"}
        From R, G and B to Y, Cb and Cr.
    primaries : {"bt709", "display-p3", "bt2020"}
        Into which colours are converted, in linear light; they look the same, on displays that know their tags.
    transfer : {"bt709", "srgb"}
        The tag alone: frames are coded for a display of sRGB, as players show either.
    """

    range: Literal["limited", "full"] = "limited"
    matrix: Literal["bt709", "bt601", "bt2020"] = "bt709"
    primaries: Literal["bt709", "display-p3", "bt2020"] = "bt709"
    transfer: Literal["bt709", "srgb"] = "bt709"


class Palette(RecipePart):
    """Colours of a GIF.

    Attributes
    ----------
    colours : int
    dither : {"none", "ordered", "diffuse"}
        Ordered patterns do not move; diffused errors look finer and compress less.
    of : {"take", "frame"}
        One palette for all frames, or one for each.
    """

    colours: int = Field(default=256, ge=2, le=256)
    dither: Literal["none", "ordered", "diffuse"] = "diffuse"
    of: Literal["take", "frame"] = Field(default="take", title="One palette for each")


class Sound(RecipePart):
    """A sound file below the picture, cut at its end.

    Attributes
    ----------
    file : str
    codec : str
        Empty for the usual one of the container.
    kilobits : int
    """

    file: str = ""
    codec: Literal["", "aac", "opus", "flac", "pcm"] = ""
    kilobits: int = Field(default=192, ge=16, le=640)


class PageLook(RecipePart):
    """How a page plays the take.

    Attributes
    ----------
    turns : bool
        Whether dragging leads through the frames; else it plays as a video.
    start : int
        Frame that is shown first.
    title : str
        Empty for the take's own.
    """

    turns: bool = False
    start: int = Field(default=0, ge=0)
    title: str = Field(default="", max_length=200)


class Recipe(RecipePart):
    """How a kind of file is made of a take; the document's fields.

    Attributes
    ----------
    name : str
        By which it is asked for.
    about, loses : str
        What it is good for, and what it cannot keep, in a line each.
    group : {"share", "edit", "archive", "web", "pictures", "project"}
        Where it is listed.
    container, codec : str
        See `FORMS`.
    pixels : str
        Pixel format by FFmpeg's name; empty for the usual one.
    preset : {"", "compatible"}
        Profile and level for old players and big screens.
    key_seconds : float
        Longest time from one key frame to the next; 0 leaves it to the encoder.
    alpha : {"keep", "drop"}
        When it is dropped, or cannot be kept, pictures are composited over `ground`.
    chapters : {"keep", "drop"}
        Whether a video says at which time each saved view is reached.
    origin : {"digest", "full", "nothing"}
        Whether files carry title, date and digests of what they were made of, the whole documents too, or nothing.
    made_files : bool
        Whether a hand-over holds the files that were made of the take.
    names : str
        Pattern of the file's name, without its suffix.
    """

    vexel: Literal[1] = 1
    name: str = Field(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")
    about: str = Field(default="", max_length=200)
    loses: str = Field(default="", max_length=200)
    group: Group = "share"
    container: str
    codec: str
    pixels: str = ""
    compatible: bool = Field(default=False, title="For old players and big screens")
    key_seconds: float = Field(
        default=0.0,
        ge=0,
        le=3600,
        title="Key frames at most",
        json_schema_extra={"unit": "s apart; 0 is up to the encoder"},
    )
    alpha: Literal["keep", "drop"] = "keep"
    ground: str = "#000000"
    chapters: Literal["keep", "drop"] = "keep"
    quality: Quality = Quality()
    size: Size = Size()
    timing: Timing = Timing()
    colour: Colour = Colour()
    palette: Palette = Palette()
    sound: Sound = Sound()
    page: PageLook = PageLook()
    sphere: bool = Field(default=False, description="for a panorama alone")
    origin: Literal["digest", "full", "nothing"] = Field(default="digest", title="Provenance")
    made_files: bool = Field(default=True, title="Include the files made of the take")
    names: str = Field(default=USUAL_NAMES, min_length=1, max_length=200)

    @field_validator("ground")
    @classmethod
    def _a_colour(cls, text: str) -> str:
        if not COLOUR.fullmatch(text):
            raise Mistake(f"{text!r} is not a colour such as #2b2f33")
        return text.lower()

    @model_validator(mode="after")
    def _fits_its_form(self) -> "Recipe":
        name = f"{self.container} {self.codec}"
        if name not in FORMS:
            containers = {form.container for form in FORMS.values()}
            if self.container not in containers:
                raise Mistake(f"unknown container {self.container!r}; {nearest_name(self.container, containers)}")
            codecs = [form.codec for form in FORMS.values() if form.container == self.container]
            raise Mistake(f"{self.container} does not hold {self.codec!r}; {nearest_name(self.codec, codecs)}")
        form = FORMS[name]
        known = (*form.pixels, *form.alpha_pixels)
        if self.pixels and self.pixels not in known:
            raise Mistake(f"{name} has no pixel format {self.pixels!r}; {nearest_name(self.pixels, known)}")
        self._check_quality(form)
        if self.sound.file and not form.sound:
            raise Mistake(f"{name} holds no sound")
        if self.sound.codec and self.sound.codec not in form.sound:
            raise Mistake(f"{name} holds sound as {' or '.join(form.sound) or 'nothing'}, not {self.sound.codec}")
        if self.colour != Colour() and form.kind != "video":
            raise Mistake(f"{name} has no colour to be set: its pictures are sRGB")
        if self.codec == "as-made":
            self._check_as_made(name)
        if self.colour.range == "full" and form.limited:
            raise Mistake(f"{name} cannot say that its codes go over the full range: set colour.range to limited")
        if self.compatible and (self.codec != "h264" or self.pixels not in ("", "yuv420p")):
            raise Mistake("compatible is for H.264 in 8-bit 4:2:0")
        return self

    def _check_as_made(self, name: str) -> None:
        """Refuse what would ask for other frames than those that were made."""
        for given, key in ((self.size != Size(), "size"), (self.alpha == "drop", "alpha: drop"),
                           ((self.timing.repeats or 1) > 1, "timing.repeats")):  # fmt: skip
            if given:
                raise Mistake(f"{name} exports frames unchanged, so it takes no {key}: use folder png for that")

    def _check_quality(self, form: Form) -> None:
        quality, scale = self.quality, form.quality
        given = [name for name in ("level", "kilobits", "at_most") if getattr(quality, name)]
        if quality.level == 0 and "level" not in given:
            given.append("level")
        if len(given) > 1:
            raise Mistake(f"quality takes one of level, kilobits and at_most, not {' and '.join(given)}")
        limited = form.codec == "gif" or form.exact
        if scale is None and given and not (given == ["at_most"] and limited):
            raise Mistake(f"{form.name} loses nothing, so it has no quality.{given[0]}")
        if scale and quality.level is not None:
            low, high = sorted((scale.best, scale.worst))
            if not low <= quality.level <= high:
                raise Mistake(f"quality.level of {form.name} goes from {scale.best:g} (best) to {scale.worst:g}")
        if quality.kilobits and form.kind != "video":
            raise Mistake(f"{form.name} is not made by kilobits a second: give level or at_most")
        if quality.kilobits and quality.kilobits > form.most_kilobits:
            raise Mistake(f"quality.kilobits of {form.name} is at most {form.most_kilobits:,}")

    @property
    def form(self) -> Form:
        """What its kind of file can hold."""
        return FORMS[f"{self.container} {self.codec}"]

    @property
    def suffix(self) -> str:
        """Ending of its file; empty for a folder of frames."""
        return "" if self.form.is_folder else self.form.suffix

    @property
    def makes(self) -> str:
        """What it makes, in a word."""
        return self.form.makes

    @property
    def is_folder(self) -> bool:
        """Whether it makes a folder of frames."""
        return self.form.is_folder

    @property
    def keeps_alpha(self) -> Literal["none", "cut", "whole"]:
        """What it keeps of transparency."""
        return "none" if self.alpha == "drop" else self.form.alpha

    @property
    def exact_rate(self) -> bool:
        """Whether it keeps any rate; else each frame lasts whole hundredths of a second."""
        return self.codec != "gif"

    @property
    def loops(self) -> bool:
        """Whether it plays again by itself, or holds each frame once, so that frames need no repeats."""
        return self.form.plays or self.codec == "as-made"

    def pixels_for(self, alpha: bool, *, deep: bool = False) -> str:
        """The pixel format of its file, of frames with or without transparency, `deep` of more than 8 bits."""
        form = self.form
        kept = form.alpha_pixels if alpha and self.alpha == "keep" and form.alpha != "none" else ()
        known = kept or form.pixels
        if self.pixels in known:
            return self.pixels
        if self.pixels:
            # Of the other list the one that is as fine.
            deep = depth_of(self.pixels) > 8
        elif not (deep and form.exact):
            return next(iter(known), "")
        return next((pixels for pixels in known if (depth_of(pixels) > 8) == deep), known[0])

    @property
    def even_sides(self) -> bool:
        """Whether a side of its pictures must be even."""
        return sides_step(self.form, self.pixels_for(alpha=False)) != (1, 1)


def read_recipe(text: str | bytes, source: str = "the recipe") -> Recipe:
    """Read and check a recipe document.

    Raises
    ------
    Mistake
        Naming the field, and the nearest known one for an unknown.
    """
    if len(text) > MOST_BYTES:
        raise Mistake(f"{source} has {len(text) / 1e6:,.1f} MB, far more than a recipe has")
    try:
        return Recipe.model_validate_json(document_text(text, source))
    except ValidationError as error:
        raise Mistake(f"{source}: {validation_message(error, Recipe)}") from None
