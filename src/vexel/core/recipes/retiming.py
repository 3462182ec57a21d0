"""Which frames of a take a file shows: a stretch of it, at another rate if wanted, and over again."""

from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

from vexel.core.errors import Mistake
from vexel.core.recipes.recipe import Recipe
from vexel.core.time.rate import Rate
from vexel.core.wording import counted

Pick = tuple[int, Fraction]
"""A position among the take's frames, and how far the picture is mixed with the next one."""


@dataclass(frozen=True)
class Timeline:
    """What a file shows, picture by picture.

    Attributes
    ----------
    picks : tuple of Pick
        Of one playing, in rising order.
    rate : Rate
    repeats : int
        How often they follow each other in the file.
    dropped, doubled, blended : int
        Frames of the take that are not shown; pictures that show the one before once more; and that are mixed.
    """

    picks: tuple[Pick, ...]
    rate: Rate
    repeats: int = 1
    dropped: int = 0
    doubled: int = 0
    blended: int = 0

    @property
    def count(self) -> int:
        """Pictures in the file."""
        return len(self.picks) * self.repeats

    @property
    def seconds(self) -> Fraction:
        """How long the file lasts."""
        return self.count / self.rate.fps

    def shows(self, picture: int) -> Pick:
        """What a picture of the file shows."""
        return self.picks[picture % len(self.picks)]

    @property
    def note(self) -> str:
        """What another rate did, as a sentence; empty for nothing."""
        verbs = (("drops", self.dropped), ("repeats", self.doubled), ("blends", self.blended))
        parts = [f"{verb} {counted(count, 'frame')}" for verb, count in verbs if count]
        return f"at {self.rate.label} the file {' and '.join(parts)}" if parts else ""


def timeline_of(recipe: Recipe, count: int, rate: Rate, repeats: int = 1, loops: bool = False) -> Timeline:
    """What a file of a recipe shows of a take.

    Parameters
    ----------
    recipe : Recipe
    count : int
        Frames that there are.
    rate : Rate
        Playback rate of the take.
    repeats : int
        As the shot says.
    loops : bool
        Whether the first frame follows the last, with which the last is then mixed.

    Raises
    ------
    Mistake
        When a stretch lies outside, or frames would be dropped or doubled and the recipe refuses that.
    """
    timing = recipe.timing
    chosen = range(count) if not timing.frames else _stretch(timing.frames, count)
    repeats = timing.repeats or (1 if recipe.loops or timing.frames else repeats)
    new = Rate.parse(timing.rate) if timing.rate else rate
    if new.fps == rate.fps:
        return Timeline(tuple((n, Fraction(0)) for n in chosen), new, repeats)
    ratio = rate.fps / new.fps
    pictures = max((len(chosen) / ratio + Fraction(1, 2)).__floor__(), 1)
    places = [n * ratio for n in range(pictures)]
    if timing.between == "blend":
        return _blended(places, chosen, new, repeats, loops and len(chosen) == count)
    # A frame is an instant: each picture shows the one that is nearest to its own, of two the earlier.
    shown = [min((place - Fraction(1, 2)).__ceil__(), len(chosen) - 1) for place in places]
    doubled = sum(a == b for a, b in pairwise(shown))
    dropped = len(chosen) - len(set(shown))
    if timing.between == "refuse" and (doubled or dropped):
        raise Mistake(
            f"at {new.label} instead of {rate.label} {counted(dropped, 'frame')} would be dropped and {doubled:,} "
            "doubled, which timing.between refuses: capture at that rate, or set it to nearest or blend"
        )
    return Timeline(tuple((chosen[n], Fraction(0)) for n in shown), new, repeats, dropped, doubled)


def _blended(places: list[Fraction], chosen: range, rate: Rate, repeats: int, loops: bool) -> Timeline:
    picks = []
    for place in places:
        at = min(place.__floor__(), len(chosen) - 1)
        mix = place - at if at < len(chosen) - 1 or loops else Fraction(0)
        picks.append((chosen[at], min(mix, Fraction(1))))
    blended = sum(mix > 0 for _, mix in picks)
    seen = {n for n, _ in picks} | {n + 1 for n, mix in picks if mix > 0}
    return Timeline(tuple(picks), rate, repeats, len(set(chosen) - seen), 0, blended)


def _stretch(text: str, count: int) -> range:
    named = {"first": 0, "middle": count // 2, "last": count - 1}
    if text in named:
        return range(named[text], named[text] + 1)
    first, dash, last = (part.strip() for part in text.partition("-"))
    if not (first or last) or not all(part.isdecimal() for part in (first, last) if part):
        raise Mistake(f"timing.frames {text!r} is not a range: write 24-95, 24-, -95, 24, or first, middle or last")
    begin = int(first or 0)
    end = int(last) if last else count - 1 if dash else begin
    if not 0 <= begin <= end < count:
        raise Mistake(f"frames {text} are not among those of the take, 0 to {count - 1:,}")
    return range(begin, end + 1)
