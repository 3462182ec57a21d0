"""How far work is, how fast it goes, and how long it still takes."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Progress:
    """How a job stands: steps done of all, steps a second, seconds left (None while unknown).

    Attributes
    ----------
    paused : str
        Why it waits, as a sentence; empty while it works.
    """

    done: int
    count: int
    rate: float
    seconds_left: float | None
    paused: str = ""


def progress(done: int, count: int, made: int, elapsed: float) -> Progress:
    """Rate and time left, from the `made` steps of this sitting; frames that are kept cost nothing."""
    rate = made / elapsed if made and elapsed > 0 else 0.0
    return Progress(done, count, rate, (count - done) / rate if rate else None)
