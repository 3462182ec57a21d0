"""A shot at another rate: the same motion over the same time, sampled at other frames."""

from fractions import Fraction
from typing import Any

from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.time.clock import Clock, nearest_whole
from vexel.core.time.rate import Rate


def at_rate(shot: Shot, text: str) -> dict[str, Any]:
    """The merge patch that makes a shot's video play at another rate without dropping or doubling a frame.

    Parameters
    ----------
    shot : Shot
    text : str
        Rate at which its frames are played.

    Raises
    ------
    Mistake
        When the shot shows some of its frames only, which are counted in frames of its rate.
    """
    clock, exact = shot.clock, shot.clock.exact
    if clock.first or clock.last is not None or clock.every > 1:
        raise Mistake(f"{shot.title} shows some of its frames only: set its rate on the Bench, and choose frames again")
    wanted = Rate.parse(text)
    rate = Rate(wanted.fps * exact.rate.fps / exact.playback.fps)
    more = rate.fps / exact.rate.fps
    patch: dict[str, Any] = {
        "rate": text.strip() if rate.fps == wanted.fps else str(rate.fps),
        "hold_start": nearest_whole(clock.hold_start * more),
        "hold_end": nearest_whole(clock.hold_end * more),
        "like": None,
    }
    if clock.frames is not None and not shot.camera.rig.traits.times_shot:
        patch["frames"] = Clock.frames_lasting(rate, Fraction(clock.frames) / exact.rate.fps)
    if clock.retimed_from is not None:
        patch["retimed_from"] = max(nearest_whole(clock.retimed_from * more), 1)
    return {"clock": patch}
