"""What a capture will cost, from one frame that was measured."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Cost:
    """Expected cost of a capture: seconds of waiting and bytes on disk."""

    seconds: float
    bytes: int


def capture_cost(frames: int, frame_seconds: float, frame_bytes: int, workers: int) -> Cost:
    """Scale one measured frame to a capture by `workers` processes."""
    return Cost(frames * frame_seconds / max(workers, 1), frames * frame_bytes)


@dataclass(frozen=True)
class Progress:
    """How a run stands: frames done of all, frames a second, seconds left (None while unknown)."""

    done: int
    count: int
    rate: float
    seconds_left: float | None


def progress(done: int, count: int, made: int, elapsed: float) -> Progress:
    """Rate and time left, from the `made` frames of this sitting; kept frames cost nothing."""
    rate = made / elapsed if made and elapsed > 0 else 0.0
    return Progress(done, count, rate, (count - done) / rate if rate else None)
