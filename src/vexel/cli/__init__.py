"""The command line."""

from vexel.cli import capture, files, plan, serve  # noqa: F401  # their commands join the group
from vexel.cli.main import main

__all__ = ["main"]
