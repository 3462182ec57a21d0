"""Limits of time, memory and processes for user code."""

import os
from dataclasses import dataclass, replace


@dataclass(frozen=True)
class Limits:
    """Limits of one stage process.

    Attributes
    ----------
    seconds : float
        For one frame, or one question to the source.
    memory_mb : int
        What the source may take beyond the stage's own memory.
    seconds_name, memory_name : str
        The settings that give them.
    """

    seconds: float
    memory_mb: int
    seconds_name: str = "VEXEL_FRAME_SECONDS"
    memory_name: str = "VEXEL_MEMORY_MB"


def capture_limits(frame_seconds: float | None = None) -> Limits:
    """For frames of a run: VEXEL_FRAME_SECONDS (600) and VEXEL_MEMORY_MB (4096).

    Parameters
    ----------
    frame_seconds : float, optional
        A limit of one run, in place of the usual one.
    """
    usual = Limits(_number("VEXEL_FRAME_SECONDS", 600), int(_number("VEXEL_MEMORY_MB", 4096)))
    if frame_seconds is None:
        return usual
    return replace(usual, seconds=frame_seconds, seconds_name="the run's limit of seconds for a frame")


def view_limits() -> Limits:
    """For the viewfinder, where the user waits: VEXEL_VIEW_SECONDS (20)."""
    return Limits(_number("VEXEL_VIEW_SECONDS", 20), int(_number("VEXEL_MEMORY_MB", 4096)), "VEXEL_VIEW_SECONDS")


def compile_limits() -> Limits:
    """For files that are compiled: VEXEL_COMPILE_MB, or three quarters of the machine's memory; no time limit."""
    pages, size = os.sysconf("SC_PHYS_PAGES"), os.sysconf("SC_PAGE_SIZE")
    memory = max(pages * size * 3 // 4 // 1024**2, 4096)
    return Limits(
        view_limits().seconds, int(_number("VEXEL_COMPILE_MB", memory)), "VEXEL_VIEW_SECONDS", "VEXEL_COMPILE_MB"
    )


def workers_here() -> int:
    """Stage processes of a run: VEXEL_WORKERS, or one for each core."""
    return int(_number("VEXEL_WORKERS", os.cpu_count() or 1))


def _number(name: str, default: float) -> float:
    try:
        value = float(os.environ.get(name, default))
    except ValueError:
        return default
    return value if value > 0 else default
