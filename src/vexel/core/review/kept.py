"""Figures as plain values, under names that follow from frames' keys: what is kept is never measured twice."""

from collections.abc import Mapping, Sequence
from dataclasses import astuple
from typing import Any

from vexel.core.review.figures import Closer, Figures, Measured, Step

METHOD = "1"
"""Raised when figures are measured in another way."""


def frame_name(key: str) -> str:
    """Of a frame's own figures."""
    return f"{METHOD}:frame:{key}"


def step_name(before: str, after: str) -> str:
    """Of the difference between two frames."""
    return f"{METHOD}:step:{before}:{after}"


def closer_name(key: str) -> str:
    """Of what is looked at in a few frames."""
    return f"{METHOD}:closer:{key}"


def names_at(keys: Sequence[str], at: int, closer: bool) -> list[str]:
    """Names of all figures of a frame of a sequence.

    Parameters
    ----------
    keys : sequence of str
        Of all frames.
    at : int
    closer : bool
        Whether it is one of those in which bands and fringes are looked for.
    """
    names = [frame_name(keys[at]), step_name(keys[at - 1], keys[at])]
    if 0 < at < len(keys) - 1:
        names.append(step_name(keys[at - 1], keys[at + 1]))
    return [*names, closer_name(keys[at])] if closer else names


def values_at(
    keys: Sequence[str], at: int, figures: Figures, step: Step, skip: float, closer: Closer | None
) -> dict[str, Any]:
    """Figures of a frame of a sequence as JSON values by their names; of a skip only its mean is known."""
    values: dict[str, Any] = {}
    if 0 < at < len(keys) - 1:
        values[step_name(keys[at - 1], keys[at + 1])] = [skip]
    # A step of neighbours has all three figures, and replaces a skip between the same frames.
    values[step_name(keys[at - 1], keys[at])] = list(astuple(step))
    values[frame_name(keys[at])] = list(astuple(figures))
    if closer is not None:
        values[closer_name(keys[at])] = list(astuple(closer))
    return values


def is_there(kept: Mapping[str, Any], keys: Sequence[str], at: int, closer: bool) -> bool:
    """Whether all figures of a frame of a sequence are kept."""
    step = kept.get(step_name(keys[at - 1], keys[at]), ())
    return len(step) == 3 and all(name in kept for name in names_at(keys, at, closer))


def measured_of(kept: Mapping[str, Any], keys: Sequence[str], chosen: Sequence[int]) -> Measured:
    """Put kept figures together.

    Raises
    ------
    KeyError
        When some are not kept.
    """
    count = len(keys)
    skips = [kept[step_name(keys[at - 1], keys[at + 1])][0] if 0 < at < count - 1 else 0.0 for at in range(count)]
    return Measured(
        frames=tuple(_figures(kept[frame_name(key)]) for key in keys),
        steps=tuple(Step(*kept[step_name(keys[at - 1], keys[at])]) for at in range(count)),
        skips=tuple(skips),
        closer={at: Closer(*kept[closer_name(keys[at])]) for at in chosen},
    )


def _figures(values: Sequence[Any]) -> Figures:
    given: list[Any] = [tuple(value) if isinstance(value, list) else value for value in values]
    return Figures(*given)
