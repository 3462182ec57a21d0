"""Values of OpenTimelineIO as ours: exact rates, frames of a reel, paths, and what Vexel keeps in metadata."""

import math
from collections.abc import Callable
from fractions import Fraction
from typing import Any
from urllib.parse import unquote, urlparse

import opentimelineio as otio

from vexel.core.time.rate import Rate

OURS = "vexel"
"""Under which name what no timeline holds is kept in its metadata."""
MOST_NAME, MOST_FRAMES = 200, 1_000_000
_FINEST = 1001
_FINE = 1_000_000

Notes = list[str]


def tried(read: Callable[[], Any], what: str, notes: Notes) -> Any:
    """What was read of a part of a timeline; None where it cannot be, which is noted."""
    try:
        return read()
    except Exception as error:  # noqa: BLE001 (its library raises errors of many kinds)
        reason = str(error).splitlines()[0][:200] if str(error) else type(error).__name__
        notes.append(f"{what or 'an item without a name'} is skipped, since it cannot be read: {reason}")
        return None


def fraction(rate: float) -> Fraction | None:
    """A rate as an exact fraction; None where it is no rate."""
    return Fraction(rate).limit_denominator(_FINEST) if math.isfinite(rate) and rate > 0 else None


def exact(time: Any, rate: Fraction) -> Fraction:
    """A time in frames of a rate, which may lie between two.

    Raises
    ------
    ValueError
        When it is no number.
    """
    own = fraction(time.rate)
    if own is None or not math.isfinite(time.value):
        raise ValueError("its times are no numbers")
    return Fraction(time.value).limit_denominator(_FINE) * rate / own


def frames_of(time: Any, rate: Rate) -> int:
    """A time in whole frames of the reel."""
    return nearest(exact(time, rate.fps))


def nearest(value: Fraction) -> int:
    """The nearest whole number, of two the larger."""
    return (value + Fraction(1, 2)).__floor__()


def transition_in(children: list[Any], place: int) -> Any:
    """The transition at a place among the parts of a track; None where there is none."""
    found = children[place] if 0 <= place < len(children) else None
    return found if isinstance(found, otio.schema.Transition) else None


def kept(part: Any, key: str, notes: Notes, name: str) -> dict[str, Any]:
    """What Vexel kept in the metadata of a part; nothing where that is of another program, or damaged."""
    held = plain(part.metadata.get(OURS, {}))
    found = held.get(key, {}) if isinstance(held, dict) else {}
    if not isinstance(found, dict):
        notes.append(f"{name}: what its metadata keep for Vexel is not valid, and is ignored")
        return {}
    return found


def name_of(part: Any, otherwise: str) -> str:
    """A part's name, cut to what a reel takes."""
    return (part.name.strip() or otherwise)[:MOST_NAME]


def path_of(url: str) -> str:
    """The path that an address names."""
    found = urlparse(url)
    return unquote(found.path) if found.scheme == "file" else unquote(url)


def plain(value: Any) -> Any:
    """Values of its library as those of Python."""
    if hasattr(value, "items"):
        return {str(key): plain(one) for key, one in value.items()}
    if isinstance(value, (list, tuple)) or type(value).__name__ == "AnyVector":
        return [plain(one) for one in value]
    return value
