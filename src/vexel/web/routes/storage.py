"""Blueprint: what the project takes on disk, the removal of what nothing uses, and the project's settings."""

import shlex
from datetime import UTC, datetime
from pathlib import Path

from flask import Blueprint

from vexel.core.errors import Mistake
from vexel.store.settings import NAME, Settings, project_room, read_settings, write_settings
from vexel.store.storage.unused import GROUPS, Unused, UnusedGroup, remove_unused, unused
from vexel.store.storage.usage import groups_of, takes_of
from vexel.store.takes import shot_of
from vexel.web.schemas.storage import (
    Cleaned,
    CleanOrder,
    GroupBody,
    SettingsBody,
    SettingsEdit,
    StorageBody,
    TakeUseBody,
    UnusedBody,
    UnusedGroupBody,
    UnusedQuery,
)
from vexel.web.services import services
from vexel.web.spec import answers, spec

blueprint = Blueprint("storage", __name__, url_prefix="/api")
DAY = 86_400.0
LISTED = 100
"""Things of a kind that are listed one by one."""


@blueprint.get("/settings")
@spec.validate(resp=answers(SettingsBody))
def get_settings() -> SettingsBody:
    """Settings of the project."""
    return _settings()


def _settings() -> SettingsBody:
    try:
        settings = read_settings(services().project.home)
    except Mistake as error:
        return SettingsBody(on_end="", trouble=str(error))
    file = services().project.home / NAME
    allowed = not settings.on_end or services().gate.allows((file,), settings.digest)
    return SettingsBody(on_end=shlex.join(settings.on_end), allowed=allowed, keep_free_mb=settings.keep_free_mb)


@blueprint.put("/settings")
@spec.validate(resp=answers(SettingsBody))
def put_settings(json: SettingsEdit) -> SettingsBody:
    """Change settings; a command that the user wrote here may run."""
    home = services().project.home
    if json.on_end is None:
        settings = read_settings(home)
    else:
        try:
            settings = _settings_or_usual(home).model_copy(update={"on_end": shlex.split(json.on_end)})
        except ValueError as error:
            raise Mistake(f"{json.on_end!r} is not a command ({error}): close its quotes") from None
    if json.keep_free_mb is not None:
        settings = settings.model_copy(update={"keep_free_mb": json.keep_free_mb})
    write_settings(home, settings)
    # Only a command that was sent: one that came with the project waits for consent.
    if json.on_end:
        services().gate.trust([settings.digest])
    return _settings()


def _settings_or_usual(home: Path) -> Settings:
    try:
        return read_settings(home)
    except Mistake:
        return Settings()


@blueprint.get("/storage")
@spec.validate(resp=answers(StorageBody))
def get_storage(query: UnusedQuery) -> StorageBody:
    """The size of the project, by groups and by takes, and the parts that may be removed."""
    return _storage(query)


def _storage(query: UnusedQuery) -> StorageBody:
    project = services().project
    groups, room = groups_of(project, services().folder_sizes), project_room(project.home)
    found = unused(project, [group.name for group in GROUPS], query.older_days * DAY, query.larger)
    takes = takes_of(project)
    rows = project.ledger.some([one.run for one in takes])
    files = project.outputs.by_run(list(rows))
    return StorageBody(
        home=str(project.home),
        bytes=sum(group.size.bytes for group in groups),
        free=room.free,
        keep=room.keep,
        groups=[
            GroupBody(name=one.name, label=one.label, about=one.about, bytes=one.size.bytes, files=one.size.files)
            for one in groups
        ],
        takes=[
            TakeUseBody(
                run=one.run,
                shot_id=rows[one.run].shot_id,
                title=shot_of(rows[one.run]).title,
                created=rows[one.run].created,
                state=rows[one.run].state,
                bytes=one.bytes,
                own_bytes=one.own_bytes,
                reels=list(one.reels),
                files=len(files.get(one.run, [])),
            )
            for one in takes
            if one.run in rows
        ],
        unused=[_group(group, [one for one in found if one.kind == group.name]) for group in GROUPS],
    )


@blueprint.post("/storage/clean")
@spec.validate(resp=answers(Cleaned))
def clean(json: CleanOrder) -> Cleaned:
    """Remove what nothing uses, of some kinds; never while frames are captured."""
    project = services().project
    with services().jobs.quiet("frames"):
        found = unused(project, json.kinds, json.older_days * DAY, json.larger)
        count, size = remove_unused(project, found)
    return Cleaned(count=count, bytes=size, storage=_storage(UnusedQuery()))


def _group(group: UnusedGroup, found: list[Unused]) -> UnusedGroupBody:
    home = services().project.home
    return UnusedGroupBody(
        name=group.name,
        label=group.label,
        about=group.about,
        made_again=group.made_again,
        bytes=sum(one.bytes for one in found),
        count=len(found),
        largest=[
            UnusedBody(
                kind=one.kind,
                name=str(one.place.relative_to(home)),
                bytes=one.bytes,
                changed=datetime.fromtimestamp(one.changed, UTC).isoformat(timespec="seconds"),
            )
            for one in found[:LISTED]
        ],
    )
