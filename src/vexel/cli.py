"""The command line."""

import json
import os
import signal
import sys
import time
from collections.abc import Callable
from dataclasses import asdict
from functools import wraps
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from vexel.core.errors import Failure, Mistake, VexelError
from vexel.terminal import Told, print_findings, print_receipt

if TYPE_CHECKING:
    from collections.abc import Sequence

    from vexel.core.document.recipes import Recipe
    from vexel.core.document.shot import Shot
    from vexel.core.finding import Finding
    from vexel.core.time.clock import Span
    from vexel.core.time.term_solver import Answer

DEFAULT_HOME = Path(os.environ.get("VEXEL_HOME", "~/vexel")).expanduser()


def sentences(command: Callable[..., None]) -> Callable[..., None]:
    """Say a person's mistake in one sentence, with exit status 2, and a failure with 1."""

    @wraps(command)
    def said(*args: Any, **kwargs: Any) -> None:
        try:
            command(*args, **kwargs)
        except VexelError as error:
            click.echo(f"vexel: {error}", err=True)
            sys.exit(2 if isinstance(error, Mistake) else 1)
        except KeyboardInterrupt:
            click.echo("vexel: stopped", err=True)
            sys.exit(1)

    return said


trust_option = click.option("--trust", is_flag=True, help="Run the code of a project from elsewhere unasked.")


@click.group(context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(package_name="vexel")
def main() -> None:
    """Plan a piece of video to the frame, capture it once, prove the file."""


@main.command()
@click.option("--home", type=click.Path(path_type=Path), default=DEFAULT_HOME / "demo", show_default=True)
@click.option("--port", type=click.IntRange(0, 65535), default=8137, show_default=True)
@sentences
def demo(home: Path, port: int) -> None:
    """Start Vexel with the demo project."""
    from vexel.demo import lay_out
    from vexel.web.serve import serve_home

    serve_home(home, port, lay_out=lay_out)


@main.command()
@click.option("--home", type=click.Path(path_type=Path), default=DEFAULT_HOME, show_default=True)
@click.option("--port", type=click.IntRange(0, 65535), default=8137, show_default=True)
@trust_option
@sentences
def serve(home: Path, port: int, trust: bool) -> None:
    """Start Vexel."""
    from vexel.web.serve import serve_home

    serve_home(home, port, trusted=trust)


@main.command()
@click.argument("home", metavar="DIR", type=click.Path(path_type=Path))
@click.option("--yes", is_flag=True, help="Agree to all of it without being asked.")
@sentences
def agree(home: Path, yes: bool) -> None:
    """Look at the code of a project from elsewhere, and let it run."""
    from vexel.crew.code_gate import unseen_of
    from vexel.store.consent import Consent
    from vexel.store.project import Project

    if not (home / "shots").is_dir():
        raise Mistake(f"{home} is no project: name a folder with shots in it")
    consent = Consent(home)
    unseen = unseen_of(Project(home), consent)
    if not unseen:
        click.echo(f"{home}: nothing waits for your word")
        return
    for file in sorted({file for files, _ in unseen.values() for file in files}):
        click.echo(f"{file}, {file.stat().st_size:,} bytes")
    click.echo("This code would run with your rights: it could read your files and use the network.")
    try:
        agreed = yes or click.confirm("Have you looked at these files, and may they run?")
    except click.Abort:
        agreed = False
    if not agreed:
        raise Failure("nothing was agreed to, and nothing runs")
    consent.agree(unseen)
    click.echo(f"{home}: agreed, until one of them changes")


@main.command()
@click.argument("document", metavar="SHOT.json", required=False, type=click.Path(path_type=Path))
@click.option("--rate", help="Frames per second: 24, 12.5, 30000/1001 or 29.97.")
@click.option("--seconds", help="Length: 15, 12s, 1:30, 450f or timecode.")
@click.option("--frames", help="Length in frames.")
@click.option("--degrees", help="How far the camera turns from frame to frame.")
@click.option("--turns", help="Full turns over the shot.")
@click.option("--turn-seconds", help="Seconds that a turn takes.")
@click.option("--pace", help="Seconds of the source per second of video.")
@click.option("--covers", help="Seconds of the source that are shown.")
@click.option("--repeats", help="How many times a loop is repeated.")
@click.option("--span", type=click.Choice(["loop", "ends"]), default="loop", show_default=True)
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
@sentences
def reckon(document: Path | None, span: "Span", as_json: bool, **typed: str | None) -> None:
    """Print frame count, duration and steps of a shot, or of any terms that suffice."""
    from vexel.core.checks.reckoning import reckon as work_out
    from vexel.core.document.clock_spec import ClockSpec
    from vexel.core.edits.set_term import terms_of
    from vexel.core.time.rate import Rate

    given = {name: text for name, text in typed.items() if text is not None}
    terms: dict[str, str] = {}
    if document is not None:
        if given:
            raise Mistake("give either a shot document or --rate with a length, not both")
        shot = _shot(document)
        figures = work_out(shot.clock, shot.orbit, shot.camera)
        findings = _findings(shot, document)
        terms = {term.name: term.value for term in terms_of(shot)}
        reasons = list(figures.reasons)
    else:
        answer = _solved(given, span)
        clock = ClockSpec(rate=str(Rate(answer.values["rate"])), span=span, frames=int(answer.values["frames"]))
        figures = work_out(clock)
        findings = []
        terms = {name: str(value) for name, value in answer.values.items()}
        reasons = [*answer.reasons.values(), *figures.reasons[1:]]
    if as_json:
        told = asdict(figures) | {"terms": terms, "findings": [asdict(f) for f in findings]}
        click.echo(json.dumps(told))
        return
    click.echo(f"{figures.frames:,} frames, {figures.seconds_label}, {figures.playback_label}")
    for reason in reasons:
        click.echo(f"  {reason}")
    print_findings(findings)


@main.command()
@click.argument("document", metavar="SHOT.json", type=click.Path(path_type=Path))
@click.option("--to", "folder", metavar="DIR", required=True, type=click.Path(path_type=Path))
@click.option("--frames", "choice", default="", help="Only these, such as 0-23,40.")
@click.option("--rough", is_flag=True, help="Small and quick: at most 480 pixels long, one sample.")
@click.option("--workers", type=click.IntRange(1, 256), help="Processes; one a core by default.")
@click.option("--scheduler", default="", metavar="ADDRESS", help="A running Dask scheduler.")
@click.option("--resume", is_flag=True, help="Go on with the take that the folder holds.")
@click.option("--fresh", is_flag=True, help="Replace the take that the folder holds.")
@trust_option
@sentences
def capture(
    document: Path,
    folder: Path,
    choice: str,
    rough: bool,
    workers: int | None,
    scheduler: str,
    resume: bool,
    fresh: bool,
    trust: bool,
) -> None:
    """Capture a shot's frames into a folder."""
    from vexel.core.document.naming import chosen_frames

    if resume and fresh:
        raise Mistake("--resume goes on with a take and --fresh replaces it: give one of them")
    shot = _shot(document)
    shot = shot.rough() if rough else shot
    count, camera_passes = shot.clock.clock().frames, len(shot.camera_passes)
    chosen = chosen_frames(choice, count) if choice else range(count)
    numbers = [frame * camera_passes + camera_pass for frame in chosen for camera_pass in range(camera_passes)]
    _captured(shot, document, folder, numbers, workers, scheduler, resume=resume, fresh=fresh, trust=trust)


@main.command("make")
@click.argument("document", metavar="SHOT.json", type=click.Path(path_type=Path))
@click.option("-o", "--output", "file", required=True, type=click.Path(path_type=Path))
@click.option("--recipe", "name", default="", help="h264, gif or gif-640; by the file's ending if left out.")
@click.option("--frames-to", "folder", metavar="DIR", type=click.Path(path_type=Path), help="Keep the frames there.")
@click.option("--rough", is_flag=True, help="Small and quick: at most 480 pixels long, one sample.")
@click.option("--workers", type=click.IntRange(1, 256), help="Processes; one a core by default.")
@click.option("--scheduler", default="", metavar="ADDRESS", help="A running Dask scheduler.")
@click.option("--json", "as_json", is_flag=True, help="Print the receipts as one JSON object.")
@trust_option
@sentences
def make_(
    document: Path,
    file: Path,
    name: str,
    folder: Path | None,
    rough: bool,
    workers: int | None,
    scheduler: str,
    as_json: bool,
    trust: bool,
) -> None:
    """Capture a shot and compile its file; the same call goes on after a stop.

    Frames that are there already are kept. They stay beside the file, in a folder named after it.
    """
    from vexel.core.document.recipes import RECIPES, recipe_for
    from vexel.output.compile import compile_footage
    from vexel.output.footage import footage_of

    shot = _shot(document)
    own = RECIPES[shot.recipe]
    recipe = own if not name and own.suffix == file.suffix.lower() else recipe_for(file, name)
    _refuse_folder(recipe)
    shot = shot.rough() if rough else shot
    folder = folder or file.with_name(f"{file.stem}.{'rough' if rough else 'take'}")
    begun = (folder / "take.json").exists()
    pictures = range(shot.clock.clock().frames * len(shot.camera_passes))
    _captured(shot, document, folder, pictures, workers, scheduler, resume=begun, err=True, trust=trust)
    receipts = []
    for camera_pass in shot.camera_passes:
        one = (
            file
            if len(shot.camera_passes) == 1
            else file.with_name(f"{file.stem}.{'.'.join(camera_pass)}{file.suffix}")
        )
        footage = footage_of(folder, "", camera_pass.camera, camera_pass.render_pass)
        receipts.append(compile_footage(footage, one, recipe, Told("steps").steps))
        if not as_json:
            print_receipt(receipts[-1])
    if as_json:
        click.echo(json.dumps({"frames": str(folder), "files": [receipt.document() for receipt in receipts]}))
    wrong = [receipt.file for receipt in receipts if not receipt.holds]
    if wrong:
        raise Failure(f"{wrong[0]} is not what was planned: see the receipt")


def _refuse_folder(recipe: "Recipe") -> None:
    if recipe.is_folder:
        raise Mistake(f"recipe {recipe.name} makes no file: vexel capture --to DIR lays numbered frames into a folder")


def _captured(
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
) -> None:
    """Capture pictures of a shot into a folder, and say how it went.

    Raises
    ------
    Failure
        When frames failed, or it was stopped.
    """
    from vexel.core.errors import Stopped
    from vexel.crew.code_gate import gate_of
    from vexel.crew.stop import Stop
    from vexel.crew.to_folder import capture_to_folder
    from vexel.store.disk.scratch import sweep_parts, sweep_scratch
    from vexel.store.folder_take import DAMAGED, FolderTake

    take, camera_passes = FolderTake(folder.absolute(), shot), len(shot.camera_passes)
    take.enter(resume=resume, fresh=fresh)

    sweep_scratch()
    sweep_parts(take.folder)
    stop, begun = Stop(), time.monotonic()
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, lambda *_: stop.ask())
    stopped = "stopped; the same call goes on" if err else "stopped; add --resume to go on"
    try:
        outcome = capture_to_folder(
            shot,
            document.absolute().parent,
            take,
            numbers,
            workers=workers,
            scheduler=scheduler,
            looked=lambda found: print_findings([*_findings(shot, document), *found], err=True),
            stop=stop,
            gate=gate_of(document, trust),
            told=Told("frames" if camera_passes == 1 else "pictures"),
        )
    except Stopped:
        raise Failure(stopped) from None
    click.echo(
        f"{folder}: {outcome.made:,} made, {outcome.kept:,} kept, {outcome.failed:,} failed, "
        f"{outcome.waiting:,} waiting, in {time.monotonic() - begun:.1f} s",
        err=err,
    )
    if outcome.damaged:
        click.echo(
            f"{outcome.damaged:,} frames had been damaged since they were made, and lie in {take.folder / DAMAGED}",
            err=True,
        )
    if outcome.failed:
        row = take.first_failure()
        which = f"frame {row.number}" if camera_passes == 1 else shot.file_name(row.number)
        raise Failure(f"{outcome.failed:,} frames failed; {which}: {row.error}")
    if outcome.halt:
        raise Failure(outcome.halt)
    if outcome.waiting:
        raise Failure(stopped)


@main.command("compile")
@click.argument("place", metavar="DIR_OR_PATTERN", type=click.Path(path_type=Path))
@click.option("-o", "--output", "file", required=True, type=click.Path(path_type=Path))
@click.option("--rate", default="", help="Frames per second; a take has its own.")
@click.option("--recipe", "name", default="", help="h264, gif or gif-640; by the file's ending if left out.")
@click.option("--camera", default="", help="Whose frames, where a take holds several cameras.")
@click.option("--pass", "render_pass", default="", help="Which pass, where a take holds several.")
@click.option("--json", "as_json", is_flag=True, help="Print the receipt as one JSON object.")
@sentences
def compile_(place: Path, file: Path, rate: str, name: str, camera: str, render_pass: str, as_json: bool) -> None:
    """Compile frames to a video file and prove it."""
    from vexel.core.document.recipes import recipe_for
    from vexel.output.compile import compile_footage
    from vexel.output.footage import footage_of

    recipe = recipe_for(file, name)
    _refuse_folder(recipe)
    told = Told("steps")
    receipt = compile_footage(footage_of(place, rate, camera, render_pass), file, recipe, told.steps)
    if as_json:
        click.echo(json.dumps(receipt.document()))
    else:
        print_receipt(receipt)
    if not receipt.holds:
        raise Failure(f"{file} is not what was planned: see the receipt")


@main.command("inspect")
@click.argument("place", metavar="PATH", type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
@sentences
def inspect_(place: Path, as_json: bool) -> None:
    """Print facts and findings of an image sequence or a video."""
    from vexel.output.inspect import inspect

    found = inspect(place)
    if as_json:
        click.echo(json.dumps(found))
        if found["damaged"]:
            raise SystemExit(1)
        return
    for key, value in found["facts"].items():
        click.echo(f"{key:8} {value:,}" if isinstance(value, int) else f"{key:8} {value}")
    for finding in found["findings"]:
        click.echo(f"look: {finding}")
    if found["damaged"]:
        raise Failure(f"{place} is not whole: {found['findings'][0]}")


@main.command("check")
@click.argument("place", metavar="DIR", type=click.Path(path_type=Path))
@click.option("--deep", is_flag=True, help="Read every byte, even where size and time say nothing against it.")
@click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
@sentences
def check_(place: Path, deep: bool, as_json: bool) -> None:
    """Hold the frames of a project or a take against what was made; damaged ones are set aside."""
    from vexel.store.disk.check import check_project, check_take
    from vexel.store.project import Project

    told = Told("frames").steps
    is_project = (place / "vexel.db").is_file()
    found = check_project(Project(place), deep, told) if is_project else check_take(place, deep, told)
    if as_json:
        click.echo(json.dumps(asdict(found) | {"whole": found.whole}, default=str))
    else:
        click.echo(
            f"{place}: {found.frames:,} frames looked at, {len(found.damaged):,} damaged, {found.missing:,} missing"
        )
        for sentence in found.files:
            click.echo(f"look: {sentence}")
    if not found.whole:
        if found.damaged:
            click.echo(f"damaged frames lie in {found.damaged[0].parent}", err=True)
        raise Failure("not everything is as it was made: resume the run, or capture with --resume, to make it again")


@main.command("path")
@click.argument("document", metavar="SHOT.json", type=click.Path(path_type=Path))
@click.option(
    "-o", "--output", "file", metavar="FILE", type=click.Path(path_type=Path), help=".csv, .json or .gltf to write."
)
@click.option("--from", "table", metavar="FILE", type=click.Path(path_type=Path), help="A path to fly along.")
@click.option("--camera", default="", help="Which one of FILE, where it is glTF and holds several.")
@trust_option
@sentences
def path_(document: Path, file: Path | None, table: Path | None, camera: str, trust: bool) -> None:
    """Write the camera of every frame to a file, or print the shot that flies as a file says."""
    if (file is None) == (table is None):
        raise Mistake("give -o FILE to write the path of the camera, or --from FILE to fly along one")
    shot = _shot(document)
    if table is not None:
        from vexel.core.document.shot import read_shot_document
        from vexel.crew.limits import capture_limits
        from vexel.crew.stage_process import StageProcess
        from vexel.interchange.imported_path import rig_of_file
        from vexel.store.shots import spelled

        told = shot.model_dump(mode="json")
        stage = StageProcess(capture_limits())
        try:
            told["camera"]["rig"] = rig_of_file(shot, table, stage.way, camera)
        finally:
            stage.end()
        click.echo(spelled(read_shot_document(told, document.name)), nl=False)
        return
    assert file is not None
    from vexel.crew.code_gate import gate_of
    from vexel.crew.limits import capture_limits
    from vexel.crew.planner import NothingKept, Planner
    from vexel.crew.stage_process import StageProcess
    from vexel.interchange.camera_file import camera_file_text
    from vexel.store.disk.scratch import scratch_folder
    from vexel.store.disk.write import write_whole

    stage = StageProcess(capture_limits())
    try:
        with scratch_folder("copies") as copies:
            planner = Planner(copies, stage, NothingKept(), gate_of(document, trust))
            plan = planner.prepare(shot, document.absolute().parent).plan
    finally:
        stage.end()
    write_whole(file, camera_file_text(plan, file.suffix.lower()).encode())
    click.echo(f"{file}: {plan.clock.frames:,} frames")


@main.command()
def schema() -> None:
    """Print the JSON Schema of the shot document."""
    from vexel.core.document.shot import Shot

    click.echo(json.dumps(Shot.model_json_schema(), indent=2))


def _findings(shot: "Shot", document: Path) -> "list[Finding]":
    """What is off with a shot, without asking its source."""
    from vexel.core.checks.preflight import preflight
    from vexel.store.shared_clock import linked_findings

    return [*linked_findings(shot, document.absolute().parent), *preflight(shot)]


def _shot(document: Path) -> Any:
    from vexel.core.document.shot import read_shot

    try:
        return read_shot(document.read_bytes(), document.name)
    except OSError as error:
        raise Mistake(f"{document} cannot be read: {error.strerror}") from None


def _solved(typed: dict[str, str], span: "Span") -> "Answer":
    """All terms that follow from those on the command line."""
    from vexel.core.edits.set_term import read_term
    from vexel.core.time.rate import Rate
    from vexel.core.time.term_solver import solve

    rate = Rate.parse(typed["rate"]) if "rate" in typed else None
    given = dict(read_term(name, text, rate) for name, text in typed.items())
    answer = solve(given, span)
    if answer.disagreements:
        raise Mistake(f"{answer.disagreements[0].told}: leave one of them out")
    if wanting := answer.wanting("rate", "frames"):
        raise Mistake(
            f"these terms do not give the {' and the '.join(wanting)}: give a shot document, or --rate with "
            "--seconds, --frames or what else tells the length"
        )
    return answer


if __name__ == "__main__":
    main()
