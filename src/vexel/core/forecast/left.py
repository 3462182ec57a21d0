"""Which frames of a capture are yet to be made."""

from collections.abc import Collection, Sequence

from vexel.core.evaluate.plan import Plan

MOST_COUNTED = 5_000
"""Of shots with more pictures it is not worked out which of them are there already: a key takes about a millisecond."""


def picture_keys(plan: Plan) -> list[str] | None:
    """The key of each picture of a take; None where there are too many to be worked out."""
    if plan.shot.pictures > MOST_COUNTED:
        return None
    return [plan.picture_spec(number).key for number in range(plan.shot.pictures)]


def left_frames(keys: Sequence[str], camera_passes: int, there: Collection[str]) -> list[int]:
    """Frames of which a picture is not there, without those that are equal to an earlier frame.

    Parameters
    ----------
    keys : sequence of str
        Of all pictures, frame by frame.
    camera_passes : int
        Pictures of a frame.
    there : collection of str
        Keys of pictures that are there.
    """
    known, found = set(there), []
    for frame, begin in enumerate(range(0, len(keys), camera_passes)):
        own = keys[begin : begin + camera_passes]
        if not known.issuperset(own):
            found.append(frame)
            known.update(own)
    return found
