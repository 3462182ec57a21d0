"""What a lane may drive: its names in the document, its names for people, and its bounds."""

import re
from typing import Final

CAMERA: Final[dict[str, tuple[float, float]]] = {
    "rig:elevation": (-90, 90),
    "rig:azimuth": (-36_000, 36_000),
    "rig:distance": (0.05, 50),
    "rig:fill": (0.02, 4),
    "lens:focal": (4, 2000),
    "lens:focus": (1e-6, 1e9),
}
"""What of the camera, and from where to where.

Elevation and azimuth in degrees, the azimuth on top of the orbit's own; the
distance as a multiple of the rig's own; the focal length in mm; the focus as
a distance in the source's units.
"""
LIGHT: Final[dict[str, tuple[float, float]]] = {
    "light:azimuth": (-36_000, 36_000),
    "light:elevation": (-90, 90),
    "light:strength": (0, 10),
}
"""What of the key light: degrees from the camera, and a multiple of its usual strength."""
LIST_OFFSET = "list:offset"
"""By how many a source of slices, pictures or frames is ahead of the time; it goes round."""
_OPACITY = (0.0, 1.0)
_FORM = re.compile(r"dial:[A-Za-z_]\w*|label:[A-Za-z_]\w*|(opacity|range-low|range-high):\S.*")
_NAMES = {"lens:focal": "focal length", "lens:focus": "focus", LIST_OFFSET: "list offset"}
KINDS = (
    '"dial:NAME", "rig:elevation", "rig:azimuth", "rig:distance", "rig:fill", "lens:focal", "lens:focus", '
    '"light:azimuth", "light:elevation", "light:strength", "opacity:PART", "range-low:ARRAY", "range-high:ARRAY", '
    '"list:offset" or "label:NAME"'
)


def is_target(text: str) -> bool:
    """Whether a lane may drive this, as far as its form tells."""
    return text in CAMERA or text in LIGHT or text == LIST_OFFSET or _FORM.fullmatch(text) is not None


def may_be_in_view(drive: str) -> bool:
    """Whether a saved view may hold a value of it."""
    return drive in LIGHT or drive.partition(":")[0] in ("dial", "opacity")


def target_name(drive: str) -> str:
    """What is driven, for people."""
    kind, _, name = drive.partition(":")
    of = {"opacity": "opacity of", "range-low": "low end of", "range-high": "high end of", "light": "light's"}
    return _NAMES.get(drive) or f"{of.get(kind, '')} {name}".strip()


def bounds_of(drive: str) -> tuple[float, float] | None:
    """From where to where a lane may go; None where the source says it, or there are none."""
    if drive.startswith("opacity:"):
        return _OPACITY
    return CAMERA.get(drive) or LIGHT.get(drive)


def needs_camera(drive: str) -> bool:
    """Whether it means something only where a camera looks at parts."""
    return drive in CAMERA or drive in LIGHT or drive.startswith("opacity:")
