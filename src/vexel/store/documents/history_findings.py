"""Findings that only the history of a shot can tell."""

from vexel.core.checks.rate_change import length_by_rate
from vexel.core.finding import Finding
from vexel.core.time.rate import Rate
from vexel.store.documents.shots import KeptShot, ShotStore

LOOKED_BACK = 40
"""Number of revisions that are searched."""


def history_findings(shots: ShotStore, kept: KeptShot) -> list[Finding]:
    """What the last change of the rate did, if the number of frames has stayed since before it."""
    clock = kept.value.clock
    if clock.frames is None:
        return []
    rate = Rate.parse(clock.rate)
    for document in shots.earlier(kept.id, LOOKED_BACK):
        before = document["clock"]
        if before.get("frames") != clock.frames:
            return []
        then = Rate.parse(before["rate"])
        if then.fps != rate.fps:
            finding = length_by_rate(kept.value, then)
            return [finding] if finding else []
    return []
