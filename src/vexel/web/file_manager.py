"""The file manager of this machine."""

import os
import shutil
import sys
from pathlib import Path

import click

from vexel.core.errors import Missing, Mistake


def has_file_manager() -> bool:
    """Whether a folder can be shown here: not on a machine without a screen."""
    return sys.platform in ("darwin", "win32") or (_has_screen() and shutil.which("xdg-open") is not None)


def show_in_folder(place: Path) -> None:
    """Open the folder of a file, with the file selected where the file manager can.

    Raises
    ------
    Missing
        When the file is gone.
    Mistake
        When there is no file manager.
    """
    if not place.exists():
        raise Missing(f"{place} is no longer there: make the file again")
    if not has_file_manager() or click.launch(str(place), locate=True) != 0:
        raise Mistake(f"no file manager could be opened on this machine: the file is {place}")


def _has_screen() -> bool:
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))
