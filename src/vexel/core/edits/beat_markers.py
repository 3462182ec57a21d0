"""Markers at beats, twice as many or half: which of two tempos a piece has, people judge differently too."""

from collections.abc import Sequence
from itertools import pairwise
from typing import Any, Literal

from vexel.core.errors import Mistake
from vexel.core.reel.reel_spec import MarkerSpec

Pulse = Literal["twice", "half"]


def with_pulse(markers: Sequence[MarkerSpec], pulse: Pulse) -> dict[str, Any]:
    """A patch of a reel by which the beats that were found lie twice or half as close; other markers stay.

    Raises
    ------
    Mistake
        When too few were found.
    """
    beats = sorted((marker for marker in markers if marker.found), key=lambda marker: marker.frame)
    if len(beats) < 2:
        raise Mistake("there are no beats to count otherwise: find those of a sound first")
    if pulse == "half":
        found = beats[::2]
    else:
        between = [
            one.model_copy(update={"frame": (one.frame + other.frame) // 2})
            for one, other in pairwise(beats)
            if other.frame - one.frame > 1
        ]
        found = beats + between
    kept = [marker for marker in markers if not marker.found]
    return {"markers": [one.model_dump() for one in sorted(kept + found, key=lambda marker: marker.frame)]}
