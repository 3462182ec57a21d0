"""The command line."""

from vexel.cli import (  # noqa: F401  # importing them adds their commands to the group
    again_command,
    capture_commands,
    clean_command,
    compile_commands,
    diff_command,
    file_commands,
    plan_commands,
    reel_command,
    review_command,
    serve_commands,
    sweep_command,
)
from vexel.cli.main import main

__all__ = ["main"]
