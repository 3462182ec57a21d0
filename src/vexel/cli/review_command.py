"""The command that looks through the frames of a take."""

import csv
from dataclasses import asdict
from io import StringIO
from pathlib import Path
from typing import TYPE_CHECKING

import click

from vexel.cli.main import main, sentences, write_text
from vexel.cli.options import json_option, overwrite_option
from vexel.cli.terminal import ProgressLine, end_line, print_json
from vexel.core.errors import Mistake
from vexel.core.wording import counted

if TYPE_CHECKING:
    from vexel.core.review.figures import Measured
    from vexel.output.reviewing.measure import Pictures


@main.command("review", epilog="Example: vexel review take --csv figures.csv")
@click.argument("place", metavar="PATH", type=click.Path(path_type=Path))
@click.option("--camera", default="", help="Camera of the take; its first one by default.")
@click.option("--pass", "render_pass", default="", help="Pass of the take; its first one by default.")
@click.option("--loop", is_flag=True, help="The first frame follows the last one; of a take its shot says that.")
@click.option("--csv", "table", metavar="FILE", type=click.Path(path_type=Path), help="Write the figures as a table.")
@overwrite_option
@json_option
@sentences
def review_(
    place: Path, camera: str, render_pass: str, loop: bool, table: Path | None, overwrite: bool, as_json: bool
) -> None:
    """Measure all frames of a take, a video or a folder of stills, and list what is wrong with them.

    Jumps, flicker, freezes, an open seam, empty frames, clipped highlights, banding, and fringes at transparent edges.
    """
    from vexel.core.review.findings import seen_in, usual_step
    from vexel.output.reviewing.file_frames import FileFrames
    from vexel.output.reviewing.measure import measured, reviewed

    planned_equal: list[bool] = []
    footage: Pictures
    is_light = False
    if place.is_file():
        if camera or render_pass:
            raise Mistake(f"{place} is a file, which has no cameras or passes: leave --camera and --pass out")
        footage = FileFrames.of(place)
    else:
        footage, planned_equal = reviewed(place, camera, render_pass)
        if footage.is_data:
            raise Mistake(f"the pass {render_pass or 'of this take'} holds numbers and no light: review another pass")
        is_light, loop = footage.files[0].suffix.lower() == ".exr", loop or footage.clock.span == "loop"
    found = measured(footage, ProgressLine("frames").steps)
    end_line()
    seen = seen_in(found, is_light=is_light, loops=loop, planned_equal=planned_equal)
    if table is not None:
        write_text(table, _table(found), overwrite)
    if as_json:
        told = [asdict(one.finding) | {"frames": list(one.frames)} for one in seen]
        print_json({"count": footage.count, "usual_step": usual_step(found), "findings": told} | asdict(found))
        return
    light = [frame.mean for frame in found.frames]
    click.echo(f"{place}: {counted(footage.count, 'frame')}")
    click.echo(f"  brightness {255 * min(light):.1f} to {255 * max(light):.1f} of 255")
    click.echo(f"  noise      {255 * max(frame.noise for frame in found.frames):.2f} of 255 at most")
    click.echo(f"  step       {255 * usual_step(found):.2f} of 255 from frame to frame, at the median")
    for one in seen:
        click.echo(f"  finding: {one.finding.what}. {one.finding.cost}")
    if not seen:
        click.echo("  No findings")
    click.echo(f"  Bands and fringes were looked for in frames {', '.join(map(str, sorted(found.closer)))} alone")
    if is_light:
        click.echo("  Light above 1 counts as 1: clipped highlights were not looked for")


def _table(found: "Measured") -> str:
    """The figures, a row for each frame."""
    text = StringIO()
    rows = csv.writer(text, lineterminator="\n")
    plain = ("mean", "low", "high", "dark", "light", "sharpness", "noise", "clear")
    channels = [f"{channel}_{what}" for what in ("mean", "low", "high") for channel in ("red", "green", "blue")]
    rows.writerow(["frame", *plain, *channels, "step_mean", "step_most", "changed"])
    for number, (frame, step) in enumerate(zip(found.frames, found.steps, strict=True)):
        values = [getattr(frame, name) for name in plain]
        values += [*frame.channel_means, *frame.channel_lows, *frame.channel_highs]
        rows.writerow([number, *(f"{value:.6g}" for value in [*values, step.mean, step.most, step.changed])])
    return text.getvalue()
