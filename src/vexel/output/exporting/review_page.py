"""A review page: one self-contained HTML file with a film and notes, in which a colleague writes further notes."""

import base64
import html
import json
import re
from collections.abc import Sequence
from importlib.resources import files
from string import Template
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from vexel.core.errors import Mistake
from vexel.core.validation_message import validation_message

MOST_BYTES = 64 << 20
"""Of a page that is read back: its film is part of it."""
_DATA = re.compile(r'<script id="review" type="application/json">(.*?)</script>', re.DOTALL)
Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
Frame = Annotated[int, Field(ge=0, le=10_000_000)]


class PageMark(BaseModel):
    """A place in the picture; see `vexel.web.schemas.reviews.MarkBody`."""

    model_config = ConfigDict(frozen=True)

    shape: Literal["dot", "box", "arrow"]
    x: Share
    y: Share
    to_x: Share = 0.0
    to_y: Share = 0.0


class PageNote(BaseModel):
    """A note on a review page; `changed` is when it was closed, opened or written there."""

    model_config = ConfigDict(frozen=True)

    uid: str = Field(pattern="^[0-9a-f]{24}$")
    camera_pass: int = Field(default=0, ge=0, le=10_000)
    first: Frame
    last: Frame
    mark: PageMark | None = None
    text: str = Field(min_length=1, max_length=4000)
    author: str = Field(default="", max_length=80)
    created: str = Field(default="", max_length=32)
    is_open: bool = True
    changed: str = Field(default="", max_length=32)


class ReviewPage(BaseModel):
    """What a review page holds beside its film.

    Attributes
    ----------
    title, file : str
    content : str
        Digest of the frames that it is about.
    camera_pass, count, first : int
    fps : float
    curve : list of float
        Brightness of the frames; empty where it was not measured.
    findings : list of str
    notes : list of PageNote
    """

    model_config = ConfigDict(frozen=True)

    vexel: Literal[1] = 1
    title: str = Field(default="", max_length=1000)
    file: str = Field(default="review.html", max_length=300)
    content: str = Field(max_length=64)
    camera_pass: int = Field(default=0, ge=0, le=10_000)
    count: Frame
    first: Frame = 0
    fps: float = Field(gt=0, le=10_000, allow_inf_nan=False)
    curve: list[float] = []
    findings: list[str] = []
    notes: list[PageNote] = Field(default=[], max_length=20_000)


def page_of(page: ReviewPage, film: bytes, kind: str) -> bytes:
    """The page as a file; `kind` is the media type of its film."""
    folder = files("vexel.output.page")
    values = {
        "title": html.escape(page.title),
        "about": html.escape(f"{page.count:,} frames at {page.fps:g} fps. The film is compressed to look at."),
        "film": f"data:{kind};base64,{base64.b64encode(film).decode()}",
        # No text in it can end the element that holds it.
        "review": page.model_dump_json().replace("<", "\\u003c"),
        "script": (folder / "reviews.js").read_text("utf-8"),
    }
    return Template((folder / "review.html").read_text("utf-8")).substitute(values).encode()


def read_page(data: bytes, name: str) -> ReviewPage:
    """What came back with a review page.

    Raises
    ------
    Mistake
        When it is no review page, or was changed by hand into something that is none.
    """
    found = _DATA.search(data.decode("utf-8", "replace"))
    if found is None:
        raise Mistake(f"{name} is not a review page: choose the page that was saved with its notes")
    try:
        value: Any = json.loads(found[1])
        return ReviewPage.model_validate(value)
    except ValidationError as error:
        raise Mistake(f"{name} was changed and cannot be read: {validation_message(error, ReviewPage)}") from None
    except (ValueError, RecursionError):
        raise Mistake(f"{name} was changed and cannot be read: its notes are no JSON") from None


def said_findings(sentences: Sequence[tuple[str, str]]) -> list[str]:
    """Findings as sentences, of what they say and what it costs."""
    return [f"{what}. {cost}" for what, cost in sentences]
