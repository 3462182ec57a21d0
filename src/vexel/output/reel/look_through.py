"""What only the pictures of a reel tell: flashes, cuts on which nothing changes, and jumps between like items."""

from collections.abc import Callable, Iterator

import numpy as np

from vexel.core.finding import Finding, Mend
from vexel.core.reel.playing import Playing
from vexel.output.reel.reel_footage import OpenReel, still_of
from vexel.output.reel.watcher import Watcher

SIDE = 192
"""Long side at which pictures are looked through."""
JUMP = 12.0
"""Codes of 255 by which pictures of like items may differ on average where they meet."""


def picture_findings(
    reel: OpenReel,
    on_progress: Callable[[int, int], None] = lambda done, of: None,
    stopped: Callable[[], bool] = lambda: False,
) -> list[Finding]:
    """Look a reel through, at a small size."""
    watcher = Watcher(reel.plan.rate)
    count = reel.plan.frames
    for number in range(count):
        if stopped():
            return []
        watcher.see(number, still_of(reel, number, SIDE))
        on_progress(number + 1, count)
    return [*watcher.findings(), *_of_cuts(reel)]


def _of_cuts(reel: OpenReel) -> Iterator[Finding]:
    plan = reel.plan
    for number, overlap in enumerate(plan.row.overlaps if plan.row else (), 1):
        assert plan.row is not None
        cut, (one, other) = plan.starts[number], plan.row.tracks[number - 1 : number + 1]
        if overlap or not 0 < cut < plan.frames or not (isinstance(one, Playing) and isinstance(other, Playing)):
            continue
        names = plan.names[number - 1 : number + 1]
        before, after = (still_of(reel, at, SIDE).astype(np.int16) for at in (cut - 1, cut))
        apart = np.abs(before - after)
        if not apart.any() and plan.node(cut - 1) != plan.node(cut):
            later = {"first": other.item.first + 1}
            items = [item | later if n == number else item for n, item in enumerate(plan.item_documents)]
            yield Finding(
                "frame-doubled",
                f"The last picture of {names[0]} and the first of {names[1]} are the same",
                "Motion stops for a frame where they meet.",
                (Mend("Begin one frame later", {"items": items}),) if other.item.order == "forward" else (),
            )
        elif _are_like(one, other) and float(apart.mean()) > JUMP:
            yield Finding(
                "cut-jumps",
                f"{names[0]} and {names[1]} show one source, and where they meet the pictures differ by "
                f"{apart.mean():.0f} of 255 on average",
                "The cut is seen as a jump; a joint of some frames makes it soft.",
            )


def _are_like(one: Playing, other: Playing) -> bool:
    """Whether two items show one source in one pass by one camera, so that a cut between them is meant to be smooth."""
    names = (one.item.ref.camera, one.item.ref.render_pass), (other.item.ref.camera, other.item.ref.render_pass)
    return bool(one.facts.subject) and one.facts.subject == other.facts.subject and names[0] == names[1]
