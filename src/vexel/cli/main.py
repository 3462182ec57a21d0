"""The command line: its group, and what its commands share."""

import atexit
import gc
import os
import sys
from collections.abc import Callable
from functools import wraps
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from vexel.core.errors import Mistake, VexelError

if TYPE_CHECKING:
    from vexel.core.document.shot import Shot
    from vexel.core.finding import Finding
    from vexel.core.recipes.recipe import Recipe


DEFAULT_HOME = Path(os.environ.get("VEXEL_HOME", "~/vexel")).expanduser()


def sentences(command: Callable[..., None]) -> Callable[..., None]:
    """Report a mistake of the caller in one sentence, with exit status 2, and a failure with 1."""

    @wraps(command)
    def said(*args: Any, **kwargs: Any) -> None:
        try:
            command(*args, **kwargs)
        except VexelError as error:
            click.echo(f"vexel: {error}", err=True)
            sys.exit(2 if isinstance(error, Mistake) else 1)
        except OSError as error:
            if isinstance(error, BrokenPipeError):
                # The reader of the output closed it.
                os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
                sys.exit(1)
            from vexel.disk.disk_errors import os_sentence

            click.echo(f"vexel: {os_sentence(error)}", err=True)
            sys.exit(1)
        except KeyboardInterrupt:
            click.echo("vexel: stopped", err=True)
            sys.exit(1)
        except Exception as error:
            # The libraries of a database are not loaded to name its errors.
            from vexel.disk.disk_errors import disk_trouble

            trouble = disk_trouble(error, Path.cwd())
            if not trouble:
                raise
            click.echo(f"vexel: {trouble}", err=True)
            sys.exit(1)

    return said


trust_option = click.option("--trust", is_flag=True, help="Run the code of a project you received without asking.")


@click.group(context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(package_name="vexel")
def main() -> None:
    """Capture frames at fixed time steps and encode them to video."""
    # Modules make many thousands of objects that stay: looked through less often, commands start 6 per cent sooner.
    gc.set_threshold(50_000)
    # What is thrown away at the end as a whole need not be searched for what could be: a tenth of a second.
    atexit.register(gc.freeze)


def findings_of(shot: "Shot", document: Path) -> "list[Finding]":
    """What is off with a shot, without asking its source."""
    from vexel.core.checks.preflight import preflight
    from vexel.store.documents.shared_clock import linked_findings

    return [*linked_findings(shot, document.absolute().parent), *preflight(shot)]


def shot_at(document: Path) -> Any:
    """The shot of a document.

    Raises
    ------
    Mistake
        When it cannot be read, or is wrong.
    """
    from vexel.core.document.shot import read_shot

    try:
        return read_shot(document.read_bytes(), document.name)
    except OSError as error:
        raise Mistake(f"{document} cannot be read: {error.strerror}") from None


def write_text(file: Path, text: str, overwrite: bool) -> None:
    """Write a text to a file that the caller named.

    Raises
    ------
    Mistake
        When it is there, and is not to be overwritten.
    Failure
        When it cannot be written.
    """
    from vexel.core.errors import Failure
    from vexel.disk.claim import claimed
    from vexel.disk.write import write_whole

    try:
        with claimed([file], replace=overwrite):
            write_whole(file, text.encode(), replace=overwrite)
    except OSError as error:
        raise Failure(f"{file} cannot be written: {error.strerror or error}") from None


def refuse_folder(recipe: "Recipe") -> None:
    """Refuse a recipe that makes a folder where a file is wanted."""
    if recipe.is_folder:
        raise Mistake(f"recipe {recipe.name} makes no file: vexel capture --to DIR lays numbered frames into a folder")
