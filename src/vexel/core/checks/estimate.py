"""What a capture will cost, from one frame that was measured."""

from dataclasses import dataclass

from vexel.core.document.shot import Shot


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
