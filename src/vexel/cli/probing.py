"""The probe of a shot by command: a few of its frames, and what they foretell."""

import signal
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

import click

from vexel.cli.terminal import ProgressLine, end_line, span
from vexel.core.errors import Failure

if TYPE_CHECKING:
    from vexel.core.document.shot import Shot
    from vexel.core.forecast.foretold import FileProbe, Foretold, Range
    from vexel.workers.probing import Probed


@dataclass(frozen=True)
class ProbeOptions:
    """Options of a probe."""

    folder: Path
    workers: int | None
    trust: bool


def probed(shot: "Shot", document: Path, options: ProbeOptions) -> "Foretold":
    """Make the frames of a probe in the folder of a take, where they stay, and foretell the capture.

    Raises
    ------
    Failure
        When it is stopped, or a frame failed.
    """
    from vexel.core.errors import Stopped
    from vexel.core.forecast.foretold import foretold
    from vexel.core.forecast.kept import foretold_document
    from vexel.core.forecast.left import left_frames, picture_keys
    from vexel.disk.claim import held
    from vexel.store.folder_take import LEDGER, FolderTake
    from vexel.workers.bounds.limits import workers_here
    from vexel.workers.code_gate import gate_of
    from vexel.workers.to_folder import FolderWorkers, probe_to_folder

    take, folder = FolderTake(options.folder.absolute(), shot), document.absolute().parent
    try:
        with held(take.folder / LEDGER), FolderWorkers(folder, take.folder, options.workers or workers_here()) as by:
            take.enter(resume=(take.folder / LEDGER).exists(), fresh=False)
            for number in (signal.SIGINT, signal.SIGTERM):
                signal.signal(number, lambda *_: by.stop.ask())
            prepared, found = probe_to_folder(
                shot,
                take,
                by=by,
                gate=gate_of([document], options.trust),
                on_progress=ProgressLine("probe frames"),
            )
            probe = replace(found.probe, recipe=shot.recipe, files=_files(shot, take.folder, found))
            plan, camera_passes = prepared.plan, len(shot.camera_passes)
            keys = picture_keys(plan)
            # Frames that are there are of no variant.
            there = set() if shot.sweep is not None else {frame.frame for frame in probe.frames}
            written = [frame for frame in range(plan.clock.frames) if frame not in there]
            known = () if shot.sweep is not None else take.keys
            left = written if keys is None else left_frames(keys, camera_passes, known)
            by_steps = plan.inputs.facts.sequential
            place = (lambda n: plan.course_place(n * camera_passes)) if by_steps else None
            # In a folder, frames that are equal to another one are copies.
            said = foretold(probe, left, place, written)
            take.foretold = foretold_document(said)
            take.save()
            return said
    except Stopped as error:
        raise Failure(str(error) or "Stopped. The frames that were made are kept.") from None
    finally:
        end_line()


def _files(shot: "Shot", folder: Path, found: "Probed") -> "tuple[FileProbe, ...]":
    from vexel.core.recipes.shipped import RECIPES
    from vexel.output.footage.footage import footage_of
    from vexel.output.inspecting.stretches import probe_file

    clock, files = shot.clock.exact, []
    for one in shot.camera_passes:
        footage = footage_of(folder, "", one.camera, one.render_pass, hold=True)
        files.append(probe_file(footage, found.stretches, RECIPES[shot.recipe], clock))
    return tuple(file for file in files if file is not None)


def print_foretold(said: "Foretold", folder: Path, has_variants: bool) -> None:
    """What a probe foretells, a line a figure."""
    from vexel.core.recipes.byte_size import said_bytes
    from vexel.core.wording import counted

    def of(range_: "Range", name: str) -> str:
        return f"  {name:9} {said_bytes(round(range_.low))} to {said_bytes(round(range_.high))}"

    frames = counted(len(said.frames), "probed frame")
    those = f"{counted(said.left, 'frame')} of each variant" if has_variants else f"{counted(said.left, 'frame')} left"
    click.echo(f"foretold of {those}, from {frames}:")
    if said.seconds is not None:
        click.echo(f"  {'time':9} {span(said.seconds.low)} to {span(said.seconds.high)}, with all workers")
    click.echo(f"{of(said.bytes, 'frames')} on disk")
    if said.file_bytes is not None:
        click.echo(of(said.file_bytes, "file"))
    if said.memory is not None:
        click.echo(f"{of(said.memory, 'memory')} a worker")
    click.echo(f"  The probed frames are in {folder}: vexel capture --to {folder} --resume continues.")
