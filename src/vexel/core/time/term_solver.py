"""The reckoner: from any sufficient set of terms to all the others, each with its derivation.

Terms are tied by products, such as frames = rate × seconds, so a term is found
wherever the two others of one product are known. All is exact: fractions in,
fractions out.
"""

import re
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from fractions import Fraction
from typing import Final

from vexel.core.errors import Mistake
from vexel.core.time.clock import Span, decimal, nearest_whole

UNITS: Final[dict[str, tuple[str, str]]] = {
    "rate": ("", " fps"),
    "seconds": ("", " s"),
    "frames": ("", " frames"),
    "steps": ("", " steps"),
    "turns": ("", " turns"),
    "degrees": ("", "° per frame"),
    "turn_seconds": ("", " s per turn"),
    "turn_frames": ("", " frames per turn"),
    "pace": ("pace ", ""),
    "covers": ("", " s of the source"),
    "repeats": ("", " plays"),
    "all_frames": ("", " frames in total"),
    "all_seconds": ("", " s in total"),
}
"""Each term with what people read before and after its value."""
_PRODUCTS: Final[tuple[tuple[str, str, str], ...]] = (
    ("frames", "rate", "seconds"),
    ("turn_frames", "rate", "turn_seconds"),
    ("steps", "turns", "turn_frames"),
    ("covers", "pace", "seconds"),
    ("all_frames", "repeats", "frames"),
    ("all_seconds", "repeats", "seconds"),
)
GIVING_WAY: Final = (
    "seconds", "turn_seconds", "frames", "degrees", "covers", "all_seconds", "all_frames", "turns", "pace", "repeats",
    "rate",
)  # fmt: skip
"""Which term gives way first where nothing is pinned."""


@dataclass(frozen=True)
class Disagreement:
    """Two given terms that cannot both hold, and a sentence that says so."""

    first: str
    second: str
    sentence: str


@dataclass(frozen=True)
class Answer:
    """All terms that follow from the given ones.

    Attributes
    ----------
    values : dict of str to Fraction
        Frames a second, seconds, frames, degrees a frame and so on; see `UNITS`.
    reasons : dict of str to str
        How each derived term was found.
    given : tuple of str
        Terms that were taken as given.
    gave_way : str
        The given term that was changed so that the frames are whole; or empty.
    disagreements : tuple of Disagreement
    """

    values: dict[str, Fraction]
    reasons: dict[str, str]
    given: tuple[str, ...]
    gave_way: str = ""
    disagreements: tuple[Disagreement, ...] = ()

    def wanting(self, *terms: str) -> list[str]:
        """Those of some terms that do not follow from what was given."""
        return [term for term in terms if term not in self.values]


def solve(given: Mapping[str, Fraction], span: Span = "loop", pins: Collection[str] = ()) -> Answer:
    """Work out all terms that follow.

    Parameters
    ----------
    given : mapping of str to Fraction
        By the names of `UNITS`, the most important first.
    span : {"loop", "ends"}
        A loop of N frames makes N steps; with both ends shown it makes N − 1.
    pins : collection of str
        Given terms that must not give way.

    Returns
    -------
    Answer
        Frames are whole in it: when they do not come out whole, the nearest
        whole number is taken, and the given term that matters least gives way.

    Raises
    ------
    Mistake
        When a term is unknown or not above 0.
    """
    for term, value in given.items():
        if term not in UNITS:
            raise Mistake(f"there is no term {term!r}; known: {', '.join(UNITS)}")
        if value <= 0:
            raise Mistake(f"{said(term, value)} cannot be: it must be above 0")
    held, disagreements = _agreeing(given, span, pins)
    found = _Found(held, span)
    frames = found.values.get("frames")
    if frames is None or frames.denominator == 1:
        return found.answer(disagreements=disagreements)
    whole = Fraction(max(nearest_whole(frames), 1))
    for term in GIVING_WAY:
        if term in held and term not in pins:
            rest = {name: value for name, value in held.items() if name != term}
            tried = _Found({**rest, "frames": whole}, span)
            if term in tried.values and not tried.clashes:
                sentence = found.reasons["frames"].rpartition(" = ")[0]
                tried.reasons["frames"] = f"{sentence} = {decimal(frames)}, rounded to {said('frames', whole)}"
                return tried.answer(term, disagreements)
    sentence = f"{said('frames', frames)} is not whole, and everything that it depends on is locked: unlock one of them"
    return found.answer(disagreements=(*disagreements, Disagreement("frames", next(iter(held)), sentence)))


def adjust(
    stated: Mapping[str, Fraction],
    term: str,
    value: Fraction,
    span: Span = "loop",
    pins: Collection[str] = (),
) -> Answer:
    """What follows when one term is set anew.

    Parameters
    ----------
    stated : mapping of str to Fraction
        Terms that were stated so far; the first ones stay rather than the last.
    term : str
    value : Fraction
    span : {"loop", "ends"}
    pins : collection of str
        Terms, stated or not, that stay whatever else gives way.
    """
    before = solve(stated, span).values
    kept = {term: value} | {name: before[name] for name in pins if name in before and name != term}
    for name, known in stated.items():
        if name not in _Found(kept, span).values:
            kept[name] = known
    return solve(kept, span, pins)


def whole_lengths(rate: Fraction, seconds: Fraction) -> tuple[Fraction, Fraction]:
    """The nearest shorter and longer length that is a whole number of frames, at least one."""
    below = (rate * seconds).__floor__()
    return Fraction(max(below, 1)) / rate, Fraction(max(below, 0) + 1) / rate


def said(term: str, value: Fraction) -> str:
    """A term's value for people, such as ``360 frames``."""
    before, after = UNITS[term]
    if value == 1:
        after = re.sub(r"\b(frame|step|turn|play)s\b", r"\1", after)
    number = f"{value.numerator:,}" if value.denominator == 1 else decimal(value)
    return f"{before}{number}{after}"


def _agreeing(
    given: Mapping[str, Fraction], span: Span, pins: Collection[str]
) -> tuple[dict[str, Fraction], tuple[Disagreement, ...]]:
    """Given terms that fit together, pinned ones before others; and those that do not."""
    held: dict[str, Fraction] = {}
    disagreements = []
    for term in (*(t for t in given if t in pins), *(t for t in given if t not in pins)):
        value = given[term]
        before = _Found(held, span)
        if term not in before.values:
            held[term] = value
        elif not _equal(term, before.values[term], value):
            other = before.roots[term][-1]
            sentence = (
                f"{said(term, value)} and {said(other, held[other])} disagree: {before.reasons[term]}"
                if term not in held
                else f"{said(term, value)} and {said(term, held[term])} disagree"
            )
            disagreements.append(Disagreement(term, other, sentence))
        elif term == "frames":
            # The length was rounded to these frames: they hold, and what they came from gives way.
            held[term] = value
            held.pop(next((t for t in GIVING_WAY if t in before.roots[term] and t not in pins), ""), None)
    return held, tuple(disagreements)


def _equal(term: str, derived: Fraction, given: Fraction) -> bool:
    return abs(derived - given) <= Fraction(1, 2) if term == "frames" else derived == given


class _Found:
    """Terms found from given ones, product by product."""

    def __init__(self, given: Mapping[str, Fraction], span: Span) -> None:
        self.values = dict(given)
        self.reasons: dict[str, str] = {}
        self.roots: dict[str, tuple[str, ...]] = {term: (term,) for term in given}
        self.clashes = False
        self._given, self._span = tuple(given), span
        # Products lead to others, in no fixed order: until a round finds nothing new.
        count = -1
        while count != len(self.values):
            count = len(self.values)
            self._go_round()
        self.clashes = any(
            values[whole] != values[a] * values[b]
            for whole, a, b in _PRODUCTS
            if {whole, a, b} <= (values := self.values).keys()
        )

    def answer(self, gave_way: str = "", disagreements: tuple[Disagreement, ...] = ()) -> Answer:
        return Answer(self.values, self.reasons, self._given, gave_way, disagreements)

    def _go_round(self) -> None:
        one_more = 0 if self._span == "loop" else 1
        if "frames" in self.values and "steps" not in self.values:
            steps = max(self.values["frames"] - one_more, Fraction(1))
            why = "in a loop every frame is a step" if not one_more else f"{said('frames', self.values['frames'])} − 1"
            self._note("steps", steps, ("frames",), f"{why}: {said('steps', steps)}")
        if "steps" in self.values and "frames" not in self.values:
            frames = self.values["steps"] + one_more
            why = "one frame a step" if not one_more else f"{said('steps', self.values['steps'])} + 1 for both ends"
            self._note("frames", frames, ("steps",), f"{why}: {said('frames', frames)}")
        for a, b in (("degrees", "turn_frames"), ("turn_frames", "degrees")):
            if a in self.values and b not in self.values:
                value = 360 / self.values[a]
                self._note(b, value, (a,), f"360° ÷ {said(a, self.values[a])} = {said(b, value)}")
        for whole, left, right in _PRODUCTS:
            self._follow(whole, left, right)

    def _follow(self, whole: str, left: str, right: str) -> None:
        known = self.values
        if left in known and right in known and whole not in known:
            value = known[left] * known[right]
            sentence = f"{said(left, known[left])} × {said(right, known[right])}"
            self._note(whole, value, (left, right), f"{sentence} = {said(whole, value)}")
        for wanted, other in ((left, right), (right, left)):
            if whole in known and other in known and wanted not in known:
                value = known[whole] / known[other]
                sentence = f"{said(whole, known[whole])} ÷ {said(other, known[other])}"
                self._note(wanted, value, (whole, other), f"{sentence} = {said(wanted, value)}")

    def _note(self, term: str, value: Fraction, sources: tuple[str, ...], reason: str) -> None:
        self.values[term], self.reasons[term] = value, reason
        order = self._given.index
        self.roots[term] = tuple(sorted({root for s in sources for root in self.roots[s]}, key=order))
