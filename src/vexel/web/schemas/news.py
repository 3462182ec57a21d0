"""Schemas of the news that open pages get as it happens."""

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from vexel.core.checks.estimate import Progress


class RunProgress(BaseModel):
    """Frames of a run have been made."""

    kind: Literal["progress"] = "progress"
    run: int
    progress: Progress


class RunChanged(BaseModel):
    """The state, or the check, of a run is another one; or the run is gone."""

    kind: Literal["run"] = "run"
    id: int
    state: str = Field(default="", description="where that is what has changed")


class OutputChanged(BaseModel):
    """A compiled file was ordered, goes on, or is done."""

    kind: Literal["output"] = "output"
    id: int
    run: int


class ShotChanged(BaseModel):
    """A shot has a new revision, or is gone."""

    kind: Literal["shot"] = "shot"
    id: str
    revision: int


class ReelChanged(BaseModel):
    """A reel has a new revision, or is gone."""

    kind: Literal["reel"] = "reel"
    id: str
    revision: int


class ConsentGiven(BaseModel):
    """Code from elsewhere may run now."""

    kind: Literal["consent"] = "consent"


News = Annotated[
    RunProgress | RunChanged | OutputChanged | ShotChanged | ReelChanged | ConsentGiven, Field(discriminator="kind")
]


class NewsBody(BaseModel):
    """What has happened, for a page that asks."""

    mark: str = Field(description="to be given the next time")
    news: list[News]
    gap: bool = Field(description="some news was lost, so everything must be asked for again")
