"""Schemas that several parts of the API share."""

from typing import Any, Literal

from pydantic import BaseModel, Field

MOST_NUMBER = 2**53
"""The largest whole number that JSON passes on exactly everywhere."""


class FixBody(BaseModel):
    """A fix of a finding."""

    label: str
    patch: dict[str, Any] = Field(description="a merge patch of the document; empty where it is done elsewhere")
    place: Literal["", "storage"] = Field(default="", description="the page where it is done")
    command: str = Field(default="", description="a command line that does it")


class FindingBody(BaseModel):
    """A finding of preflight."""

    name: str
    what: str
    cost: str
    fixes: list[FixBody]


class NamedValue(BaseModel):
    """A fact for people."""

    name: str
    value: str


class Based(BaseModel):
    """The revision that an edit was made from."""

    revision: int | None = Field(
        default=None, ge=0, le=MOST_NUMBER, description="a clash with a later edit is refused; left out: the newest"
    )


class Preview(BaseModel):
    """What is looked at before it is saved."""

    patch: dict[str, Any] = Field(default={}, description="a merge patch (RFC 7396) of the saved shot")


class Done(BaseModel):
    """An operation that has nothing to tell."""


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
    unseen: bool = Field(default=False, description="imported code that is not trusted yet")
