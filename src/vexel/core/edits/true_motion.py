"""A shot in other steps of the same motion, so that instants between its frames are captured for real."""

from collections import Counter
from collections.abc import Sequence
from fractions import Fraction
from itertools import pairwise
from typing import Any

from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.time.shutter import WIDEST


def true_motion(shot: Shot, motion: int, numbers: Sequence[int]) -> dict[str, Any]:
    """The merge patch that gives a shot's motion `motion` frames, of which those of `numbers` are wanted.

    An open shutter keeps its width in frames of the video, which may be several steps of the motion apart:
    blur follows the new speed.

    Raises
    ------
    Mistake
        When the rig times the shot, or the shutter would be open for too many steps.
    """
    clock = shot.clock.exact
    if shot.camera.rig.traits.times_shot:
        raise Mistake(f"{shot.title} goes from view to view: set its dwells and travels, and capture it again")
    patch: dict[str, Any] = {"frames": motion, "seconds": None, "like": None}
    own = clock.own or clock.motion
    patch["retimed_from"] = None if motion == own else own
    if clock.shutter.is_open:
        opening = clock.shutter.opening * _gap(numbers)
        if opening > WIDEST:
            raise Mistake(
                f"the shutter of {shot.title} would be open for {float(opening):.4g} steps of its motion, at most "
                f"{WIDEST} are taken: choose a length of the reel that divides into the shot's frames more evenly"
            )
        patch["shutter"] = str(opening)
    return {"clock": patch}


def _gap(numbers: Sequence[int]) -> Fraction:
    """Steps from one wanted frame to the next, as a rule."""
    gaps = Counter(b - a for a, b in pairwise(numbers))
    return Fraction(gaps.most_common(1)[0][0]) if gaps else Fraction(1)
