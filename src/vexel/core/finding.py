"""What preflight says: findings by their names, each with its fixes."""

from dataclasses import dataclass, field
from typing import Any, Literal

FindingName = Literal[
    # The frames of a take.
    "banding", "edge-fringe", "empty-frame", "flicker", "frame-out-of-line", "frozen", "highlights-clipped", "jump",
    "noise-differs", "colours-drifted", "seam-open",
    # The clock.
    "choppy", "clock-differs", "clock-unlinked", "too-few-shutter-samples", "gif-rate", "last-repeats-first",
    "length-by-rate", "length-not-whole", "long-holds", "odd-rate", "one-too-many",
    # Where a loop does not close.
    "path-does-not-close", "lane-does-not-close", "turn-does-not-close", "views-do-not-close",
    # Lanes.
    "eased-loop", "key-outside", "lane-cut-off", "motion-ends-early",
    # The camera.
    "camera-close-to-surface", "camera-flips", "camera-inside", "camera-jerks", "camera-through-surface", "pan-strobes",
    "coarse-coordinates", "panorama-shape", "panorama-soft", "panorama-strains", "subject-cut-off",
    "transition-too-fast", "walk-through-subject",
    # Picture and file.
    "alpha-lost", "disk-too-small", "odd-size", "photo-enlarged", "text-smaller", "text-without-font",
    # The reel.
    "cut-jumps", "flashes", "frame-doubled", "frames-do-not-fit", "framing-unknown",
    "image-missing", "item-enlarged", "item-missing",
    "item-odd", "transition-too-long", "label-unknown", "looks-differ", "motion-runs-out", "motion-not-matched",
    "reel-within",
    "sound-clips", "sound-ends-early", "sound-too-long", "sound-left-out", "sound-missing", "take-outdated",
    "title-too-short",
    # The source.
    "animation-length-differs", "non-deterministic-source", "dropped-or-doubled", "odd-source", "on-its-side",
    "other-length", "reads-elsewhere",
    "uneven-pace",
]  # fmt: skip
"""Names of all findings; each has its paragraph in docs/guides/findings.md under this name."""
SEAMS: frozenset[FindingName] = frozenset(
    {"path-does-not-close", "lane-does-not-close", "turn-does-not-close", "views-do-not-close"}
)
"""Findings that say that a loop does not close."""


@dataclass(frozen=True)
class Fix:
    """What one press does.

    Attributes
    ----------
    label : str
    patch : dict
        A merge patch (RFC 7396) of the shot document.
    place : str
        Where else it is done: the storage of the project; empty for in the document.
    command : str
        A command line that does it.
    """

    label: str
    patch: dict[str, Any] = field(default_factory=dict)
    place: Literal["", "storage"] = ""
    command: str = ""


@dataclass(frozen=True)
class Finding:
    """A problem: what it is, what it would cost, and how to fix it. Rules use its name, never its sentences."""

    name: FindingName
    what: str
    cost: str
    fixes: tuple[Fix, ...] = field(default=())
