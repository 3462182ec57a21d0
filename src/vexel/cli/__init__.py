"""The command line."""

from vexel.cli import capture_commands, file_commands, plan_commands, serve_commands  # noqa: F401  # their commands join the group
from vexel.cli.main import main

__all__ = ["main"]
