"""What a lane may drive: one record for each target, with its name for people, its unit and its bounds."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

Bounds = tuple[float, float]
_ANGLE: Final = (-36_000.0, 36_000.0)


@dataclass(frozen=True)
class Target:
    """Something that a lane drives, or a family of such things.

    Attributes
    ----------
    drive : str
        Its name in the document; a family ends in a colon, before the name of a member.
    label : str
        The label on screen; ``{}`` is replaced by the name of one of a family.
    names : str
        What the name of one of a family is, such as ``PART``; else empty.
    unit : str
    bounds : (float, float) or None
        The range of a lane; None where the source sets it.
    usual : (float, float) or None
        Between which values a slider goes; None for `bounds`.
    camera : bool
        Whether it means something only where a camera looks at parts.
    in_view : bool
        Whether a saved view may hold a value of it.
    """

    drive: str
    label: str
    names: str = ""
    unit: str = ""
    bounds: Bounds | None = None
    usual: Bounds | None = None
    camera: bool = False
    in_view: bool = False


LIST_OFFSET = "list:offset"
"""By how many a source of slices, pictures or frames is ahead of the time; it goes round."""
TARGETS: Final = (
    Target("dial:", "{}", "NAME", in_view=True),
    Target("rig:elevation", "elevation", "", "°", (-90, 90), camera=True),
    Target("rig:azimuth", "azimuth", "", "° more", _ANGLE, (-180, 180), camera=True),
    Target("rig:distance", "distance", "", "× the rig's", (0.05, 50), (0.2, 4), camera=True),
    Target("rig:fill", "fill", "", "of the frame", (0.02, 4), (0.05, 1.5), camera=True),
    Target("lens:focal", "focal length", "", "mm", (4, 2000), (14, 300), camera=True),
    Target("lens:focus", "focus distance", "", "away", (1e-6, 1e9), camera=True),
    Target("light:azimuth", "light azimuth", "", "°", _ANGLE, (-180, 180), camera=True, in_view=True),
    Target("light:elevation", "light elevation", "", "°", (-90, 90), camera=True, in_view=True),
    Target("light:strength", "light strength", "", "×", (0, 10), (0, 3), camera=True, in_view=True),
    Target("opacity:", "opacity of {}", "PART", "", (0, 1), camera=True, in_view=True),
    Target("range-low:", "low end of {}", "ARRAY", usual=(-1, 1)),
    Target("range-high:", "high end of {}", "ARRAY", usual=(0, 2)),
    Target(LIST_OFFSET, "list offset", "", "ahead", None, (-24, 24)),
    Target("label:", "{}", "NAME", usual=(0, 100)),
)
_BY_DRIVE: Final[Mapping[str, Target]] = {target.drive: target for target in TARGETS}
_IDENTIFIER = re.compile(r"[A-Za-z_]\w*")
_SPELLINGS: Final = [f'"{target.drive}{target.names}"' for target in TARGETS]
KINDS: Final = f"{', '.join(_SPELLINGS[:-1])} or {_SPELLINGS[-1]}"
"""All targets as the document says them, for a sentence."""


def target_of(drive: str) -> Target | None:
    """The target that a lane names, as far as its form tells; None where it is none."""
    family, colon, name = drive.partition(":")
    target = _BY_DRIVE.get(f"{family}:") if colon else None
    if target is None:
        target = _BY_DRIVE.get(drive)
        return target if target is not None and not target.names else None
    # Dials and labels are names in code; parts and arrays are named by the author of the file.
    named = _IDENTIFIER.fullmatch(name) is not None if target.names == "NAME" else bool(name.strip()) and name[0] != " "
    return target if named else None


def is_target(drive: str) -> bool:
    """Whether a lane may drive this, as far as its form tells."""
    return target_of(drive) is not None


def target_name(drive: str) -> str:
    """What is driven, for people."""
    target = target_of(drive)
    return drive if target is None else target.label.format(drive.partition(":")[2])


def may_be_in_view(drive: str) -> bool:
    """Whether a saved view may hold a value of it."""
    target = target_of(drive)
    return target is not None and target.in_view


def bounds_of(drive: str) -> Bounds | None:
    """The range of a lane; None where the source sets it, or there is none."""
    target = target_of(drive)
    return None if target is None else target.bounds


def needs_camera(drive: str) -> bool:
    """Whether it means something only where a camera looks at parts."""
    target = target_of(drive)
    return target is not None and target.camera
