"""Commands about files: inspected, checked, and camera paths."""

from collections.abc import Sequence
from dataclasses import asdict, replace
from pathlib import Path
from typing import TYPE_CHECKING

import click

from vexel.cli.main import main, sentences, shot_at, write_text
from vexel.cli.options import json_option, overwrite_option, trust_option

if TYPE_CHECKING:
    from vexel.core.document.shot import Shot
    from vexel.core.evaluate.plan import Plan
from vexel.cli.terminal import ProgressLine, end_line, print_json
from vexel.core.errors import Failure, Mistake
from vexel.core.wording import counted


@main.command("inspect", epilog="Example: vexel inspect shell.mp4")
@click.argument("place", metavar="PATH", type=click.Path(path_type=Path))
@click.option("--home", type=click.Path(path_type=Path), help="Project in which to find what the file was made of.")
@click.option(
    "--clean-copy",
    metavar="DIR",
    type=click.Path(path_type=Path),
    help="Copy a folder's images without leftovers of another size or age into a new folder.",
)
@json_option
@sentences
def inspect_(place: Path, home: Path | None, clean_copy: Path | None, as_json: bool) -> None:
    """Print facts and findings of an image sequence or a video, and its provenance record."""
    from vexel.output.inspecting.inspect import inspect

    found = inspect(place)
    if clean_copy is not None:
        found |= {"copied": _copied(place, clean_copy)}
    if home is not None:
        found |= {"found": _found_in(home, place)}
    if as_json:
        print_json(found)
        if found["damaged"]:
            raise SystemExit(1)
        return
    for key, value in found["facts"].items():
        click.echo(f"{key:8} {value:,}" if isinstance(value, int) else f"{key:8} {value}")
    for finding in found["findings"]:
        click.echo(f"finding: {finding}")
    if clean_copy is not None:
        click.echo(f"{clean_copy}: {counted(found['copied'], 'file')} copied")
    for line in found.get("found", ()):
        click.echo(f"found: {line}")
    if found["damaged"]:
        raise Failure(f"{place} is not whole: {found['findings'][0]}")


def _copied(place: Path, target: Path) -> int:
    """Copy what belongs together; how many files."""
    from vexel.output.inspecting.inspect import images_of, leftovers_of
    from vexel.output.inspecting.leftovers import clean_copy

    if not place.is_dir():
        raise Mistake("--clean-copy copies the images of a folder: name a folder")
    files = images_of(place)
    try:
        return clean_copy(files, leftovers_of(files).all, target, ProgressLine("files").steps)
    finally:
        end_line()


def _found_in(home: Path, file: Path) -> list[str]:
    """What a project knows of a file, and what is gone, as sentences."""
    from vexel.store.project import Project
    from vexel.web.jobs.reviewing.made_from import made_from

    if not (home / "vexel.db").is_file():
        raise Mistake(f"{home} is not a project: name the folder that vexel serve was started with")
    if not file.is_file():
        raise Mistake("--home finds what a file was made of: name a file")
    found = made_from(Project(home), file)
    there = []
    if found.run_id:
        there.append(f"take {found.run_id}" + (f" of the shot {found.shot_id}" if found.shot_id else ""))
    if found.reel:
        there.append(f"the reel {found.reel}")
    if found.recipe is not None:
        there.append(f"the recipe {found.recipe.name}")
    if found.footage is not None and found.recipe is not None:
        there.append(f"all of it is there: vexel again {file} -o NEW{file.suffix} --home {home} makes it again")
    return [*there, *found.gone]


@main.command("check", epilog="Example: vexel check take --deep")
@click.argument("place", metavar="DIR", type=click.Path(path_type=Path))
@click.option("--deep", is_flag=True, help="Read every byte, not only size and time.")
@json_option
@sentences
def check_(place: Path, deep: bool, as_json: bool) -> None:
    """Compare the frames of a project or take with what was made; damaged ones are set aside."""
    from vexel.store.check import check_project, check_take
    from vexel.store.project import Project

    on_progress = ProgressLine("frames").steps
    is_project = (place / "vexel.db").is_file()
    found = check_project(Project(place), deep, on_progress) if is_project else check_take(place, deep, on_progress)
    if as_json:
        print_json(asdict(found) | {"whole": found.whole})
    else:
        click.echo(
            f"{place}: {counted(found.frames, 'frame')} checked, "
            f"{len(found.damaged):,} damaged, {found.missing:,} missing"
        )
        for sentence in found.files:
            click.echo(f"finding: {sentence}")
    if not found.whole:
        if found.damaged:
            click.echo(f"damaged frames are in {found.damaged[0].parent}", err=True)
        raise Failure(
            "some frames are damaged or missing: resume the run, or capture with --resume, to make them again"
        )


@main.command("layers", epilog="Example: vexel layers take -o layers")
@click.argument("take", metavar="TAKE", type=click.Path(path_type=Path))
@click.option(
    "-o",
    "--output",
    "folder",
    metavar="DIR",
    required=True,
    type=click.Path(path_type=Path),
    help="New folder for the files.",
)
@click.option("--camera", default="", help="Camera, if the take has several; all by default.")
@sentences
def layers(take: Path, folder: Path, camera: str) -> None:
    """Write all passes of a take of OpenEXR files into one file for each frame, as layers."""
    from vexel.output.footage.layers import write_layers

    made = write_layers(take, folder, camera)
    click.echo(f"{folder}: {counted(len(made), 'file')}")


@main.command("path", epilog="Example: vexel path shot.json -o path.csv")
@click.argument("document", metavar="SHOT.json", type=click.Path(path_type=Path))
@click.option(
    "-o", "--output", "file", metavar="FILE", type=click.Path(path_type=Path), help=".csv, .json or .gltf to write."
)
@click.option("--from", "table", metavar="FILE", type=click.Path(path_type=Path), help="A path to follow.")
@click.option("--camera", default="", help="Camera, if the glTF file has several.")
@overwrite_option
@trust_option
@sentences
def path_(document: Path, file: Path | None, table: Path | None, camera: str, overwrite: bool, trust: bool) -> None:
    """Write the camera of every frame to a file, or print a shot that follows the path in a file."""
    if (file is None) == (table is None):
        raise Mistake("give -o FILE to write the path of the camera, or --from FILE to follow one")
    shot = shot_at(document)
    if table is not None:
        from vexel.core.document.shot import read_shot_document
        from vexel.interchange.imported_path import rig_of_file
        from vexel.store.consent import homes_of
        from vexel.store.documents.shots import spelled
        from vexel.store.user_files import secrets_of
        from vexel.workers.bounds.isolation import Reach
        from vexel.workers.bounds.limits import capture_limits
        from vexel.workers.code_gate import code_of_path, gate_of
        from vexel.workers.stage_process import StageProcess

        changed = shot.model_dump(mode="json")
        if table.suffix.lower() == ".py" and table.is_file():
            gate_of([document, table], trust).check(*code_of_path(table))
        stage = StageProcess(capture_limits(), reach=Reach(hidden=secrets_of(homes_of(table))))
        try:
            changed["camera"]["rig"] = rig_of_file(shot, table, stage.way, camera)
        finally:
            stage.end()
        click.echo(spelled(read_shot_document(changed, document.name)), nl=False)
        return
    assert file is not None
    from vexel.interchange.camera_file import camera_file_text, left_out

    plan = _planned(shot, document, trust)
    write_text(file, camera_file_text(plan, file.suffix.lower()), overwrite)
    click.echo(f"{file}: {counted(plan.clock.frames, 'frame')}")
    if missing := left_out(plan, file.suffix.lower()):
        click.echo(f"{file.suffix} does not hold {' and '.join(missing)}", err=True)


def _planned(shot: "Shot", document: Path, trust: bool) -> "Plan":
    """The plan of a shot, with its source asked."""
    from vexel.disk.scratch import scratch_folder
    from vexel.store.consent import homes_of
    from vexel.store.user_files import secrets_of
    from vexel.workers.bounds.isolation import Reach
    from vexel.workers.bounds.limits import capture_limits
    from vexel.workers.code_gate import gate_of
    from vexel.workers.planner import STATES, NothingKept, Planner
    from vexel.workers.stage_process import StageProcess

    with scratch_folder("copies") as copies:
        reach = Reach((str(copies / STATES),), secrets_of(homes_of(document)))
        stage = StageProcess(capture_limits(), reach=reach)
        try:
            planner = Planner(copies, stage, NothingKept(), gate_of([document], trust))
            return planner.prepare(shot, document.absolute().parent).plan
        finally:
            stage.end()


@main.command("handover", epilog="Example: vexel handover shot.json --take take -o handover.zip")
@click.argument("document", metavar="SHOT.json", type=click.Path(path_type=Path))
@click.option("--take", metavar="DIR", required=True, type=click.Path(path_type=Path), help="The take's folder.")
@click.option(
    "-o",
    "--output",
    "place",
    metavar="DIR_OR_ZIP",
    required=True,
    type=click.Path(path_type=Path),
    help="New folder, or a ZIP file by its extension.",
)
@click.option(
    "--with",
    "made",
    metavar="FILE",
    multiple=True,
    type=click.Path(path_type=Path, exists=True, dir_okay=False),
    help="File made of the take, such as its video. May be repeated.",
)
@overwrite_option
@click.option("--list", "only_list", is_flag=True, help="List the source files of the hand-over, and write nothing.")
@trust_option
@sentences
def handover(
    document: Path, take: Path, place: Path, made: Sequence[Path], overwrite: bool, only_list: bool, trust: bool
) -> None:
    """Write a take with its shot, source, camera path and checksums; a ZIP of it opens as a project on any machine."""
    from vexel.interchange.camera_file import camera_file_texts
    from vexel.output.exporting.handover import Handed, listed, write_handover

    shot = shot_at(document)
    plan = None if only_list else _planned(shot, document, trust)
    handed = Handed.of_folder(document, shot, take, plan, camera_file_texts(plan) if plan else {})
    names = [file.name for file in made]
    if twice := next((name for name in names if names.count(name) > 1), ""):
        raise Mistake(f"--with names two files called {twice}: rename one")
    handed = replace(handed, made=dict(zip(names, made, strict=True)))
    for name, size in listed(handed):
        click.echo(f"  {name}  {size:,} bytes", err=not only_list)
    if only_list:
        return
    written = write_handover(handed, place, overwrite=overwrite)
    click.echo(f"{place}: {counted(len(written), 'file')}")


@main.command("unpack", epilog="Example: vexel unpack handover.zip --to project")
@click.argument("archive", metavar="ZIP", type=click.Path(path_type=Path))
@click.option("--to", "folder", metavar="DIR", required=True, type=click.Path(path_type=Path), help="New folder.")
@sentences
def unpack_(archive: Path, folder: Path) -> None:
    """Unpack a hand-over into a new folder, a project whose code runs once you trust it."""
    from vexel.disk.claim import claimed
    from vexel.output.exporting.handover import open_handover

    # What a killed call has left beside the folder is swept as the name is claimed.
    with claimed([folder]):
        count = open_handover(archive, folder)
    click.echo(f"{folder}: {counted(count, 'file')}; open it by vexel serve --home {folder}")
