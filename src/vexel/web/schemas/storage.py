"""Schemas of what a project takes on disk."""

from pydantic import BaseModel, Field

from vexel.store.storage.unused import UnusedKind


class SettingsBody(BaseModel):
    """Settings of the project."""

    on_end: str = Field(max_length=4000, description="a command, as a shell would write it; empty for none")
    allowed: bool = Field(default=True, description="whether it may run")
    trouble: str = Field(default="", description="why the settings cannot be read")
    keep_free_mb: float | None = Field(default=None, description="that captures leave free; null as set up")


class SettingsEdit(BaseModel):
    """Settings of the project to change; those that are null stay."""

    on_end: str | None = Field(default=None, max_length=4000, description="as a shell would write it; empty for none")
    keep_free_mb: float | None = Field(
        default=None, ge=0, le=1e9, allow_inf_nan=False, description="that captures leave free"
    )


class GroupBody(BaseModel):
    """Files of one purpose."""

    name: str
    label: str
    about: str
    bytes: int
    files: int


class TakeUseBody(BaseModel):
    """What one take takes."""

    run: int
    shot_id: str
    title: str
    created: str
    state: str
    bytes: int
    own_bytes: int = Field(description="of frames that no other take shows: what its removal frees")
    reels: list[str] = Field(description="titles of the reels that show it")
    files: int = Field(description="that were made of it")


class UnusedBody(BaseModel):
    """A file or folder that may be removed."""

    kind: UnusedKind
    name: str = Field(description="its path in the project")
    bytes: int
    changed: str


class UnusedGroupBody(BaseModel):
    """Files and folders of a kind that may be removed."""

    name: UnusedKind
    label: str
    about: str
    made_again: bool
    bytes: int
    count: int
    largest: list[UnusedBody] = Field(description="the largest of them")


class StorageBody(BaseModel):
    """What a project takes on disk."""

    home: str
    bytes: int
    free: int = Field(description="on its disk")
    keep: int = Field(description="that captures leave free")
    groups: list[GroupBody]
    takes: list[TakeUseBody]
    unused: list[UnusedGroupBody]


class UnusedQuery(BaseModel):
    """Limits of what may be removed."""

    older_days: float = Field(default=0, ge=0, le=36_500)
    larger: int = Field(default=0, ge=0, description="bytes")


class CleanOrder(UnusedQuery):
    """What is removed."""

    kinds: list[UnusedKind] = Field(min_length=1)


class Cleaned(BaseModel):
    """What was removed, and how the project stands then."""

    count: int
    bytes: int
    storage: StorageBody
