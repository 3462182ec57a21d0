"""The term solver: from any sufficient set of terms to all the others, each with its derivation.

Terms are tied by products, such as frames = rate × seconds, so a term is found
from the two others of one product. All is exact: fractions in,
fractions out.
"""

import re
from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace
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
"""Order in which terms are recalculated where nothing is pinned."""


@dataclass(frozen=True)
class Disagreement:
    """Two given terms that cannot both hold, and a sentence about them."""

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
    gave_way : tuple of str
        The given terms that were changed so that the frames are whole.
    disagreements : tuple of Disagreement
    """

    values: dict[str, Fraction]
    reasons: dict[str, str]
    given: tuple[str, ...]
    gave_way: tuple[str, ...] = ()
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
        Given terms that must not change.

    Returns
    -------
    Answer
        Frames are whole in it: when they do not come out whole, the nearest
        whole number is taken, and the given term that matters least is recalculated.

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
    answer = _solved(given, span, pins)
    clashing = {clash.first for clash in answer.disagreements}
    changed = (term for term, value in given.items() if answer.values.get(term) != value and term not in clashing)
    return replace(answer, gave_way=tuple(changed))


def _solved(given: Mapping[str, Fraction], span: Span, pins: Collection[str]) -> Answer:
    kept, rounding = _whole(given, span, pins)
    held, disagreements = _agreeing(kept, span, pins)
    found = _Found(held, span)
    frames = found.values.get("frames")
    if frames is None or frames.denominator == 1:
        if rounding:
            found.reasons["frames"] = rounding
        return found.answer(disagreements)
    whole = Fraction(max(nearest_whole(frames), 1))
    for term in GIVING_WAY:
        if term in held and term not in pins:
            rest = {name: value for name, value in held.items() if name != term}
            tried = _Found({**rest, "frames": whole}, span)
            if term in tried.values and not tried.clashes:
                tried.reasons["frames"] = (
                    f"{found.lefts.get('frames', '')}{decimal(frames)}, rounded to {said('frames', whole)}"
                )
                return tried.answer(disagreements)
    locked = ", and everything that it depends on is locked" if pins else ""
    sentence = f"these terms give {said('frames', frames)}, which is not whole{locked}"
    return found.answer((*disagreements, Disagreement("frames", next(iter(held)), sentence)))


def adjust(
    stated: Mapping[str, Fraction],
    term: str,
    value: Fraction,
    span: Span = "loop",
    pins: Collection[str] = (),
) -> Answer:
    """The terms that follow when one is set.

    Parameters
    ----------
    stated : mapping of str to Fraction
        Terms that were stated so far; the first ones stay rather than the last.
    term : str
    value : Fraction
    span : {"loop", "ends"}
    pins : collection of str
        Terms, stated or not, that keep their values.
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


def _whole(given: Mapping[str, Fraction], span: Span, pins: Collection[str]) -> tuple[Mapping[str, Fraction], str]:
    """Given terms without the one that is recalculated from a stated number of frames; and how.

    For every order: 24 fps, 12.51 s and 300 frames are 300 frames that last 12.5 s.
    """
    rest = _Found({term: value for term, value in given.items() if term != "frames"}, span)
    exact, stated = rest.values.get("frames"), given.get("frames")
    if exact is None or stated is None or rest.clashes or exact == stated or not _equal("frames", exact, stated):
        return given, ""
    giving = next((term for term in GIVING_WAY if term in rest.roots["frames"] and term not in pins), "")
    rounding = f"{rest.lefts['frames']}{decimal(exact)}, rounded to {said('frames', stated)}"
    return {term: value for term, value in given.items() if term != giving}, rounding if giving else ""


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
            # It may close a round of terms that do not go together, though none of them followed before.
            if found := _odd_one_out(held, span, term):
                disagreements.append(found)
                held.pop(found.first)
        elif not _equal(term, before.values[term], value):
            other = before.roots[term][-1]
            sentence = (
                f"{said(term, value)} and {said(other, held[other])} disagree: {before.reasons[term]}"
                if term not in held
                else f"{said(term, value)} and {said(term, held[term])} disagree"
            )
            disagreements.append(Disagreement(term, other, sentence))
    return held, tuple(disagreements)


def _odd_one_out(held: dict[str, Fraction], span: Span, newest: str) -> Disagreement | None:
    """The last given term that the others say is another, if they do not all go together."""
    if not _Found(held, span).clashes:
        return None
    for term in reversed(held):
        others = _Found({name: value for name, value in held.items() if name != term}, span)
        if term != newest and term in others.values and not others.clashes:
            other = others.roots[term][-1]
            sentence = f"{said(term, held[term])} and {said(other, held[other])} disagree: {others.reasons[term]}"
            return Disagreement(term, other, sentence)
    return None


def _equal(term: str, derived: Fraction, given: Fraction) -> bool:
    return abs(derived - given) <= Fraction(1, 2) if term == "frames" else derived == given


class _Found:
    """Terms found from given ones, product by product."""

    def __init__(self, given: Mapping[str, Fraction], span: Span) -> None:
        self.values = dict(given)
        self.reasons: dict[str, str] = {}
        self.lefts: dict[str, str] = {}
        self.roots: dict[str, tuple[str, ...]] = {term: (term,) for term in given}
        self.clashes = False
        self._given, self._span = tuple(given), span
        # Products lead to others, in no fixed order: until a round finds nothing new.
        count = -1
        while count != len(self.values):
            count = len(self.values)
            self._go_round()
        self.clashes = self._clash()

    def answer(self, disagreements: tuple[Disagreement, ...]) -> Answer:
        return Answer(self.values, self.reasons, self._given, (), disagreements)

    def _clash(self) -> bool:
        """Whether two ways to one term lead to different values."""
        known = self.values
        if {"frames", "steps"} <= known.keys() and known["steps"] != max(known["frames"] - self._one_more, Fraction(1)):
            return True
        if {"degrees", "turn_frames"} <= known.keys() and known["degrees"] * known["turn_frames"] != 360:
            return True
        return any(known[whole] != known[a] * known[b] for whole, a, b in _PRODUCTS if {whole, a, b} <= known.keys())

    @property
    def _one_more(self) -> int:
        """Frames beyond the steps: with both ends shown there is one."""
        return 0 if self._span == "loop" else 1

    def _go_round(self) -> None:
        one_more = self._one_more
        if "frames" in self.values and "steps" not in self.values:
            steps = max(self.values["frames"] - one_more, Fraction(1))
            why = "in a loop every frame is a step" if not one_more else f"{said('frames', self.values['frames'])} − 1"
            self._note("steps", steps, ("frames",), f"{why}: ")
        if "steps" in self.values and "frames" not in self.values:
            frames = self.values["steps"] + one_more
            why = "one frame a step" if not one_more else f"{said('steps', self.values['steps'])} + 1 for both ends"
            self._note("frames", frames, ("steps",), f"{why}: ")
        for a, b in (("degrees", "turn_frames"), ("turn_frames", "degrees")):
            if a in self.values and b not in self.values:
                value = 360 / self.values[a]
                self._note(b, value, (a,), f"360° ÷ {said(a, self.values[a])} = ")
        for whole, left, right in _PRODUCTS:
            self._follow(whole, left, right)

    def _follow(self, whole: str, left: str, right: str) -> None:
        known = self.values
        if left in known and right in known and whole not in known:
            value = known[left] * known[right]
            self._note(whole, value, (left, right), f"{said(left, known[left])} × {said(right, known[right])} = ")
        for wanted, other in ((left, right), (right, left)):
            if whole in known and other in known and wanted not in known:
                value = known[whole] / known[other]
                self._note(
                    wanted, value, (whole, other), f"{said(whole, known[whole])} ÷ {said(other, known[other])} = "
                )

    def _note(self, term: str, value: Fraction, sources: tuple[str, ...], left: str) -> None:
        """Keep a value, and how it was found: `left` is the derivation up to the value."""
        self.values[term], self.lefts[term], self.reasons[term] = value, left, left + said(term, value)
        order = self._given.index
        self.roots[term] = tuple(sorted({root for s in sources for root in self.roots[s]}, key=order))
