"""All that decides one frame's pixels, and the key that identifies it."""

import hashlib
import json
from dataclasses import asdict, dataclass, field
from math import ceil, log10
from typing import Any

from vexel.core.document.label import Label
from vexel.core.document.passes import Pass
from vexel.core.document.picture_spec import Alpha, Format

DIGITS, MOST_DIGITS = 12, 15
"""Numbers are rounded to this many significant digits, so that the last bit of a vectorised
sine, which may differ between processors, cannot change a key; coordinates far from the origin to a few more."""


TimeInputs = dict[str, int | str]
"""The attributes of an instant on which a source depends, by name; fractions as exact text."""
_OLDER_NAMES = {"shutter_samples": "looks", "time_inputs": "seen"}
"""Names of fields within keys: those of the first version, so that captured frames are found again."""


@dataclass(frozen=True)
class SourceIdentity:
    """Which source, to the byte.

    Attributes
    ----------
    kind, main : str
        Kind of source, and its main file's name.
    digest : str
        SHA-256 over the main file and all files that it draws on.
    options : dict
        What the shot document sets of how it is read.
    """

    kind: str
    main: str
    digest: str
    options: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class CameraPose:
    """One frame's camera: lengths in the source's units, angle in degrees.

    A parallel projection has the height that its frame covers, else 0.
    The lens has the radius of its opening, 0 for one that is sharp everywhere,
    and the distance that is sharp. A shifted frame's middle
    lies right and up of the optical axis, in halves of its width and height.
    A panorama covers the ``sphere`` or ``half`` of it, for one eye or for two.
    """

    position: tuple[float, float, float]
    target: tuple[float, float, float]
    up: tuple[float, float, float]
    view_high_deg: float
    near: float
    far: float
    parallel_high: float = 0.0
    lens_radius: float = 0.0
    focus: float = 0.0
    shift: tuple[float, float] = (0.0, 0.0)
    panorama: str = ""
    eyes: str = "one"
    eye_gap: float = 0.0


@dataclass(frozen=True)
class ShutterSample:
    """One instant of a frame: the only one, or one of many while its shutter is open.

    Attributes
    ----------
    dials : dict of str to float
    time_inputs : dict of str to int or str
        The attributes of the instant on which the source depends, fractions as
        exact text. Nothing else of the time enters, so that equal frames have
        equal keys.
    camera : CameraPose or None
        None for a source that gives pictures.
    stage : dict of str to float
        Light, opacities and ends of colour maps, by the names of their drives.
    ranges : dict of str to (low, high)
        Fixed range of each coloured quantity over the whole shot.
    """

    dials: dict[str, float]
    time_inputs: TimeInputs
    camera: CameraPose | None
    stage: dict[str, float] = field(default_factory=dict)
    ranges: dict[str, tuple[float, float]] = field(default_factory=dict)


@dataclass(frozen=True)
class FrameSpec:
    """All that decides the pixels of one frame; a frame is a pure function of it.

    Attributes
    ----------
    engine : str
        Version of the code that makes pixels.
    source : SourceIdentity
    shutter_samples : tuple of ShutterSample
        One for all samples, or one for each.
    width, height, samples : int
    layout : (int, int)
        Width and height that a drawing counts in.
    render_pass, background : str
    labels : tuple of Label
        Text on the frame.
    format, alpha : str
        How its file is written.
    fade : (str, float) or None
        Another pass that is mixed in, and its share.
    backdrop : str
        What a transparent frame is composited over: a gradient, or the SHA-256 of an image.
    fonts : tuple of str
        Identities of the fonts that its labels take beside the usual one.
    """

    engine: str
    source: SourceIdentity
    shutter_samples: tuple[ShutterSample, ...]
    width: int
    height: int
    samples: int
    layout: tuple[int, int]
    render_pass: Pass
    background: str
    labels: tuple[Label, ...] = ()
    format: Format = "png"
    alpha: Alpha = "straight"
    fade: tuple[Pass, float] | None = None
    backdrop: str = ""
    fonts: tuple[str, ...] = ()

    @property
    def key(self) -> str:
        """SHA-256 of the spec, 64 hexadecimal digits."""
        return digest_of(asdict(self, dict_factory=_named_as_ever))


def _named_as_ever(items: list[tuple[str, Any]]) -> dict[str, Any]:
    return {_OLDER_NAMES.get(name, name): value for name, value in items}


def digest_of(value: Any) -> str:
    """SHA-256 of a JSON-like value in one canonical spelling."""
    text = json.dumps(value, sort_keys=True, separators=(",", ":"), ensure_ascii=True)
    return hashlib.sha256(text.encode()).hexdigest()


def steady(value: float, scale: float | None = None) -> float:
    """A number as it enters a spec: rounded, and never minus zero.

    Parameters
    ----------
    value : float
    scale : float, optional
        Length beside which the value is seen, above 0: a coordinate far from the
        origin keeps the digits that tell at that length.
    """
    more = 0 if scale is None or value == 0 else ceil(log10(abs(value) / scale))
    return float(f"{value:.{min(max(DIGITS + more, DIGITS), MOST_DIGITS)}g}") + 0.0
