"""How much time and memory a person's code may take, and how many processes run it."""

import os
from dataclasses import dataclass


@dataclass(frozen=True)
class Limits:
    """Limits of one stage process.

    Attributes
    ----------
    seconds : float
        For one frame, or one question to the source.
    memory_mb : int
        What the source may take beyond the stage's own memory.
    seconds_name : str
        The setting that gives `seconds`.
    """

    seconds: float
    memory_mb: int
    seconds_name: str = "VEXEL_FRAME_SECONDS"


def capture_limits() -> Limits:
    """For frames of a run: VEXEL_FRAME_SECONDS (600) and VEXEL_MEMORY_MB (4096)."""
    return Limits(_number("VEXEL_FRAME_SECONDS", 600), int(_number("VEXEL_MEMORY_MB", 4096)))


def view_limits() -> Limits:
    """For the viewfinder, where a person waits: VEXEL_VIEW_SECONDS (20)."""
    return Limits(_number("VEXEL_VIEW_SECONDS", 20), int(_number("VEXEL_MEMORY_MB", 4096)), "VEXEL_VIEW_SECONDS")


def workers_here() -> int:
    """Stage processes of a run: VEXEL_WORKERS, or one for each core."""
    return int(_number("VEXEL_WORKERS", os.cpu_count() or 1))


def _number(name: str, default: float) -> float:
    try:
        value = float(os.environ.get(name, default))
    except ValueError:
        return default
    return value if value > 0 else default
