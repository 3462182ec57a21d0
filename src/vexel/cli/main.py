"""The command line: its group, and what its commands share."""

import atexit
import gc
import json
import os
import sys
from collections.abc import Callable, Sequence
from functools import wraps
from pathlib import Path
from typing import TYPE_CHECKING, Any, NoReturn

import click

from vexel import __version__
from vexel.cli.terminal import end_line, json_is_printed, print_json
from vexel.core.errors import Mistake, VexelError

if TYPE_CHECKING:
    from vexel.core.document.shot import Shot
    from vexel.core.finding import Finding
    from vexel.core.recipes.recipe import Recipe


DEFAULT_HOME = Path(os.environ.get("VEXEL_HOME", "~/vexel")).expanduser()


def sentences(command: Callable[..., None]) -> Callable[..., None]:
    """Report a mistake of the caller in one sentence, with exit status 2, and a failure with 1.

    With --json, standard output then holds an object with the sentence, unless one was printed before.
    """

    @wraps(command)
    def said(*args: Any, **kwargs: Any) -> None:
        def end(sentence: str, status: int) -> NoReturn:
            end_line()
            click.echo(f"vexel: {sentence}", err=True)
            if kwargs.get("as_json") and not json_is_printed():
                print_json({"error": sentence})
            sys.exit(status)

        try:
            command(*args, **kwargs)
        except VexelError as error:
            end(str(error), 2 if isinstance(error, Mistake) else 1)
        except OSError as error:
            if isinstance(error, BrokenPipeError):
                # The reader of the output closed it.
                os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
                sys.exit(1)
            from vexel.disk.disk_errors import os_sentence

            end(os_sentence(error), 1)
        except KeyboardInterrupt:
            end("stopped", 1)
        except Exception as error:
            # The libraries of a database are not loaded to name its errors.
            from vexel.disk.disk_errors import disk_trouble

            trouble = disk_trouble(error, Path.cwd())
            if not trouble:
                raise
            end(trouble, 1)

    return said


class Commands(click.Group):
    """The group of commands, listed with their whole descriptions."""

    def main(  # type: ignore[override]  # one signature for its two
        self, args: Sequence[str] | None = None, prog_name: str | None = None, standalone_mode: bool = True, **more: Any
    ) -> Any:
        """Run; a call that cannot be parsed is an object of JSON too, where that is asked for."""
        words = sys.argv[1:] if args is None else list(args)
        if not standalone_mode or "--json" not in words:
            return super().main(args, prog_name, standalone_mode=standalone_mode, **more)
        try:
            status = super().main(args, prog_name, standalone_mode=False, **more)
        except click.ClickException as error:
            error.show()
            click.echo(json.dumps({"error": error.format_message()}))
            status = error.exit_code
        sys.exit(status if isinstance(status, int) else 0)

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """List the commands; a description may take several lines."""
        shown = ((name, self.commands[name]) for name in self.list_commands(ctx))
        rows = [(name, command.get_short_help_str(limit=1000)) for name, command in shown if not command.hidden]
        with formatter.section("Commands"):
            formatter.write_dl(rows)


@click.group(cls=Commands, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, prog_name="vexel")
def main() -> None:
    """Capture frames at fixed time steps and encode them to video."""
    # Modules make many thousands of lasting objects: with rarer collections, commands start 6 per cent sooner.
    gc.set_threshold(50_000)
    # At the end all objects go at once, so that a last collection would only cost a tenth of a second.
    atexit.register(gc.freeze)


def findings_of(shot: "Shot", document: Path) -> "list[Finding]":
    """The findings of a shot that do not need its source."""
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
        When it exists, and `overwrite` is not set.
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
        raise Mistake(f"recipe {recipe.name} makes no file: vexel capture --to DIR writes numbered frames to a folder")
