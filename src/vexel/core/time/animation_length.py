"""How long a source lasts by itself: the courses of its animations, and the length that shows them whole."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from math import gcd, lcm

LONGEST = Fraction(3600)
"""Motions that only meet after an hour do not meet for the viewer."""


@dataclass(frozen=True)
class Animation:
    """One animation.

    Attributes
    ----------
    name : str
    seconds : Fraction
        Of one time, with the way back where it plays back and forth.
    times : Fraction or None
        How often it runs; None without end.
    delay : Fraction
        Seconds before it begins.
    """

    name: str
    seconds: Fraction
    times: Fraction | None
    delay: Fraction = Fraction(0)


@dataclass(frozen=True)
class AnimationLength:
    """A length that shows all animations whole.

    Attributes
    ----------
    seconds : str
        Exact text of a fraction.
    loops : bool
        Whether the end is the beginning again; else what runs once is over then.
    courses : int
        How many animations there are.
    delayed : bool
        Whether one that runs without end begins after the others, so that the first round is not like the next ones.
    """

    seconds: str
    loops: bool
    courses: int
    delayed: bool = False


def animation_length(courses: Sequence[Animation]) -> AnimationLength | None:
    """The least common multiple of what runs without end, or the end of what does not; None where nothing runs."""
    endless = [course for course in courses if course.times is None and course.seconds > 0]
    ending = [course.delay + course.seconds * course.times for course in courses if course.times is not None]
    if not endless:
        last = max(ending, default=Fraction(0))
        return AnimationLength(str(last), False, len(courses)) if last > 0 else None
    together = endless[0].seconds
    for course in endless[1:]:
        together = common_multiple(together, course.seconds)
    if together > LONGEST:
        return None
    return AnimationLength(str(together), True, len(courses), any(course.delay > 0 for course in endless))


def common_multiple(one: Fraction, other: Fraction) -> Fraction:
    """The least number that is a whole multiple of both: of fractions in lowest terms, lcm over gcd."""
    return Fraction(lcm(one.numerator, other.numerator), gcd(one.denominator, other.denominator))
