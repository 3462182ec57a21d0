"""What a capture will cost, from one frame that was measured, and whether the disk has room for it."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from vexel.core.document.picture_spec import Format
from vexel.core.document.shot import Shot
from vexel.core.finding import Finding, Fix
from vexel.core.recipes.byte_size import said_bytes
from vexel.core.recipes.frame_size import even_sides

FEWER_BITS: dict[Format, tuple[Format, str]] = {"exr": ("png16", "16"), "png16": ("png", "8")}


@dataclass(frozen=True)
class Cost:
    """Expected cost of a capture: seconds of waiting and bytes on disk."""

    seconds: float
    bytes: int


def capture_cost(frames: float, frame_seconds: float, frame_bytes: int, workers: int) -> Cost:
    """Scale one measured frame to a capture by `workers` processes."""
    return Cost(frames * frame_seconds / max(workers, 1), round(frames * frame_bytes))


def alike(one: Shot, other: Shot) -> bool:
    """Whether frames of two shots cost about the same: the same source, drawn as large, as fine and as often."""
    return _weighty(one) == _weighty(other)


def _weighty(shot: Shot) -> tuple[object, ...]:
    picture, light = shot.picture, shot.light
    lenses = [(camera.lens.projection, camera.lens.eyes) for camera in shot.all_cameras]
    shadows = [light.shadow > 0, light.environment > 0, light.surround > 0, picture.ground]
    size = (picture.width, picture.height, picture.samples, picture.passes, picture.format)
    return shot.source.kind, shot.source.file, size, lenses, shadows, shot.clock.exact.shutter.is_open


def room_findings(
    shot: Shot, needed: int, free: int, keep: int, unused: int = 0, elsewhere: str = ""
) -> Iterator[Finding]:
    """A finding where a capture needs more than the disk has.

    Parameters
    ----------
    needed : int
        Bytes of the frames that are not there yet.
    free, keep : int
        Bytes that are free, and that must stay so.
    unused : int
        Bytes of the project that nothing uses.
    elsewhere : str
        A command line that captures to another folder.
    """
    room = max(free - keep, 0)
    if needed <= room:
        return
    fixes = []
    if less := FEWER_BITS.get(shot.picture.format):
        fixes.append(Fix(f"Use {less[1]} bits", _picture(format=less[0])))
    width, height = even_sides(shot.picture.width // 2, shot.picture.height // 2)
    if min(width, height) >= 16:
        fixes.append(Fix(f"Make the frames {width} × {height}", _picture(width=width, height=height)))
    if unused:
        fixes.append(Fix(f"Remove {said_bytes(unused)} that nothing uses", place="storage"))
    if elsewhere:
        fixes.append(Fix("Capture to another folder", command=elsewhere))
    pauses = f" It pauses while less than {said_bytes(keep)} are free." if keep else ""
    yield Finding(
        "disk-too-small",
        f"The frames need about {said_bytes(needed)}, and {said_bytes(room)} of the disk can be used",
        f"The capture cannot end before you free some space.{pauses}",
        tuple(fixes),
    )


def _picture(**values: Any) -> dict[str, Any]:
    return {"picture": values}
