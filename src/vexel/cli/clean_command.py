"""The command that frees what nothing in a project uses."""

from datetime import UTC, datetime
from pathlib import Path

import click

from vexel.cli.main import DEFAULT_HOME, main, sentences
from vexel.cli.options import json_option
from vexel.cli.terminal import print_json
from vexel.core.errors import Mistake
from vexel.core.wording import counted

DAY = 86_400.0
LISTED = 20
"""Things that are listed one by one."""
KINDS = ("loose-frames", "damaged", "copies", "states", "previews")


@main.command(epilog="Example: vexel clean ~/films --older 30")
@click.argument("home", metavar="[DIR]", required=False, default=DEFAULT_HOME, type=click.Path(path_type=Path))
@click.option(
    "--kind",
    "kinds",
    type=click.Choice(KINDS),
    multiple=True,
    help="Only this kind, also several times. By default what nothing uses: loose frames, damaged frames and copies.",
)
@click.option("--older", type=click.FloatRange(0, 36_500), default=0, metavar="DAYS", help="Only what is older.")
@click.option("--larger", default="", metavar="SIZE", help="Only what has at least this size, such as 1MB.")
@click.option("--yes", is_flag=True, help="Remove it. Without this, it is only listed.")
@json_option
@sentences
def clean(home: Path, kinds: tuple[str, ...], older: float, larger: str, yes: bool, as_json: bool) -> None:
    """List what nothing in a project uses, with its bytes; remove it with --yes.

    Takes stay, and all that takes, reels, files and hand-overs need.
    """
    from vexel.core.recipes.byte_size import read_bytes, said_bytes
    from vexel.disk.home_lock import HomeLock
    from vexel.store.project import Project
    from vexel.store.storage.folder_sizes import FolderSizes
    from vexel.store.storage.unused import GROUPS, remove_unused, unused
    from vexel.store.storage.usage import groups_of

    if not (home / "shots").is_dir():
        raise Mistake(f"{home} is not a project: name a folder with shots in it")
    least = read_bytes(larger) if larger else 0
    # Nobody else may work on the project meanwhile.
    lock = HomeLock(home, "vexel clean")
    try:
        project = Project(home)
        groups = groups_of(project, FolderSizes())
        wanted = kinds or [group.name for group in GROUPS if not group.made_again]
        found = unused(project, [group.name for group in GROUPS if group.name in wanted], older * DAY, least)
        size = sum(one.bytes for one in found)
        if as_json:
            removed = remove_unused(project, found) if yes else (0, 0)
            rows = [
                {"kind": one.kind, "file": str(one.place), "bytes": one.bytes, "changed": _day(one.changed)}
                for one in found
            ]
            whole = {group.name: group.size.bytes for group in groups}
            print_json({"project": whole, "unused": rows, "bytes": size, "removed": removed[0], "freed": removed[1]})
            return
        for group in groups:
            click.echo(f"{said_bytes(group.size.bytes):>10}  {group.label}, {group.about}")
        click.echo(f"{said_bytes(sum(group.size.bytes for group in groups)):>10}  in all")
        for kind in [group for group in GROUPS if group.name in wanted]:
            of_kind = [one for one in found if one.kind == kind.name]
            click.echo(f"{kind.label}, {kind.about}: {len(of_kind):,}, {said_bytes(sum(one.bytes for one in of_kind))}")
            for one in of_kind[:LISTED]:
                click.echo(f"  {said_bytes(one.bytes):>10}  {_day(one.changed)}  {one.place.relative_to(project.home)}")
            if len(of_kind) > LISTED:
                click.echo(f"  and {len(of_kind) - LISTED:,} more")
        if not yes:
            click.echo(f"Nothing was removed. Add --yes to free {said_bytes(size)}.")
            return
        count, freed = remove_unused(project, found)
        click.echo(f"{counted(count, 'file or folder', 'files and folders')} removed, {said_bytes(freed)} freed")
    finally:
        lock.release()


def _day(seconds: float) -> str:
    return datetime.fromtimestamp(seconds, UTC).date().isoformat()
