"""The command that edits takes into one film."""

import json
from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from vexel.cli.capture_commands import captured
from vexel.cli.compile_commands import changed, place_of, recipes_of, write_files
from vexel.cli.main import main, sentences, shot_at, write_text
from vexel.cli.options import json_option, overwrite_option, recipe_options, trust_option
from vexel.cli.terminal import print_findings, print_json
from vexel.core.errors import Mistake
from vexel.core.wording import counted

if TYPE_CHECKING:
    from vexel.core.reel.media import MediaRef
    from vexel.core.reel.reel_spec import Reel
    from vexel.core.reel.true_frames import TrueFrames
    from vexel.output.reel.library import FolderLibrary
    from vexel.output.reel.open_reel import OpenReel


@main.command("reel", epilog="Example: vexel reel reel.json -o hall.mp4")
@click.argument("document", metavar="[REEL.json]", required=False, type=click.Path(path_type=Path))
@click.option(
    "-o",
    "--output",
    "outputs",
    metavar="FILE",
    required=True,
    multiple=True,
    help="Output file; .otio, .edl and .csv export the timeline, .json the reel.",
)
@click.option(
    "--from", "timeline", metavar="OTIO", type=click.Path(path_type=Path), help="Timeline from another program."
)
@recipe_options
@click.option(
    "--format",
    "formats",
    metavar="NAME",
    multiple=True,
    help="Format of the reel for all outputs, or one per output; an empty name is the reel's own size.",
)
@click.option(
    "--takes",
    metavar="DIR",
    type=click.Path(path_type=Path),
    help="Folder with the takes (default: takes/ next to the reel).",
)
@overwrite_option
@json_option
@trust_option
@sentences
def reel_(
    document: Path | None,
    timeline: Path | None,
    outputs: Sequence[str],
    names: Sequence[str],
    recipe_file: Path | None,
    formats: Sequence[str],
    takes: Path | None,
    overwrite: bool,
    as_json: bool,
    trust: bool,
    **given: Any,
) -> None:
    """Edit takes into one film by a reel document.

    Missing frames are captured first.
    """
    from vexel.disk.claim import claim
    from vexel.interchange.cut_formats import CUT_FORMATS
    from vexel.output.reel.library import FolderLibrary
    from vexel.output.reel.open_reel import open_reel
    from vexel.output.reel.reel_footage import footage_of_reel

    if (document is None) == (timeline is None):
        raise Mistake("give either a reel document or --from with a timeline")
    document, reel = (document, reel_at(document)) if document is not None else _of_timeline(timeline)
    folder = document.absolute().parent
    # Formats of the timeline alone, without pictures.
    listed = (*CUT_FORMATS, ".json")
    lists = [Path(output) for output in outputs if Path(output).suffix.lower() in listed]
    outputs = [output for output in outputs if Path(output).suffix.lower() not in listed]
    exported = [_write_list(reel, document, file, overwrite, as_json) for file in lists]
    if not outputs:
        if as_json:
            print_json({"files": exported})
        return
    none = {"rate": "", "between": "", "missing": ""}
    recipes = [changed(one, given | none) for one in recipes_of(outputs, names, recipe_file, reel.is_transparent)]
    orders = [(recipe, place_of(output)) for recipe, output in zip(recipes, outputs, strict=True)]
    shown = _shown(reel, formats, len(outputs))
    for _, file in orders:
        # Before hours of capture, not after them.
        claim(file, replace=overwrite).release()
    library = FolderLibrary(folder, takes.absolute() if takes else None)
    _capture_shots(reel, library, document, trust)
    opened = open_reel(reel, library, folder, document)
    if lacking := opened.lacking():
        for ref, frames in lacking.items():
            _capture_true_frames(opened, ref, frames, library, document, trust)
    written = []
    for one in dict.fromkeys(reel.format for reel in shown):
        of_format = [order for order, reel in zip(orders, shown, strict=True) if reel.format == one]
        wanted = next(reel for reel in shown if reel.format == one)
        written.append((footage_of_reel(open_reel(wanted, library, folder, document)), of_format))
    write_files(written, overwrite=overwrite, as_json=as_json, beside=exported)


def _shown(reel: "Reel", formats: Sequence[str], outputs: int) -> "list[Reel]":
    """The reel of each output, in its format."""
    from vexel.core.reel.formats import shown_in

    if len(formats) not in (0, 1, outputs):
        raise Mistake(f"give one --format for all {outputs} outputs, or one for each, not {len(formats)}")
    named = list(formats) * outputs if len(formats) == 1 else list(formats) or [reel.format] * outputs
    return [shown_in(reel, [name])[0] for name in named]


def _of_timeline(timeline: Path | None) -> "tuple[Path, Reel]":
    """The reel of a timeline from another program; skipped items are listed."""
    from vexel.workers.foreign_files import read_timeline

    assert timeline is not None
    try:
        reel, notes = read_timeline(timeline.name, timeline.read_bytes())
    except OSError as error:
        raise Mistake(f"{timeline} cannot be read: {error.strerror}") from None
    for note in notes:
        click.echo(f"note: {note}", err=True)
    return timeline, reel


def _write_list(reel: "Reel", document: Path, file: Path, overwrite: bool, as_json: bool) -> dict[str, Any]:
    """Write a reel's timeline, or the reel itself; return the file and notes on skipped items for JSON."""
    from vexel.interchange.cut_formats import cut_format
    from vexel.output.reel.library import FolderLibrary
    from vexel.output.reel.open_reel import open_reel
    from vexel.store.documents.reels import spelled_reel

    notes: list[str] = []
    if file.suffix.lower() == ".json":
        text = spelled_reel(reel)
    else:
        folder = document.absolute().parent
        opened = open_reel(reel, FolderLibrary(folder), folder, document)
        write = cut_format(file.suffix.lower()).text_of
        text, notes = write(opened.plan, opened.first_file, file.absolute().parent)
    write_text(file, text, overwrite)
    for note in notes:
        click.echo(f"note: {note}", err=True)
    if not as_json:
        click.echo(str(file))
    return {"file": str(file), "notes": notes}


def reel_at(document: Path) -> "Reel":
    """The reel of a document.

    Raises
    ------
    Mistake
        When it cannot be read, or is wrong.
    """
    from vexel.core.reel.reel_spec import read_reel

    try:
        return read_reel(document.read_bytes(), document.name)
    except OSError as error:
        raise Mistake(f"{document} cannot be read: {error.strerror}") from None


def is_reel(document: Path) -> bool:
    """Whether a document is of a reel: it has items where a shot has a source."""
    try:
        found = json.loads(document.read_bytes())
    except (OSError, ValueError):
        return False
    return isinstance(found, dict) and "items" in found and "source" not in found


def print_reel_plan(document: Path, as_json: bool) -> None:
    """Print the length of a reel, its items, its findings, and the frames that would be captured."""
    from vexel.output.reel.library import FolderLibrary
    from vexel.output.reel.open_reel import open_reel

    folder = document.absolute().parent
    opened = open_reel(reel_at(document), FolderLibrary(folder), folder, document)
    plan, findings = opened.plan, list(opened.findings)
    captured = {ref.label: len(frames.numbers) for ref, frames in opened.lacking().items()}
    items = [{"name": cue.text, "first": cue.begin, "frames": cue.end - cue.begin} for cue in plan.chapters]
    if as_json:
        figures = {"frames": plan.frames, "rate": str(plan.rate.fps), "reason": plan.reason, "items": items}
        figures |= {"to_capture": captured, "missing": {ref.label: str(why) for ref, why in opened.gone.items()}}
        print_json(figures | {"findings": [asdict(finding) for finding in findings]})
        return
    click.echo(f"{counted(plan.frames, 'frame')}, {plan.reason}")
    for item in items:
        click.echo(f"  {item['first']:>6}  {item['frames']:>6}  {item['name']}")
    for label, count in captured.items():
        click.echo(f"  to capture: {counted(count, 'frame')} of {label} between those of its take")
    for error in opened.gone.values():
        click.echo(f"  missing: {error}")
    print_findings(findings)


def _capture_shots(reel: "Reel", library: "FolderLibrary", document: Path, trust: bool) -> None:
    """Capture the shots of a reel that have no take yet, or whose take is not whole."""
    from vexel.output.reel.nested_reels import whole_reel

    whole = whole_reel(reel, library.folder, document)
    through = (document, *whole.files)
    for place in dict.fromkeys(ref.place for ref in whole.reel.refs() if ref.kind == "shot"):
        file = library.folder / place
        if not file.is_file():
            raise Mistake(f"there is no shot {place}: check the path, which is relative to the reel")
        shot = shot_at(file)
        folder = library.takes / Path(place).stem
        numbers, begun = range(shot.pictures), folder.exists()
        captured(shot, file, folder, numbers, None, "", resume=begun, err=True, trust=trust, through=through)


def _capture_true_frames(
    opened: "OpenReel", ref: "MediaRef", frames: "TrueFrames", library: "FolderLibrary", document: Path, trust: bool
) -> None:
    """Capture instants between the frames of a shot."""
    from vexel.core.document.shot import edited
    from vexel.core.edits.true_motion import true_motion
    from vexel.output.reel.media import shown_pass

    file = library.folder / ref.place
    shot = shot_at(file)
    changed = edited(shot, true_motion(shot, frames.motion, frames.numbers))
    camera_pass = changed.camera_passes.index(shown_pass(changed, ref))
    numbers = [changed.index_of(number, camera_pass).picture for number in frames.numbers]
    folder = library.true_frames_of(ref, frames)
    through, begun = (document, *opened.reels), folder.exists()
    captured(changed, file, folder, numbers, None, "", resume=begun, err=True, trust=trust, through=through)
