"""Commands that capture frames, and compile the file from them."""

import signal
import time
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import click

from vexel.cli.options import (
    draft_option,
    json_option,
    keep_free_option,
    overwrite_option,
    run_options,
    trust_option,
    workers_options,
)
from vexel.cli.terminal import ProgressLine, end_line, print_findings, print_json, print_receipt
from vexel.core.errors import Failure, Mistake

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from vexel.core.document.shot import Shot
    from vexel.core.finding import Finding
    from vexel.disk.finished import Finished
    from vexel.store.folder_take import FolderTake
    from vexel.workers.to_folder import FolderWorkers


from vexel.cli.main import findings_of, main, refuse_folder, sentences, shot_at
from vexel.core.wording import counted


@dataclass(frozen=True)
class Special:
    """How a capture differs from the usual: limits, and why its frames are captured again."""

    frame_seconds: float | None = None
    tries: int = 1
    reason: str = ""
    keep_free_mb: float | None = None


def megabytes_of(size: str) -> float | None:
    """Megabytes of a size such as 5GB; None of an empty text.

    Raises
    ------
    Mistake
        When it is no size.
    """
    from vexel.core.recipes.byte_size import read_bytes

    return None if not size else 0.0 if size == "0" else read_bytes(size) / 1e6


class CaptureStopped(Failure):
    """The user stopped it."""


def load_ahead() -> None:
    """Let the fork server load what draws frames while this process reads the shot."""
    from vexel.workers.fork_server import start_fork_server

    start_fork_server()


@main.command(epilog="Example: vexel capture shot.json --to take")
@click.argument("document", metavar="SHOT.json", type=click.Path(path_type=Path))
@click.option(
    "--to",
    "folder",
    metavar="DIR",
    required=True,
    type=click.Path(path_type=Path),
    help="Folder of the take; it may have the fields {date}, {title} and {version}, which counts up.",
)
@click.option(
    "--frames", "choice", default="", help="0-23,40; every 5th, 0-95/5; 20 evenly spread, 0-95x20. All by default."
)
@draft_option
@workers_options
@run_options
@click.option("--resume", is_flag=True, help="Continue the take in the folder.")
@click.option(
    "--again", metavar="FRAMES", default="", help="Capture these frames of the take again, such as 12,40-62x2."
)
@click.option("--reason", default="", help="Why, for --again; kept with the frames.")
@click.option("--fresh", is_flag=True, help="Replace the take that the folder holds.")
@trust_option
@sentences
def capture(
    document: Path,
    folder: Path,
    choice: str,
    draft: bool,
    rough: bool,
    workers: int | None,
    scheduler: str,
    frame_seconds: float | None,
    tries: int,
    keep_free: str,
    resume: bool,
    again: str,
    reason: str,
    fresh: bool,
    trust: bool,
) -> None:
    """Capture a shot's frames into a folder."""
    resume = resume or bool(again)
    if not resume:
        load_ahead()
    from vexel.core.document.naming import chosen_frames

    if resume and fresh:
        raise Mistake("--resume continues a take and --fresh replaces it: give one of them")
    shot = shot_at(document)
    folder = folder_at(folder, shot, resume or fresh)
    if shot.sweep is not None and not shot.is_swept:
        click.echo(
            f"  note: {document.name} has variants, and this captures the shot itself: see vexel sweep", err=True
        )
    shot = shot.draft() if draft or rough else shot
    count, camera_passes = shot.clock.exact.frames, len(shot.camera_passes)
    chosen = chosen_frames(choice, count) if choice else range(count)
    if bool(again) != bool(reason):
        raise Mistake("--again needs --reason, such as --reason 'stale light', and --reason needs --again")
    if again and choice:
        raise Mistake("--again names the frames: leave --frames out")
    chosen = chosen_frames(again, count) if again else chosen
    numbers = [frame * camera_passes + camera_pass for frame in chosen for camera_pass in range(camera_passes)]
    captured(
        shot,
        document,
        folder,
        numbers,
        workers,
        scheduler,
        resume=resume,
        fresh=fresh,
        trust=trust,
        special=Special(frame_seconds, tries, reason, megabytes_of(keep_free)),
    )


@main.command("make", epilog="Example: vexel make shot.json -o shell.mp4")
@click.argument("document", metavar="SHOT.json", type=click.Path(path_type=Path))
@click.option(
    "-o",
    "--output",
    "file",
    metavar="FILE",
    required=True,
    type=click.Path(path_type=Path),
    help="Output file; its extension selects the kind.",
)
@click.option(
    "--recipe", "name", metavar="NAME", default="", help="See vexel recipes; by default the shot's, or by extension."
)
@click.option(
    "--frames-to",
    "folder",
    metavar="DIR",
    type=click.Path(path_type=Path),
    help="Folder of the take (default: next to the file, with its name).",
)
@draft_option
@workers_options
@keep_free_option
@overwrite_option
@json_option
@trust_option
@sentences
def make_(
    document: Path,
    file: Path,
    name: str,
    folder: Path | None,
    draft: bool,
    rough: bool,
    workers: int | None,
    scheduler: str,
    keep_free: str,
    overwrite: bool,
    as_json: bool,
    trust: bool,
) -> None:
    """Capture a shot and compile its file.

    Existing frames are reused: after a stop, run the same command to continue.
    """
    draft = draft or rough
    folder = folder or _take_beside(file, draft)
    begun = (folder / "take.json").exists()
    if not begun:
        load_ahead()
    from vexel.core.recipes.shipped import RECIPES, recipe_for
    from vexel.disk.claim import claimed
    from vexel.output.compiling.compile import compile_footage
    from vexel.output.footage.footage import footage_of

    shot = shot_at(document)
    own = RECIPES[shot.recipe]
    recipe = (
        own
        if not name and own.suffix == file.suffix.lower()
        else recipe_for(file, name, shot.picture.behind.kind == "transparent")
    )
    refuse_folder(recipe)
    shot = shot.draft() if draft else shot
    pictures = range(shot.pictures)
    passes = shot.camera_passes
    files = [file.with_name(f"{file.stem}.{'.'.join(one)}{file.suffix}") for one in passes] if passes[1:] else [file]
    receipts = []
    with claimed(files, replace=overwrite):
        special = Special(keep_free_mb=megabytes_of(keep_free))
        captured(
            shot, document, folder, pictures, workers, scheduler,
            resume=begun, err=True, trust=trust, special=special,
        )  # fmt: skip
        for camera_pass, one in zip(passes, files, strict=True):
            footage = footage_of(folder, "", camera_pass.camera, camera_pass.render_pass)
            receipts.append(compile_footage(footage, one, recipe, ProgressLine("steps").steps, replace=overwrite))
            if not as_json:
                print_receipt(receipts[-1])
    if as_json:
        print_json({"frames": str(folder), "files": [receipt.document() for receipt in receipts]})
    wrong = [receipt.file for receipt in receipts if not receipt.holds]
    if wrong:
        raise Failure(f"{wrong[0]} is not what was planned: see the receipt")


def folder_at(folder: Path, shot: "Shot", newest: bool) -> Path:
    """The folder of a take, of which fields are filled in; its version is a new one, or the newest that there is.

    Raises
    ------
    Mistake
        When a field is not known.
    """
    from itertools import islice, takewhile

    from vexel.core.recipes.file_names import file_names

    first = next((n for n, part in enumerate(folder.parts) if "{" in part or "}" in part), None)
    if first is None:
        return folder
    base, pattern = Path(*folder.parts[:first]), "/".join(folder.parts[first:])
    names = file_names(pattern, {"title": shot.title}, "")
    there = list(takewhile(lambda name: (base / name).exists(), names))
    if newest and there:
        return base / there[-1]
    return base / next(islice(file_names(pattern, {"title": shot.title}, ""), len(there), None))


def _take_beside(file: Path, draft: bool) -> Path:
    """The folder of the frames of a file; a draft that an earlier version began is continued."""
    older = file.with_name(f"{file.stem}.rough")
    if draft and older.is_dir():
        return older
    return file.with_name(f"{file.stem}.{'draft' if draft else 'take'}")


def captured(
    shot: "Shot",
    document: Path,
    folder: Path,
    numbers: "Sequence[int]",
    workers: int | None,
    scheduler: str,
    *,
    resume: bool = False,
    fresh: bool = False,
    err: bool = False,
    trust: bool = False,
    through: "Sequence[Path]" = (),
    by_key: "dict[str, tuple[Path, Finished]] | None" = None,
    special: "Special | None" = None,
    by: "FolderWorkers | None" = None,
) -> None:
    """Capture pictures of a shot into a folder, and print the result.

    Parameters
    ----------
    by_key : dict, optional
        See `FolderTake`.
    special : Special, optional
    by : FolderWorkers, optional
        Workers that are kept, in place of new ones.
    through : sequence of Path
        Documents that led to the shot's: a reel, and reels within it.

    Raises
    ------
    Failure
        When frames failed, or it was stopped.
    """
    from vexel.core.errors import Stopped
    from vexel.disk.claim import held
    from vexel.disk.scratch import sweep_parts, sweep_scratch
    from vexel.store.folder_take import DAMAGED, LEDGER, OUTDATED, FolderTake
    from vexel.workers.code_gate import gate_of
    from vexel.workers.run import RunOptions
    from vexel.workers.to_folder import FolderWorkers, capture_to_folder, workers_for

    take, camera_passes = FolderTake(folder.absolute(), shot, by_key), len(shot.camera_passes)
    begun, special = time.monotonic(), special or Special()
    take.reasons = dict.fromkeys(numbers, special.reason) if special.reason else {}
    options = RunOptions(frozenset(numbers) if special.reason else (), special.tries)
    stopped = "Stopped. Run the same command to continue." if err else "Stopped. Add --resume to continue."
    try:
        with held(take.folder / LEDGER), ExitStack() as ends:
            take.enter(resume=resume, fresh=fresh)
            sweep_scratch()
            sweep_parts(take.folder)
            if by is None:
                count = workers or workers_for(shot, numbers)
                own = FolderWorkers(document.absolute().parent, take.folder, count, scheduler, special.frame_seconds)
                by = ends.enter_context(own)
            for number in (signal.SIGINT, signal.SIGTERM):
                signal.signal(number, lambda *_, stop=by.stop: stop.ask())
            outcome = capture_to_folder(
                shot,
                take,
                numbers,
                by=by,
                looked=lambda found: print_findings(
                    [*findings_of(shot, document), *found, *_room(shot, take, special)], err=True
                ),
                run_options=options,
                keep_free_mb=special.keep_free_mb,
                gate=gate_of([document, *through], trust),
                on_progress=ProgressLine("frames" if camera_passes == 1 else "pictures"),
            )
    except Stopped:
        raise CaptureStopped(stopped) from None
    end_line()
    click.echo(
        f"{folder}: {outcome.made:,} made, {outcome.kept:,} reused, {outcome.failed:,} failed, "
        f"{outcome.waiting:,} waiting, in {time.monotonic() - begun:.1f} s",
        err=err,
    )
    if outcome.damaged:
        click.echo(
            f"{counted(outcome.damaged, 'frame')} had been damaged since, and moved to {take.folder / DAMAGED}",
            err=True,
        )
    if take.outdated:
        moved = counted(len(take.outdated), "frame of an earlier version", "frames of an earlier version")
        click.echo(f"{moved} of the shot moved to {take.folder / OUTDATED}", err=True)
    if outcome.failed:
        row = take.first_failure()
        which = f"frame {row.number}" if camera_passes == 1 else shot.file_name(row.number)
        raise Failure(f"{counted(outcome.failed, 'frame')} failed; {which}: {row.error}")
    if outcome.halt:
        raise Failure(outcome.halt)
    if outcome.waiting:
        raise CaptureStopped(stopped)


def _room(shot: "Shot", take: "FolderTake", special: Special) -> "Iterator[Finding]":
    """A finding where the disk has no room for what the take's probe foretold, of the frames that are not there yet."""
    from vexel.core.forecast.estimate import room_findings
    from vexel.core.forecast.kept import foretold_of
    from vexel.disk.room import room_of

    said, missing = foretold_of(take.foretold), shot.pictures - len(take.known_keys)
    if said is not None and said.left and missing > 0:
        share = min(missing / (said.left * len(shot.camera_passes)), 1.0)
        room = room_of(take.folder, special.keep_free_mb)
        yield from room_findings(shot, round(said.bytes.high * share), room.free, room.keep)
