"""A shot that takes the clock of another shot."""

from typing import Any, Final

from vexel.core.document.shot import Shot

TAKEN: Final = (
    "rate", "seconds", "frames", "span", "first", "last", "every", "play", "speed", "order", "hold_start", "hold_end",
    "repeats", "retimed_from", "shutter", "shutter_sits",
)  # fmt: skip
"""Fields of a clock that are copied."""


def share_clock(shot: Shot, other: Shot) -> dict[str, Any] | None:
    """The merge patch that gives a shot another one's clock; None where they are alike."""
    if shot.clock.exact == other.clock.exact:
        return None
    return {"clock": {name: getattr(other.clock, name) for name in TAKEN}}
