"""Parts of a project that nothing refers to, or that can be made again: find, list and remove them."""

import os
import shutil
import time
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from sqlalchemy import select

from vexel.store.frames import DAMAGED
from vexel.store.project import Project
from vexel.store.storage.usage import STATES
from vexel.store.tables import LedgerRow, RunRow
from vexel.store.takes import shot_of

UnusedKind = Literal["loose-frames", "damaged", "copies", "states", "previews"]
YOUNG_SECONDS = 600.0
"""What has changed more recently may be in use by work that is not written down yet, and stays."""
OUTSIDE = "outside"
_SHOWN = select(LedgerRow.key).distinct()
"""Keys of rows in any state: they are read from the index alone."""


@dataclass(frozen=True)
class UnusedGroup:
    """A kind of thing that may be removed.

    Attributes
    ----------
    name, label, about : str
    made_again : bool
        Whether it is in use, and made again when it is needed.
    """

    name: UnusedKind
    label: str
    about: str
    made_again: bool = False


GROUPS = (
    UnusedGroup("loose-frames", "Frames of no take", "proofs, probes and leftovers"),
    UnusedGroup("damaged", "Damaged frames", "set aside when they were found"),
    UnusedGroup("copies", "Copies of sources", "from which no take was made"),
    UnusedGroup("states", "Checkpoints", "a simulation that continues from one begins at its start again", True),
    UnusedGroup("previews", "Previews", "drawn again when a list shows them", True),
)


@dataclass(frozen=True)
class Unused:
    """A file or folder that may be removed.

    Attributes
    ----------
    kind : str
    place : Path
    bytes : int
    changed : float
        Seconds since 1970.
    """

    kind: UnusedKind
    place: Path
    bytes: int
    changed: float


def unused(
    project: Project, kinds: Collection[UnusedKind], older_seconds: float = 0.0, larger: int = 0
) -> list[Unused]:
    """What may be removed, the largest first.

    Never a frame of a take, nor a copy that a take was made from: these are what reels, files and hand-overs need.

    Parameters
    ----------
    kinds : collection of str
        Names of `GROUPS`.
    older_seconds : float
        Only what has not changed for so long; at least `YOUNG_SECONDS` for all but damaged frames.
    larger : int
        The least size, in bytes.
    """
    now = time.time()
    found = [
        one
        for group in GROUPS
        if group.name in kinds
        for one in _FINDERS[group.name](project)
        if one.bytes >= larger
        and now - one.changed >= max(older_seconds, 0 if one.kind == "damaged" else YOUNG_SECONDS)
    ]
    return sorted(found, key=lambda one: (-one.bytes, str(one.place)))


def remove_unused(project: Project, found: Sequence[Unused]) -> tuple[int, int]:
    """Remove what `unused` found; how many things went, and their bytes. What cannot be removed stays."""
    frames = [one for one in found if one.kind == "loose-frames"]
    # The record first: a frame that is not on disk, but is known, would be looked for as damaged.
    project.ledger.frames.forget([one.place.stem for one in frames])
    gone = [one for one in found if _removed(one.place)]
    return len(gone), sum(one.bytes for one in gone)


def _removed(place: Path) -> bool:
    with suppress(OSError):
        if place.is_dir() and not place.is_symlink():
            shutil.rmtree(place)
        else:
            place.unlink()
        return True
    return False


def _loose_frames(project: Project) -> Iterator[Unused]:
    with project.sessions() as session:
        # As plain rows: of 100,000 keys, objects of the mapper would take a second.
        shown = {key for (key,) in session.connection().execute(_SHOWN)}
    for folder in _folders(project.home / "frames"):
        if folder.name == DAMAGED:
            continue
        for name in [entry.name for entry in os.scandir(folder)]:
            if name.partition(".")[0] in shown or name.startswith("."):
                continue
            place = folder / name
            with suppress(FileNotFoundError):
                info = place.lstat()
                yield Unused("loose-frames", place, info.st_size, info.st_mtime)


def _copies(project: Project) -> Iterator[Unused]:
    """Copies whose digest no take's plan names.

    The digest of code that draws data is in no plan: copies with a file of its name stay.
    """
    with project.sessions() as session:
        plans = list(session.scalars(select(RunRow.plan)))
        shots = [shot_of(row) for row in session.scalars(select(RunRow))]
    drawing = {Path(draw).name for shot in shots if (draw := getattr(shot.source, "draw", None))}
    places = [*_folders(project.copies), *_folders(project.copies / OUTSIDE)]
    for place in places:
        if place.name in (STATES, OUTSIDE) or place.name.startswith("."):
            continue
        if not any(place.name in plan for plan in plans) and not any((place / name).exists() for name in drawing):
            yield _measured("copies", place)


def _entries(kind: UnusedKind, folder: Path) -> Iterator[Unused]:
    with suppress(OSError):
        for entry in os.scandir(folder):
            yield _measured(kind, Path(entry.path))


def _measured(kind: UnusedKind, place: Path) -> Unused:
    sizes, times = [0], [0.0]
    for one in _all_of(place):
        with suppress(OSError):
            info = one.lstat()
            sizes.append(info.st_size)
            times.append(info.st_mtime)
    return Unused(kind, place, sum(sizes), max(times))


def _all_of(place: Path) -> Iterable[Path]:
    yield place
    if place.is_dir() and not place.is_symlink():
        for base, folders, files in os.walk(place):
            yield from (Path(base, name) for name in (*folders, *files))


def _folders(place: Path) -> list[Path]:
    try:
        return [Path(one.path) for one in os.scandir(place) if one.is_dir(follow_symlinks=False)]
    except OSError:
        return []


def _damaged(project: Project) -> Iterator[Unused]:
    return _entries("damaged", project.home / "frames" / DAMAGED)


def _states(project: Project) -> Iterator[Unused]:
    return _entries("states", project.copies / STATES)


def _previews(project: Project) -> Iterator[Unused]:
    return _entries("previews", project.glances)


_FINDERS: Mapping[UnusedKind, Callable[[Project], Iterator[Unused]]] = {
    "loose-frames": _loose_frames,
    "damaged": _damaged,
    "copies": _copies,
    "states": _states,
    "previews": _previews,
}
