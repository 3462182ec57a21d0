"""What a project takes: by groups of files, and by takes."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from pathlib import Path

from sqlalchemy import func, select

from vexel.core.errors import VexelError
from vexel.store.frame_states import READY
from vexel.store.project import Project
from vexel.store.storage.folder_sizes import FolderSize, FolderSizes, linked_bytes
from vexel.store.tables import LedgerRow

STATES = "states"
RUN = "run:"
"""How reels name takes of the project."""


@dataclass(frozen=True)
class Group:
    """Files of one purpose.

    Attributes
    ----------
    name, label, about : str
    size : FolderSize
    """

    name: str
    label: str
    about: str
    size: FolderSize


@dataclass(frozen=True)
class TakeUse:
    """What one take takes.

    Attributes
    ----------
    run : int
    bytes : int
        Of all its frames.
    own_bytes : int
        Of those that no other take shows, which its removal would free.
    reels : tuple of str
        Titles of the reels that show it.
    """

    run: int
    bytes: int
    own_bytes: int
    reels: tuple[str, ...]


_FOLDERS = (
    ("frames", "Frames", "of all takes, proofs and probes", True),
    ("outputs", "Files", "made of takes and reels", False),
    ("sources", "Sources", "imported or written here", False),
    ("reviewed", "Reviewed files", "files that were dropped on Review", False),
    ("glances", "Previews", "small pictures of lists and contact sheets", True),
    ("received", "Received hand-overs", "unpacked", False),
)


def groups_of(project: Project, sizes: FolderSizes) -> list[Group]:
    """All that a project takes; the sum of the groups is its size on disk."""
    home, copies = project.home, project.copies
    found = [Group(name, label, about, sizes.of(home / name, steady=steady)) for name, label, about, steady in _FOLDERS]
    linked = linked_bytes(home / "outputs", home / "frames")
    found = [
        replace(one, size=FolderSize(one.size.bytes - linked, one.size.files)) if one.name == "outputs" else one
        for one in found
    ]
    states = sizes.of(copies / STATES, steady=True)
    made_from = sizes.of(copies, steady=True, without=(STATES,))
    found.append(Group("copies", "Copies of sources", "what takes were made from", made_from))
    found.append(Group("states", "Checkpoints", "of simulations", states))
    counted = {name for name, *_ in _FOLDERS} | {project.copies.name}
    rest, base = FolderSize(home.lstat().st_size), []
    for entry in sorted(home.iterdir()):
        if entry.name in counted:
            continue
        if entry.name.startswith("vexel.db"):
            base.append(entry)
        elif entry.is_dir() and not entry.is_symlink():
            rest += sizes.of(entry, steady=False)
        else:
            rest += _file(entry)
    database = sum((_file(one) for one in base), FolderSize())
    found.append(Group("database", "Database", "runs, ledgers and histories", database))
    found.append(Group("documents", "Documents", "shots, reels, recipes and all else", rest))
    return found


def _file(place: Path) -> FolderSize:
    try:
        return FolderSize(place.lstat().st_size, 1)
    except OSError:
        return FolderSize()


def takes_of(project: Project) -> list[TakeUse]:
    """What each take takes, the largest first."""
    with project.sessions() as session:
        ready = LedgerRow.state.in_(READY)
        per_run = select(LedgerRow.run_id, func.sum(LedgerRow.bytes)).where(ready).group_by(LedgerRow.run_id)
        whole: Mapping[int, int] = dict(session.execute(per_run).all())
        alone = (
            select(func.min(LedgerRow.run_id).label("run"), func.max(LedgerRow.bytes).label("bytes"))
            .where(ready)
            .group_by(LedgerRow.key)
            .having(func.count(LedgerRow.run_id.distinct()) == 1)
            .subquery()
        )
        per_own = select(alone.c.run, func.sum(alone.c.bytes)).group_by(alone.c.run)
        own: Mapping[int, int] = dict(session.execute(per_own).all())
    shown = takes_in_reels(project)
    found = [
        TakeUse(run, size or 0, own.get(run, 0), tuple(sorted(shown.get(run, set())))) for run, size in whole.items()
    ]
    return sorted(found, key=lambda one: (-one.bytes, one.run))


def takes_in_reels(project: Project) -> dict[int, set[str]]:
    """Titles of reels by the runs that they show; a reel that cannot be read shows none."""
    found: dict[int, set[str]] = {}
    for reel_id in project.reels.ids():
        try:
            reel = project.reels.get(reel_id).value
        except VexelError:
            continue
        for text in _texts(reel.model_dump(mode="json")):
            number = text.removeprefix(RUN)
            if text.startswith(RUN) and number.isascii() and number.isdecimal():
                found.setdefault(int(number), set()).add(reel.title)
    return found


def _texts(value: object) -> list[str]:
    if isinstance(value, str):
        return [value]
    inner = value.values() if isinstance(value, dict) else value if isinstance(value, list) else ()
    return [text for one in inner for text in _texts(one)]
