"""What only the pictures of a reel tell: flashes, cuts on which nothing changes, and jumps between like items."""

from collections.abc import Callable

import numpy as np

from vexel.core.errors import Mistake
from vexel.core.finding import Finding, Fix
from vexel.core.reel.items_patch import change_item
from vexel.core.reel.played_item import Playing
from vexel.output.reel.flash_watcher import Watcher
from vexel.output.reel.open_reel import OpenReel, still_of
from vexel.output.reel.reel_sound import sound_of

SIDE = 192
"""Long side at which pictures are looked through."""
MOST_LOOKED, MOST_CUTS = 1500, 200
"""Frames that are looked at while a reel is edited, in about ten seconds, and cuts."""
JUMP = 12.0
"""Codes of 255 by which pictures of like items may differ on average where they meet."""


def picture_findings(
    reel: OpenReel,
    on_progress: Callable[[int, int], None] = lambda done, of: None,
    stopped: Callable[[], bool] = lambda: False,
) -> tuple[list[Finding], str]:
    """Look a reel through, at a small size; what is found, and what was not looked at."""
    watcher = Watcher(reel.plan.rate)
    count = reel.plan.frames
    findings, left_out = cut_findings(reel)
    findings += _sound_level(reel)
    if count > MOST_LOOKED:
        flashes = f"With {count:,} frames, flashes are looked for only when a file is made"
        return findings, f"{flashes}. {left_out}" if left_out else flashes
    for number in range(count):
        if stopped():
            return [], ""
        watcher.see(number, still_of(reel, number, SIDE))
        on_progress(number + 1, count)
    return [*watcher.findings(), *findings], left_out


def _sound_level(reel: OpenReel) -> list[Finding]:
    """Whether the sound is too loud; nothing where it cannot be heard, which other findings say."""
    sound = sound_of(reel.plan, reel.folder)
    try:
        return list(sound.level_findings(reel.plan.frames / reel.plan.rate.fps)) if sound else []
    except Mistake:
        return []


def cut_findings(reel: OpenReel) -> tuple[list[Finding], str]:
    """Look at the pictures on both sides of cuts; what is found, and what was not looked at."""
    plan = reel.plan
    overlaps = plan.sequence.overlaps if plan.sequence else ()
    cuts = [number for number, overlap in enumerate(overlaps, 1) if not overlap]
    left_out = f"Of {len(cuts):,} cuts the first {MOST_CUTS} are looked at" if len(cuts) > MOST_CUTS else ""
    found = (_of_cut(reel, number) for number in cuts[:MOST_CUTS])
    return [finding for finding in found if finding is not None], left_out


def _of_cut(reel: OpenReel, number: int) -> Finding | None:
    """What is off where an item ends and the one of this number begins."""
    plan = reel.plan
    assert plan.sequence is not None
    cut, (one, other) = plan.starts[number], plan.sequence.tracks[number - 1 : number + 1]
    if not 0 < cut < plan.frames or not (isinstance(one, Playing) and isinstance(other, Playing)):
        return None
    names = plan.names[number - 1 : number + 1]
    before, after = (still_of(reel, at, SIDE).astype(np.int16) for at in (cut - 1, cut))
    apart = np.abs(before - after)
    if not apart.any() and plan.node(cut - 1) != plan.node(cut):
        later = change_item(number, first=other.item.first + 1)
        return Finding(
            "frame-doubled",
            f"The last picture of {names[0]} and the first of {names[1]} are the same",
            "Motion stops for a frame where they meet.",
            (Fix("Begin one frame later", later),) if other.item.order == "forward" else (),
        )
    if _are_like(one, other) and float(apart.mean()) > JUMP:
        return Finding(
            "cut-jumps",
            f"{names[0]} and {names[1]} show one source, and where they meet the pictures differ by "
            f"{apart.mean():.0f} of 255 on average",
            "The cut is seen as a jump; a transition of some frames makes it soft.",
        )
    return None


def _are_like(one: Playing, other: Playing) -> bool:
    """Whether two items show one source in one pass by one camera, so that a cut between them is meant to be smooth."""
    names = (one.item.ref.camera, one.item.ref.render_pass), (other.item.ref.camera, other.item.ref.render_pass)
    return bool(one.facts.subject) and one.facts.subject == other.facts.subject and names[0] == names[1]
