"""Options that several commands share."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

import click

Command = Callable[..., Any]


def together(*options: Callable[[Command], Command]) -> Callable[[Command], Command]:
    """Several options as one decorator, in the order of the help text."""

    def decorate(command: Command) -> Command:
        for option in reversed(options):
            command = option(command)
        return command

    return decorate


json_option = click.option("--json", "as_json", is_flag=True, help="Print one JSON object.")
overwrite_option = click.option("--overwrite", is_flag=True, help="Overwrite existing files.")
trust_option = click.option("--trust", is_flag=True, help="Run the code of a project you received without asking.")

draft_option = together(
    click.option("--draft", is_flag=True, help="Small and quick: at most 480 pixels long, one sample."),
    # Its older name, for scripts.
    click.option("--rough", is_flag=True, hidden=True),
)

keep_free_option = click.option(
    "--keep-free",
    "keep_free",
    metavar="SIZE",
    default="",
    help="Pause while less than this is free on the disk, such as 5GB; VEXEL_KEEP_FREE_MB, or 1GB, by default.",
)

run_options = together(
    click.option(
        "--frame-seconds",
        type=click.FloatRange(0.001, 86_400),
        help="Limit of time for one frame; VEXEL_FRAME_SECONDS, or 600, by default.",
    ),
    click.option(
        "--tries", type=click.IntRange(1, 20), default=1, show_default=True, help="How often a failing frame is tried."
    ),
    keep_free_option,
)

workers_options = together(
    click.option("--workers", type=click.IntRange(1, 256), help="Processes; one per core by default."),
    click.option("--scheduler", default="", metavar="ADDRESS", help="A running Dask scheduler in place of --workers."),
)

recipe_options = together(
    click.option(
        "--recipe",
        "names",
        metavar="NAME",
        multiple=True,
        help="Recipe for all outputs, or one per output; see vexel recipes. By default it follows from the extension.",
    ),
    click.option("--recipe-file", type=click.Path(path_type=Path), help="A custom recipe, as JSON."),
    click.option("--max-size", metavar="SIZE", default="", help="Maximum file size, such as 8MB."),
    click.option("--size", metavar="WxH", default="", help="Pixels: 1280x720, 1280x or x720. The frames' by default."),
    click.option(
        "--fit",
        type=click.Choice(["contain", "cover", "none"]),
        help="How frames of another shape fill --size: with bars, cropped, or not scaled. The recipe's by default.",
    ),
    click.option("--enlarge", is_flag=True, help="Enlarge frames that are smaller than --size."),
    click.option("--frames", default="", help="A range, such as 24-95 or 24-. All by default."),
)
