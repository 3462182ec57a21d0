"""The command that compares two takes, folders of stills, files or shots."""

import filecmp
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from vexel.cli.main import main, sentences, shot_at
from vexel.cli.options import json_option
from vexel.cli.reel_command import is_reel
from vexel.cli.terminal import ProgressLine, end_line, print_json
from vexel.core.errors import Mistake
from vexel.core.wording import counted

if TYPE_CHECKING:
    from vexel.core.review.differences import Difference
    from vexel.output.reviewing.compare import Compared

TEXTS = (".py", ".html", ".htm", ".js", ".svg", ".css", ".csv", ".json", ".txt", ".glsl")
"""Endings of sources whose lines are compared."""
MOST_BYTES = 200_000
"""Of larger sources only that they differ is reported: comparing lines takes the square of their number."""


@main.command("diff", epilog="Example: vexel diff take.v1 take.v2")
@click.argument("one", type=click.Path(path_type=Path))
@click.argument("other", type=click.Path(path_type=Path))
@click.option("--camera", default="", help="Camera of takes that have several.")
@click.option("--pass", "render_pass", default="", help="Pass of takes that have several.")
@json_option
@sentences
def diff_(one: Path, other: Path, camera: str, render_pass: str, as_json: bool) -> None:
    """Compare two takes or folders of stills: settings that differ, then pixels.

    Of two shots settings and source are compared, of two reels settings, of two videos decoded frames.

    Frames are compared in order. Exit status 0: they are equal or differ; 2: they cannot be compared.
    """
    from vexel.core.review.differences import differences

    shots = [place.is_file() and place.suffix.lower() == ".json" for place in (one, other)]
    if one.is_file() and other.is_file() and not any(shots):
        _print_files(one, other, as_json)
        return
    if shots[0] != shots[1]:
        raise Mistake("give two takes or folders of stills, or two documents")
    if shots[0] and is_reel(one) != is_reel(other):
        raise Mistake(f"{one.name} and {other.name} are a shot and a reel: give two of one kind")
    mine, theirs = (_plan(place) if shots[0] else _document(place) for place in (one, other))
    settings = differences(mine, theirs) if mine is not None and theirs is not None else None
    source = _lines(one, other) if shots[0] and not is_reel(one) else []
    if not as_json:
        # Before the pixels: they may not be comparable for just these settings.
        for line in [*_settings_lines(settings), *(f"  source  {line}" for line in source)]:
            click.echo(line)
    frames = None if shots[0] else _frames(one, other, camera, render_pass)
    if as_json:
        told = {"settings": [asdict(setting) for setting in settings or ()], "source": source}
        print_json(told | ({"frames": asdict(frames)} if frames is not None else {}))
    elif frames is not None:
        for line in _frame_lines(frames, settings == ()):
            click.echo(line)


def _print_files(one: Path, other: Path, as_json: bool) -> None:
    """Compare decoded frames of two files."""
    from vexel.output.reviewing.compare_files import compared_files

    try:
        found = compared_files(one, other, ProgressLine("frames").steps)
    finally:
        end_line()
    if as_json:
        print_json({"settings": [], "source": [], "frames": asdict(found)})
        return
    for line in _frame_lines(found, settings_equal=False):
        click.echo(line)


def _plan(place: Path) -> dict[str, Any]:
    """The document of a shot or a reel, with what it leaves unsaid."""
    from vexel.core.reel.reel_spec import read_reel

    if is_reel(place):
        return dict(read_reel(place.read_text("utf-8"), place.name).model_dump(mode="json"))
    return dict(shot_at(place).model_dump(mode="json"))


def _document(place: Path) -> dict[str, Any] | None:
    from vexel.store.folder_take import LEDGER, read_ledger

    return dict(read_ledger(place)["shot"]) if (place / LEDGER).is_file() else None


def _frames(one: Path, other: Path, camera: str, render_pass: str) -> "Compared":
    from vexel.output.reviewing.compare import compared
    from vexel.output.reviewing.measure import reviewed

    (mine, _), (theirs, _) = (reviewed(place, camera, render_pass) for place in (one, other))
    try:
        return compared(mine, theirs, ProgressLine("frames").steps)
    finally:
        end_line()


def _settings_lines(settings: "tuple[Difference, ...] | None") -> list[str]:
    if settings is None:
        return ["  settings are known of takes alone"]
    if not settings:
        return ["  the settings are equal"]
    wide = max(len(setting.path) for setting in settings)
    return [f"  {one.path:{wide}}  {one.one or 'nothing'} against {one.other or 'nothing'}" for one in settings]


def _lines(one: Path, other: Path) -> list[str]:
    """Lines in which the sources of two shots differ."""
    from vexel.core.review.differences import lines_apart
    from vexel.disk.named_place import named_place

    files = [named_place(place.absolute().parent, shot_at(place).source.file) for place in (one, other)]
    if not all(file.is_file() for file in files):
        return []
    if filecmp.cmp(files[0], files[1], shallow=False):
        return []
    if any(file.suffix.lower() not in TEXTS or file.stat().st_size > MOST_BYTES for file in files):
        return [f"{files[0].name} and {files[1].name} differ"]
    texts = [file.read_text("utf-8", "replace") for file in files]
    return [f"{files[0].name} {_said(mine)}, {files[1].name} {_said(theirs)}" for mine, theirs in lines_apart(*texts)]


def _said(lines: range) -> str:
    if not lines:
        return f"has nothing at line {lines.start}"
    return f"line {lines[0]}" if len(lines) == 1 else f"lines {lines[0]} to {lines[-1]}"


def _frame_lines(frames: "Compared", settings_equal: bool) -> list[str]:
    lines = []
    if frames.one != frames.other:
        lines.append(f"  frames  {frames.one:,} against {frames.other:,}; the first {frames.frames:,} are compared")
    if not frames.apart:
        return [*lines, f"  pixels  equal in all of {counted(frames.frames, 'frame')}"]
    worst = max(frames.apart, key=lambda at: (frames.apart[at].most, frames.apart[at].mean))
    mean = sum(step.mean for step in frames.apart.values()) / len(frames.apart)
    first = min(frames.apart)
    most = frames.apart[worst].most
    by = (
        f"{255 * mean:.2f} of 255 at the mean, and by up to {255 * most:.0f}"
        if frames.in_codes
        else f"{mean:.3g} at the mean, and by up to {most:.3g}, in the files' own numbers,"
    )
    lines.append(
        f"  pixels  {len(frames.apart):,} of {counted(frames.frames, 'frame')} differ, from frame {first} on: by "
        f"{by} in frame {worst}"
    )
    if settings_equal:
        lines.append("  The settings are equal: the sources, or the versions that made the frames, differ.")
    return lines
