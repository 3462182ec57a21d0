"""Schemas of the news that open pages get as it happens."""

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from vexel.core.progress import Progress


class JobChanged(BaseModel):
    """A job was ordered, made progress, or has ended; or its subject has changed in another way, or is gone."""

    kind: Literal["job"] = "job"
    job: Literal["run", "file", "check", "probe", "proof", "look", "import", "figures"]
    id: int | str
    run: int = Field(default=0, description="that it is, or works on")
    state: str = Field(default="", description="where that is what has changed")
    progress: Progress | None = Field(default=None, description="while it runs")


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
    """Imported code may run now."""

    kind: Literal["consent"] = "consent"


News = Annotated[JobChanged | ShotChanged | ReelChanged | ConsentGiven, Field(discriminator="kind")]


class NewsBody(BaseModel):
    """What has happened, for a page that asks."""

    mark: str = Field(description="to be given the next time")
    news: list[News]
    gap: bool = Field(description="some news was lost, so everything must be asked for again")
