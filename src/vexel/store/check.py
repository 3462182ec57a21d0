"""Whether all that was made is still what it was: frames against their digests, files against their receipts."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from vexel.core.errors import Mistake
from vexel.disk.finished import is_whole, set_aside
from vexel.store.folder_take import DAMAGED, LEDGER, finished_of, read_ledger
from vexel.store.frame_states import READY
from vexel.store.outputs import trouble_of
from vexel.store.project import Project
from vexel.store.takes import shot_of

AT_ONCE = 64
OnProgress = Callable[[int, int], None]
"""Called with frames looked at and frames in all; may raise to end it."""


@dataclass
class Checked:
    """What a check found.

    Attributes
    ----------
    frames : int
        That were looked at.
    damaged : list of Path
        Frames that were not what they had been, where they lie now.
    missing : int
        Frames that the ledger has and the disk has not.
    files : list of str
        What is wrong with compiled files, a sentence each.
    """

    frames: int = 0
    damaged: list[Path] = field(default_factory=list)
    missing: int = 0
    files: list[str] = field(default_factory=list)

    @property
    def whole(self) -> bool:
        """Whether nothing is wrong."""
        return not (self.damaged or self.missing or self.files)


def check_run(project: Project, run_id: int, deep: bool, on_progress: OnProgress = lambda done, count: None) -> Checked:
    """Hold a run's frames and files against what is known of them; what is damaged is set aside.

    Parameters
    ----------
    deep : bool
        Whether every byte is read, even where size and time say nothing against it.
    """
    ledger, found = project.ledger, Checked()
    suffix = shot_of(ledger.run(run_id)).picture.suffix
    keys = list(dict.fromkeys(row.key for row in ledger.rows(run_id, READY)))
    for begin in range(0, len(keys), AT_ONCE):
        some = keys[begin : begin + AT_ONCE]
        there = ledger.frames.there(some, suffix, deep=deep)
        gone = [key for key in some if key not in there]
        damaged = ledger.frames.set_aside(gone, suffix)
        found.damaged += damaged
        found.missing += len(gone) - len(damaged)
        found.frames += len(some)
        on_progress(found.frames, len(keys))
    for row in project.outputs.of(run_id):
        if row.state == "done" and (trouble := trouble_of(row, project.files / row.file, deep=deep)):
            found.files.append(f"{row.file}: {trouble}")
    return found


def check_project(project: Project, deep: bool, on_progress: OnProgress = lambda done, count: None) -> Checked:
    """Check all runs of a project; see `check_run`."""
    runs = [row.id for row in project.ledger.runs()]
    return _together([check_run(project, run_id, deep, on_progress) for run_id in runs])


def check_take(folder: Path, deep: bool, on_progress: OnProgress = lambda done, count: None) -> Checked:
    """Hold the frames of a take's folder against its ledger; what is damaged is set aside.

    Raises
    ------
    Mistake
        When the folder holds no take, or its ledger is damaged.
    """
    if not (folder / LEDGER).is_file():
        raise Mistake(f"{folder} is neither a project nor a take: name a folder with vexel.db or {LEDGER} in it")
    rows = [row for row in read_ledger(folder)["frames"] if row.get("state") in READY]
    found = Checked()
    for row in rows:
        path = folder / Path(str(row["file"])).name
        known = finished_of(row)
        if not path.exists():
            found.missing += 1
        elif known and not is_whole(path, known, deep=deep) and (place := set_aside(path, folder / DAMAGED)):
            found.damaged.append(place)
        found.frames += 1
        on_progress(found.frames, len(rows))
    return found


def _together(parts: Sequence[Checked]) -> Checked:
    return Checked(
        sum(part.frames for part in parts),
        [place for part in parts for place in part.damaged],
        sum(part.missing for part in parts),
        [file for part in parts for file in part.files],
    )
