"""All that decides one frame's pixels, and the key that identifies it."""

import hashlib
import json
from dataclasses import asdict, dataclass
from typing import Any

DIGITS = 12
"""Numbers are rounded to this many significant digits, so that the last bit of a vectorised
sine, which may differ between processors, cannot change a key."""


@dataclass(frozen=True)
class SourceIdentity:
    """Which source, to the byte.

    Attributes
    ----------
    kind, main : str
        Kind of source, and its main file's name.
    digest : str
        SHA-256 over the main file and all files that it draws on.
    up : str
        ``auto``, ``y`` or ``z``: the source's axis that points up.
    """

    kind: str
    main: str
    digest: str
    up: str = "auto"


@dataclass(frozen=True)
class CameraPose:
    """One frame's camera: lengths in the source's units, angle in degrees."""

    position: tuple[float, float, float]
    target: tuple[float, float, float]
    up: tuple[float, float, float]
    view_high_deg: float
    near: float
    far: float


@dataclass(frozen=True)
class InstantGiven:
    """The instant as a source's code receives it; seconds and rate as exact text."""

    frame: int
    count: int
    seconds: str
    phase: str
    rate: str


@dataclass(frozen=True)
class FrameRecipe:
    """All that decides the pixels of one frame; a frame is a pure function of it.

    Attributes
    ----------
    engine : str
        Version of the code that makes pixels.
    source : SourceIdentity
    dials : dict of str to float
    instant : InstantGiven or None
        None for a source that does not look at the time, so that its equal
        frames have equal keys.
    camera : CameraPose
    width, height, samples : int
    render_pass, background : str
    ranges : dict of str to (low, high)
        Fixed range of each coloured quantity over the whole shot.
    """

    engine: str
    source: SourceIdentity
    dials: dict[str, float]
    instant: InstantGiven | None
    camera: CameraPose
    width: int
    height: int
    samples: int
    render_pass: str
    background: str
    ranges: dict[str, tuple[float, float]]

    @property
    def key(self) -> str:
        """SHA-256 of the recipe, 64 hexadecimal digits."""
        return digest_of(asdict(self))


def digest_of(value: Any) -> str:
    """SHA-256 of a JSON-like value in one canonical spelling."""
    text = json.dumps(value, sort_keys=True, separators=(",", ":"), ensure_ascii=True)
    return hashlib.sha256(text.encode()).hexdigest()


def steady(value: float) -> float:
    """A number as it enters a recipe: rounded, and never minus zero."""
    return float(f"{value:.{DIGITS}g}") + 0.0
