"""A shot that takes its clock from another shot, so that two captures of one motion have the same count."""

from vexel.core.document.shot import Shot
from vexel.core.edits.share_clock import share_clock
from vexel.core.finding import Finding, Fix
from vexel.core.time.clock import decimal
from vexel.core.wording import counted


def clock_differs(shot: Shot, other: Shot) -> list[Finding]:
    """Whether a shot has another clock than the one that it is to have.

    Parameters
    ----------
    shot : Shot
        Names `other` in ``clock.like``.
    other : Shot
    """
    mine, its, patch = shot.clock.exact, other.clock.exact, share_clock(shot, other)
    if patch is None:
        return []
    if mine.frames != its.frames:
        what = f"{counted(mine.frames, 'frame')}, but {other.title} has {its.frames:,}"
    elif mine.playback != its.playback:
        what = f"{mine.playback.label}, but {other.title} has {its.playback.label}"
    else:
        what = f"The frames are at other instants than those of {other.title}"
    label = f"Use its clock, {counted(its.frames, 'frame')} in {decimal(its.seconds)} s"
    return [Finding("clock-differs", what, "Side by side, the two will not stay in sync.", (Fix(label, patch),))]
