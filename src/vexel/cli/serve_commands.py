"""Commands that start Vexel, and that trust received code."""

from pathlib import Path

import click

from vexel.cli.main import DEFAULT_HOME, main, sentences
from vexel.cli.options import trust_option
from vexel.core.errors import Failure, Mistake

port_option = click.option(
    "--port",
    type=click.IntRange(0, 65535),
    default=8137,
    show_default=True,
    help="Port on 127.0.0.1; 0 chooses a free one.",
)


@main.command(epilog="Example: vexel demo --home demo-project")
@click.option(
    "--home",
    type=click.Path(path_type=Path),
    default=DEFAULT_HOME / "demo",
    show_default="$VEXEL_HOME/demo, or ~/vexel/demo",
    help="Folder of the project.",
)
@port_option
@sentences
def demo(home: Path, port: int) -> None:
    """Start Vexel with the demo project."""
    from vexel.demo import lay_out
    from vexel.web.serve import serve_home

    serve_home(home, port, lay_out=lay_out)


@main.command(epilog="Example: vexel serve --home ~/films")
@click.option(
    "--home",
    type=click.Path(path_type=Path),
    default=DEFAULT_HOME,
    show_default="$VEXEL_HOME, or ~/vexel",
    help="Folder of the project.",
)
@port_option
@trust_option
@sentences
def serve(home: Path, port: int, trust: bool) -> None:
    """Start Vexel with a project."""
    from vexel.web.serve import serve_home

    serve_home(home, port, trusted=trust)


@main.command(epilog="Example: vexel trust ~/films/theirs")
@click.argument("home", metavar="DIR", type=click.Path(path_type=Path))
@click.option("--yes", is_flag=True, help="Trust all of it without being asked.")
@sentences
def trust(home: Path, yes: bool) -> None:
    """Review the code of a project you received, and allow it to run."""
    from vexel.store.consent import Consent
    from vexel.workers.bounds.isolation import writes_are_bounded
    from vexel.workers.code_gate import CodeGate, shots_in, unseen_of

    if not (home / "shots").is_dir():
        raise Mistake(f"{home} is not a project: name a folder with shots in it")
    gate = CodeGate(Consent(home))
    unseen = unseen_of(shots_in(home / "shots"), gate)
    if not unseen:
        click.echo(f"{home}: no code is waiting for review")
        return
    for file in sorted({file for files, _ in unseen.values() for file in files}):
        click.echo(f"{file}, {file.stat().st_size:,} bytes")
    could = "read your files" if writes_are_bounded() else "read and change your files"
    click.echo(f"This code would run with your rights: it could {could} and use the network.")
    try:
        trusted = yes or click.confirm("Have you reviewed these files, and may they run?")
    except click.Abort:
        trusted = False
    if not trusted:
        raise Failure("nothing was trusted, so nothing runs")
    gate.trust(unseen)
    click.echo(f"{home}: trusted, until one of them changes")


# The command's name in older versions, for scripts.
main.add_command(click.Command("agree", params=trust.params, callback=trust.callback, hidden=True))
