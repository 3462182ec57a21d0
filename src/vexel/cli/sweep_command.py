"""The command for the variants of a shot: list them, capture them, and draw their contact sheet."""

import json
import os
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

import click

from vexel.cli.capture_commands import CaptureStopped, Special, captured, folder_at, megabytes_of
from vexel.cli.main import main, sentences, shot_at, write_text
from vexel.cli.options import (
    draft_option,
    json_option,
    overwrite_option,
    run_options,
    trust_option,
    workers_options,
)
from vexel.cli.terminal import print_json
from vexel.core.errors import Failure, Mistake
from vexel.core.wording import counted

if TYPE_CHECKING:
    from collections.abc import Iterator

    from vexel.core.document.shot import Shot
    from vexel.core.document.sweep_spec import SweepSpec
    from vexel.core.sweep.variants import Variant
    from vexel.disk.finished import Finished
    from vexel.workers.planner import Planner
    from vexel.workers.stage_process import StageProcess

SHEET_SIDE = 320
"""Longest side of the pictures of a contact sheet."""


@main.command("sweep", epilog="Example: vexel sweep shot.json --to variants --sheet sheet.png")
@click.argument("document", metavar="SHOT.json", type=click.Path(path_type=Path))
@click.option("--table", type=click.Path(path_type=Path), help="Variants as rows of a CSV table, in place of axes.")
@click.option("--to", "folder", metavar="DIR", type=click.Path(path_type=Path), help="Capture them to this folder.")
@click.option(
    "--sheet", metavar="FILE", type=click.Path(path_type=Path), help="Write a contact sheet: .png, .pdf or .html."
)
@click.option(
    "--reel", metavar="FILE.json", type=click.Path(path_type=Path), help="Write a reel of the takes, with titles."
)
@click.option("--grid", is_flag=True, help="In --reel, the takes side by side, synchronized, with captions.")
@click.option("--frame", type=click.IntRange(0), help="Frame on the contact sheet; that of the sweep by default.")
@click.option("--favourites", is_flag=True, help="Only variants that are marked.")
@click.option("--resume", is_flag=True, help="Of a folder with {version}, continue the newest one.")
@draft_option
@workers_options
@run_options
@overwrite_option
@json_option
@trust_option
@sentences
def sweep_(
    document: Path,
    table: Path | None,
    folder: Path | None,
    sheet: Path | None,
    reel: Path | None,
    grid: bool,
    frame: int | None,
    favourites: bool,
    resume: bool,
    draft: bool,
    rough: bool,
    workers: int | None,
    scheduler: str,
    frame_seconds: float | None,
    tries: int,
    keep_free: str,
    overwrite: bool,
    as_json: bool,
    trust: bool,
) -> None:
    """List the variants of a shot; capture them, or show them on a contact sheet.

    Variants that are whole shots get a folder each. Existing frames are reused: run the same command to continue.
    """
    from vexel.core.sweep.variants import chosen, said_size, variant_shot

    if reel is not None and folder is None:
        raise Mistake("--reel is made of the takes: name their folder by --to")
    if grid and reel is None:
        raise Mistake("--grid arranges the takes of a reel: name its file by --reel")
    for file in (sheet, reel):
        if file is not None and file.exists() and not overwrite:
            raise Mistake(f"{file} is there already: choose another name, or add --overwrite")
    shot = _with_table(shot_at(document), table)
    sweep = _sweep_of(shot, frame)
    shot, kept = shot.model_copy(update={"sweep": sweep}), chosen(sweep, favourites)
    for one in kept:
        variant_shot(shot, one)
    size = said_size(shot, len(kept))
    if not as_json:
        click.echo(size)
        for one in kept if folder is None and sheet is None else ():
            click.echo(f"  {one.number:>5}  {one.name}{' (marked)' if one.favourite else ''}")
    made: list[str] = []
    special = Special(frame_seconds, tries, keep_free_mb=megabytes_of(keep_free))
    if folder is not None:
        folder = folder_at(folder, shot, newest=resume)
        made = _capture(shot, document, kept, folder, draft or rough, workers, scheduler, trust, special)
    if sheet is not None:
        _lay(shot, document, favourites, sheet, overwrite, trust)
    if reel is not None:
        _write_reel(shot, dict(zip((one.name for one in kept), made, strict=False)), favourites, reel, grid, overwrite)
    if as_json:
        rows = [{"number": one.number, "name": one.name, "values": dict(one.values)} for one in kept]
        print_json({"variants": rows, "size": size, "takes": made, "sheet": str(sheet) if sheet else None})


def _with_table(shot: "Shot", table: Path | None) -> "Shot":
    from vexel.core.document.shot import edited
    from vexel.core.sweep.table import read_table

    if table is None:
        return shot
    try:
        text = table.read_bytes().decode("utf-8")
    except OSError as error:
        raise Mistake(f"{table} cannot be read: {error.strerror}") from None
    except UnicodeDecodeError:
        raise Mistake(f"{table} is not text in UTF-8: export it as CSV in UTF-8") from None
    rows = read_table(text, table.name).model_dump(mode="json")
    return edited(shot, {"sweep": {"axes": [], "table": rows, "without": [], "favourites": []}})


def _sweep_of(shot: "Shot", frame: int | None) -> "SweepSpec":
    if shot.sweep is None:
        raise Mistake("the shot has no sweep: add one to the document, or give --table")
    last = shot.clock.exact.frames - 1
    if frame is not None and frame > last:
        raise Mistake(f"frame {frame:,} is outside the shot, which has frames 0 to {last:,}")
    return shot.sweep if frame is None else shot.sweep.model_copy(update={"frame": frame})


def _capture(
    shot: "Shot",
    document: Path,
    kept: "list[Variant]",
    folder: Path,
    draft: bool,
    workers: int | None,
    scheduler: str,
    trust: bool,
    special: Special,
) -> list[str]:
    """Capture variants; the folders of their takes."""
    from vexel.core.document.naming import safe_name
    from vexel.core.sweep.variants import swept_shot, variant_shot
    from vexel.store.folder_take import LEDGER
    from vexel.workers.bounds.limits import workers_here
    from vexel.workers.to_folder import FolderWorkers

    assert shot.sweep is not None
    _check_dials(shot, document, kept, trust)
    if shot.sweep.makes != "shots":
        takes = [(swept_shot(shot, kept), folder)]
    else:
        wide = len(str(max(one.number for one in kept)))
        takes = [(variant_shot(shot, one), folder / f"{one.number:0{wide}d}-{safe_name(one.name)}") for one in kept]
    by_key: dict[str, tuple[Path, Finished]] = {}
    failed = []
    # With the same workers: what does not change between variants, such as geometry, is made once.
    at, count = document.absolute().parent, workers or workers_here()
    with FolderWorkers(at, folder.absolute(), count, scheduler, special.frame_seconds) as by:
        for own, place in takes:
            one = own.draft() if draft else own
            begun = (place / LEDGER).exists()
            try:
                captured(
                    one, document, place, range(one.pictures), workers, scheduler,
                    resume=begun, err=True, trust=trust, by_key=by_key, special=special, by=by,
                )  # fmt: skip
            except CaptureStopped:
                raise
            except Failure as error:
                failed.append(str(error))
                click.echo(f"vexel: {error}", err=True)
    if failed:
        raise Failure(f"{counted(len(failed), 'variant')} failed; the first: {failed[0]}")
    return [str(place) for _, place in takes]


def _write_reel(shot: "Shot", takes: dict[str, str], favourites: bool, file: Path, grid: bool, overwrite: bool) -> None:
    """Write a reel of takes, which are named as seen from its folder."""
    from vexel.core.reel.reel_spec import read_reel_document
    from vexel.core.sweep.reel_of_sweep import reel_of_sweep

    places = {name: os.path.relpath(place, file.absolute().parent) for name, place in takes.items()}
    document = reel_of_sweep(shot, places, "grid" if grid else "one after another", favourites)
    read_reel_document(document)
    write_text(file, json.dumps(document, indent=2) + "\n", overwrite)
    click.echo(f"{file}: {counted(len(places), 'take')}", err=True)


def _lay(shot: "Shot", document: Path, favourites: bool, file: Path, overwrite: bool, trust: bool) -> None:
    """Draw the contact sheet and write it."""
    from vexel.core.sweep.sheet import sheet_rows
    from vexel.disk.claim import claimed
    from vexel.disk.write import write_whole
    from vexel.output.exporting.contact_sheet import ContactSheet, SheetCell, sheet_html, sheet_pdf, sheet_png

    writers = {".png": sheet_png, ".pdf": sheet_pdf, ".html": sheet_html}
    if file.suffix.lower() not in writers:
        raise Mistake(f"{file.name}: name the contact sheet with one of {', '.join(writers)}")
    assert shot.sweep is not None
    with claimed([file], replace=overwrite):
        rows = sheet_rows(shot.sweep, favourites)
        pictures = _pictures(shot, document, [one for row in rows for one in row if one is not None], trust)
        cells = [
            [SheetCell(one.name, pictures[one.number], one.favourite) if one else SheetCell("") for one in row]
            for row in rows
        ]
        made = ContactSheet(shot.title, f"frame {shot.sweep.frame}", cells)
        try:
            write_whole(file, writers[file.suffix.lower()](made), replace=overwrite)
        except OSError as error:
            raise Failure(f"{file} cannot be written: {error.strerror or error}") from None
    click.echo(f"{file}: {counted(len(pictures), 'variant')}", err=True)


def _check_dials(shot: "Shot", document: Path, kept: "list[Variant]", trust: bool) -> None:
    """Look at the values of all variants before the first is captured."""
    from vexel.core.document.source_spec import WithDials
    from vexel.core.sweep.variants import check_dials

    if isinstance(shot.source, WithDials):
        with _planner(document, trust) as (planner, _):
            check_dials(kept, planner.facts(*planner.source(shot, document.absolute().parent)).dials)


@contextmanager
def _planner(document: Path, trust: bool) -> "Iterator[tuple[Planner, StageProcess]]":
    """A planner with a new stage, which ends with the block."""
    from vexel.disk.scratch import scratch_folder
    from vexel.store.consent import homes_of
    from vexel.store.user_files import secrets_of
    from vexel.workers.bounds.isolation import Reach
    from vexel.workers.bounds.limits import capture_limits
    from vexel.workers.code_gate import gate_of
    from vexel.workers.planner import STATES, NothingKept, Planner
    from vexel.workers.stage_process import StageProcess

    with scratch_folder("copies") as copies:
        reach = Reach((str(copies / STATES),), secrets_of(homes_of(document.absolute().parent)))
        stage = StageProcess(capture_limits(), reach=reach)
        try:
            yield Planner(copies, stage, NothingKept(), gate_of([document], trust)), stage
        finally:
            stage.end()


def _pictures(shot: "Shot", document: Path, kept: "list[Variant]", trust: bool) -> dict[int, bytes]:
    """A small picture of each variant, by its number; those of one take have one view, as in the take."""
    from vexel.core.sweep.variants import swept_shot, variant_shot

    assert shot.sweep is not None
    folder, frame = document.absolute().parent, shot.sweep.frame
    picture = shot.picture
    scale = min(SHEET_SIDE / max(picture.width, picture.height), 1.0)
    sizes = max(round(picture.width * scale), 16), max(round(picture.height * scale), 16), min(picture.samples, 4)
    with _planner(document, trust) as (planner, stage):
        if shot.sweep.makes != "shots":
            prepared = planner.prepare(swept_shot(shot, kept).sized(*sizes), folder)
            specs = [(one.number, prepared.plan.frame_spec(place)) for place, one in enumerate(kept)]
            return {number: stage.view(prepared.at, spec) for number, spec in specs}
        found: dict[int, bytes] = {}
        for one in kept:
            own = variant_shot(shot, one).sized(*sizes)
            prepared = planner.prepare(own, folder)
            last = own.clock.exact.frames - 1
            found[one.number] = stage.view(prepared.at, prepared.plan.frame_spec(min(frame, last)))
        return found
