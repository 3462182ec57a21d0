"""What is there of a run: its finished frames, as footage and under their names, and the files made of them."""

from collections.abc import Iterable
from contextlib import suppress
from dataclasses import replace
from pathlib import Path

from vexel.core.errors import Failure, Mistake
from vexel.core.wording import counted
from vexel.output.footage.footage import Footage, footage_of_frames
from vexel.store.frame_states import READY
from vexel.store.project import Project
from vexel.store.takes import shot_of
from vexel.web.jobs.output_names import names_of


def named_frames(project: Project, run_id: int, deep: bool = False) -> list[tuple[str, Path]]:
    """The finished frames of a run, all cameras and passes, under the names that their shot gives them.

    Raises
    ------
    Mistake
        When none is finished.
    Failure
        When some are no longer what was made; `deep` looks at every byte.
    """
    ledger = project.ledger
    shot = shot_of(ledger.run(run_id))
    rows, suffix = ledger.rows(run_id, READY), shot.picture.suffix
    if not rows:
        raise Mistake(f"run {run_id} has no finished frame yet: capture it first")
    keys = list(dict.fromkeys(row.key for row in rows))
    there = ledger.frames.there(keys, suffix, deep=deep)
    if gone := [key for key in keys if key not in there]:
        ledger.frames.set_aside(gone, suffix)
        raise Failure(
            f"{counted(len(gone), 'frame is', 'frames are')} damaged or missing in run {run_id}: "
            "resume it to make them again"
        )
    return [(shot.file_name(row.number), ledger.frames.path(row.key, suffix)) for row in rows]


def take_footage(project: Project, run_id: int, camera_pass: int) -> Footage:
    """The finished frames of one camera pass of a run; those that are missing are held."""
    shot = shot_of(project.ledger.run(run_id))
    numbers: dict[int, int] = {}
    keys = {}
    for row in project.ledger.rows(run_id, READY):
        index = shot.picture_index(row.number)
        if index.camera_pass == camera_pass:
            keys[index.frame], numbers[index.frame] = row.key, row.number
    frames, suffix = project.ledger.frames, shot.picture.suffix
    ready = {frame: frames.path(key, suffix) for frame, key in keys.items()}
    known = {frames.path(key, suffix): file for key, file in frames.known(sorted(set(keys.values()))).items()}
    footage = footage_of_frames(ready, shot.clock.exact, "this take", hold=True).of_shot(shot, camera_pass)
    of_key = {frames.path(key, suffix): key for key in keys.values()}
    return replace(
        footage,
        known=known,
        set_aside=lambda file: frames.set_aside([of_key[file]], suffix),
        names=names_of(shot, numbers, len(footage.files)),
    )


def own_files(project: Project, run_id: int) -> list[Path]:
    """Files that were made of a run inside the project. Folders outside it are not included."""
    places = [project.files / file.file for file in project.outputs.of(run_id)]
    return [file for place in places if project.files in place.parents for file in files_at(place)]


def files_at(place: Path) -> list[Path]:
    """A file, or the files of a folder."""
    return [file for file in (place.iterdir() if place.is_dir() else [place]) if file.is_file()]


def remove_files(project: Project, files: Iterable[Path]) -> None:
    """Delete files, and the folders that are empty then."""
    for place in files:
        place.unlink(missing_ok=True)
        if place.parent != project.files:
            with suppress(OSError):
                place.parent.rmdir()
