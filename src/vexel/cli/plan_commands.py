"""Commands that calculate without making a frame."""

import json
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING

import click

from vexel.cli.terminal import print_findings, print_json
from vexel.core.errors import Mistake
from vexel.core.wording import counted

if TYPE_CHECKING:
    from vexel.core.document.shot import Shot
    from vexel.core.finding import Finding
    from vexel.core.forecast.foretold import Foretold
    from vexel.core.time.clock import Span
    from vexel.core.time.term_solver import Answer


from vexel.cli.main import findings_of, main, sentences, shot_at
from vexel.cli.options import json_option, trust_option
from vexel.cli.probing import ProbeOptions, print_foretold, probed
from vexel.cli.reel_command import is_reel, print_reel_plan


@main.command("plan", epilog="Example: vexel plan --rate 24 --seconds 12.5")
@click.argument("document", metavar="[SHOT.json]", required=False, type=click.Path(path_type=Path))
@click.option("--rate", help="Frames per second: 24, 12.5, 30000/1001 or 29.97.")
@click.option("--seconds", help="Length: 15, 12s, 1:30, 450f or timecode.")
@click.option("--frames", help="Length in frames.")
@click.option("--degrees", help="Degrees the camera turns per frame.")
@click.option("--turns", help="Full turns over the shot.")
@click.option("--turn-seconds", help="Seconds per turn.")
@click.option("--pace", help="Seconds of the source per second of video.")
@click.option("--covers", help="Seconds of the source shown.")
@click.option("--repeats", help="Play count of a loop.")
@click.option(
    "--span",
    type=click.Choice(["loop", "ends"]),
    default="loop",
    show_default=True,
    help="Whether the last frame meets the first.",
)
@click.option("--probe", is_flag=True, help="Make some frames, and foretell time, bytes, memory and file size.")
@click.option(
    "--to",
    "folder",
    metavar="DIR",
    type=click.Path(path_type=Path),
    help="Folder of the take for the frames of --probe (default: next to the shot, with its name).",
)
@click.option("--workers", type=click.IntRange(1, 256), help="Processes of --probe; one per core by default.")
@json_option
@trust_option
@sentences
def plan_(
    document: Path | None,
    span: "Span",
    probe: bool,
    folder: Path | None,
    workers: int | None,
    as_json: bool,
    trust: bool,
    **typed: str | None,
) -> None:
    """Print frame count, duration and steps of a shot, or of any terms that suffice."""
    from pydantic import ValidationError

    from vexel.core.checks.shot_timing import shot_timing
    from vexel.core.document.clock_spec import ClockSpec
    from vexel.core.edits.set_term import terms_of
    from vexel.core.sweep.variants import chosen, said_size
    from vexel.core.time.rate import Rate
    from vexel.core.validation_message import validation_message

    given = {name: text for name, text in typed.items() if text is not None}
    terms: dict[str, str] = {}
    said, variants = None, 0
    _refuse_probe(probe, document, bool(folder or workers))
    if document is not None:
        if given:
            raise Mistake("give either a shot document or --rate with a length, not both")
        if is_reel(document):
            print_reel_plan(document, as_json)
            return
        shot = shot_at(document)
        figures = shot_timing(shot.clock, shot.orbit, shot.camera)
        findings = findings_of(shot, document)
        terms = {term.name: term.value for term in terms_of(shot)}
        reasons = list(figures.reasons)
        if shot.sweep is not None:
            variants = len(chosen(shot.sweep))
            reasons.append(said_size(shot, variants))
        if probe:
            folder = folder or document.with_suffix(".take")
            said = probed(shot, document, ProbeOptions(folder, workers, trust))
            findings += _room(shot, folder, said, variants)
    else:
        answer = _solved(given, span)
        rate, frames = Rate(answer.values["rate"]), int(answer.values["frames"])
        try:
            clock = ClockSpec(rate=str(rate), span=span, frames=frames)
        except ValidationError as error:
            raise Mistake(validation_message(error, ClockSpec)) from None
        figures = shot_timing(clock)
        findings = []
        terms = {name: str(value) for name, value in answer.values.items()}
        reasons = [*answer.reasons.values(), *figures.reasons[1:]]
    if as_json:
        figures_and_findings = asdict(figures) | {"terms": terms, "findings": [asdict(f) for f in findings]}
        if said is not None:
            figures_and_findings["foretold"] = asdict(said) | {"folder": str(folder)}
        print_json(figures_and_findings)
        return
    click.echo(f"{counted(figures.frames, 'frame')}, {figures.seconds_label}, {figures.playback_label}")
    for reason in reasons:
        click.echo(f"  {reason}")
    print_findings(findings)
    if said is not None and folder is not None:
        print_foretold(said, folder, variants > 0)


# The command's name in older versions, for scripts.
main.add_command(click.Command("reckon", params=plan_.params, callback=plan_.callback, hidden=True))


@main.command(epilog="Example: vexel schema > shot.schema.json")
@click.option("--reel", is_flag=True, help="Print the schema of the reel document.")
def schema(reel: bool) -> None:
    """Print the JSON Schema of the shot document."""
    from vexel.core.document.shot import Shot
    from vexel.core.reel.reel_spec import Reel

    click.echo(json.dumps((Reel if reel else Shot).model_json_schema(), indent=2))


def _room(shot: "Shot", folder: Path, said: "Foretold", variants: int) -> "list[Finding]":
    """A finding where the disk has no room for what was foretold."""
    from vexel.core.forecast.estimate import room_findings
    from vexel.core.sweep.variants import pictures_of
    from vexel.disk.room import room_of

    room, times = room_of(folder), pictures_of(shot, variants) / shot.pictures if variants else 1.0
    return [*room_findings(shot, round(said.bytes.high * times), room.free, room.keep)]


def _refuse_probe(probe: bool, document: Path | None, has_options: bool) -> None:
    """Refuse a probe of anything but a shot, and the options of a probe without one."""
    if probe and document is None:
        raise Mistake("--probe makes frames of a shot: give its document")
    if probe and document is not None and is_reel(document):
        raise Mistake(f"--probe makes frames of a shot, and {document.name} is a reel: probe its shots")
    if has_options and not probe:
        raise Mistake("--to and --workers belong to --probe: add it, or leave them out")


def _solved(typed: dict[str, str], span: "Span") -> "Answer":
    """All terms that follow from those on the command line."""
    from vexel.core.edits.set_term import read_term
    from vexel.core.time.rate import Rate
    from vexel.core.time.term_solver import solve

    rate = Rate.parse(typed["rate"]) if "rate" in typed else None
    given = dict(read_term(name, text, rate) for name, text in typed.items())
    answer = solve(given, span)
    if answer.disagreements:
        raise Mistake(f"{answer.disagreements[0].sentence}: leave one of them out")
    if wanting := answer.wanting("rate", "frames"):
        raise Mistake(
            f"these terms do not give the {' and the '.join(wanting)}: give a shot document, or --rate with "
            "--seconds, --frames or another term that sets the length"
        )
    return answer
