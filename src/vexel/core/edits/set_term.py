"""The terms of a shot, and the edit that sets one of them."""

from dataclasses import dataclass
from fractions import Fraction
from typing import Any, Final

from vexel.core.document.shot import Shot
from vexel.core.document.source_spec import SimulationSource
from vexel.core.errors import Mistake
from vexel.core.time.clock import ALL, Clock
from vexel.core.time.rate import Rate
from vexel.core.time.term_solver import adjust, said, solve
from vexel.core.time.timecode import read_length
from vexel.core.typed_number import read_number

LABELS: Final[dict[str, str]] = {
    "rate": "rate",
    "seconds": "length",
    "frames": "number of frames",
    "degrees": "degrees per frame",
    "turns": "turns",
    "turn_seconds": "seconds per turn",
    "pace": "pace",
    "covers": "seconds of the source",
    "repeats": "play count",
    "all_frames": "frames in total",
    "all_seconds": "seconds in total",
}
"""Terms that the user can type, in the order in which they are shown."""


RETIMED: Final = "retimed"
"""The term that gives the shot another length while its motion keeps its first and last instant."""


@dataclass(frozen=True)
class Term:
    """One term of the timing.

    Attributes
    ----------
    name, label : str
    value : str
        Exact, as text.
    shown : str
        For people, with its unit.
    reason : str
        How it follows from the others; empty when it is stated.
    pinned : bool
        Whether it keeps its value when another one is set.
    """

    name: str
    label: str
    value: str
    shown: str
    reason: str
    pinned: bool


def terms_of(shot: Shot) -> list[Term]:
    """All terms of a shot, each with its reason.

    The frames are those of its clock: where ``rate × seconds`` is not whole,
    the true length is given.
    """
    answer = solve(_stated(shot), shot.clock.span)
    return [
        Term(name, label, str(value), said(name, value), answer.reasons.get(name, ""), name in shot.clock.pins)
        for name, label in LABELS.items()
        if (value := answer.values.get(name)) is not None
    ]


def set_term(shot: Shot, term: str, text: str) -> dict[str, Any]:
    """The merge patch that sets a term, with all that follows from it.

    Parameters
    ----------
    shot : Shot
    term : str
        One of `LABELS`, or `RETIMED`.
    text : str
        As typed: a number, a fraction, or for a length any of ``12s``,
        ``1:30``, ``450f`` and timecode.

    Raises
    ------
    Mistake
        When the text is no value of the term, or pinned terms forbid it.
    """
    if term == RETIMED:
        return _retimed(shot, text)
    term, value = read_term(term, text, Rate.parse(shot.clock.rate))
    stated = _stated(shot)
    answer = adjust(stated, term, value, shot.clock.span, shot.clock.pins)
    if answer.disagreements:
        raise Mistake(f"{answer.disagreements[0].sentence}. Unlock one of them")
    length = {"seconds": "seconds", "turn_seconds": "seconds", "frames": "frames"}.get(term)
    seconds = answer.values["seconds"]
    if "seconds" in answer.gave_way:
        # The stated value is kept: preflight reports that it is not whole.
        seconds = value if term == "seconds" else stated["seconds"]
    patch = _patch(stated, answer.values, length or ("frames" if "frames" in stated else "seconds"), seconds)
    if "source" in patch:
        patch["source"]["pace"] *= float(_stretch(shot))
    if term == "rate" and answer.values["rate"] == value:
        patch["clock"]["rate"] = text.strip()
    return _by_rig(shot, patch, float(answer.values["seconds"]))


def _stated(shot: Shot) -> dict[str, Fraction]:
    """Terms that the document states, those that stay first."""
    clock = shot.clock
    stated = {"rate": Rate.parse(clock.rate).fps}
    if shot.orbit is not None and shot.orbit.turns > 0 and not shot.orbit.followed_by:
        stated["turns"] = Fraction(repr(shot.orbit.turns))
    if isinstance(shot.source, SimulationSource):
        stated["pace"] = Fraction(repr(shot.source.pace)) / _stretch(shot)
    if clock.frames is not None:
        return stated | {"frames": Fraction(clock.frames)}
    return stated | {"seconds": Fraction(repr(clock.seconds))}


def read_term(term: str, text: str, rate: Rate | None) -> tuple[str, Fraction]:
    """Which term was meant by what was typed, and its value.

    Parameters
    ----------
    term : str
        One of `LABELS`. A length may be typed as frames and turn out as such.
    text : str
    rate : Rate or None
        For timecode; None when it is not known.
    """
    if term not in LABELS:
        raise Mistake(f"there is no term {term!r}; known: {', '.join(LABELS)}")
    if term == "rate":
        return term, Rate.parse(text).fps
    if term in ("seconds", "frames"):
        bare = text.strip().replace(" ", "").isdigit()
        length = read_length(f"{text} f" if term == "frames" and bare else text, rate or Rate(Fraction(24)))
        return ("seconds", length.seconds) if length.seconds is not None else ("frames", Fraction(length.frames or 0))
    try:
        value = read_number(text.strip().rstrip("°s"))
    except Mistake as error:
        raise Mistake(f"{LABELS[term]}: {error}") from None
    if value <= 0:
        raise Mistake(f"{said(term, value)} cannot be: it must be above 0")
    return term, value


def _by_rig(shot: Shot, patch: dict[str, Any], seconds: float) -> dict[str, Any]:
    """A rig that times its shot takes another length by itself, and the clock follows."""
    camera, clock = shot.camera, shot.clock.exact
    if not camera.rig.traits.times_shot:
        return patch
    patch["clock"] |= {"frames": None, "seconds": None}
    factor = seconds / float(clock.motion / clock.rate.fps)
    return patch if abs(factor - 1) < 1e-9 else patch | {"camera": camera.rig.stretched(camera.views, factor)}


def _stretch(shot: Shot) -> Fraction:
    """How many times longer a retimed motion takes than in its own time."""
    clock = shot.clock.exact
    return Fraction(clock.steps, clock.own_steps)


def _retimed(shot: Shot, text: str) -> dict[str, Any]:
    """The patch that plays the same motion over another length, with nothing of it dropped."""
    clock = shot.clock.exact
    length = read_length(text, clock.rate)
    frames = length.frames if length.seconds is None else Clock.frames_lasting(clock.rate, length.seconds)
    own = clock.own or clock.motion
    patch: dict[str, Any] = {"retimed_from": None if frames == own else own, "frames": frames, "seconds": None}
    if length.seconds is not None and Fraction(repr(float(length.seconds))) == length.seconds:
        patch |= {"seconds": float(length.seconds), "frames": None}
    if clock.selection != ALL:
        # What is shown is counted in frames of the motion, of which there are others now.
        patch |= {"first": 0, "last": None}
    return {"clock": patch}


def _patch(stated: dict[str, Fraction], values: dict[str, Fraction], length: str, seconds: Fraction) -> dict[str, Any]:
    patch: dict[str, Any] = {"clock": {}}
    if values["rate"] != stated["rate"]:
        patch["clock"]["rate"] = str(Rate(values["rate"]))
    # A length such as 50/3 s has no short decimal; a number of frames is exact.
    if length == "seconds" and Fraction(repr(float(seconds))) == seconds:
        patch["clock"] |= {"seconds": float(seconds), "frames": None}
    else:
        patch["clock"] |= {"frames": int(values["frames"]), "seconds": None}
    if "turns" in stated and values["turns"] != stated["turns"]:
        patch["camera"] = {"rig": {"turns": float(values["turns"])}}
    if "pace" in stated and values["pace"] != stated["pace"]:
        patch["source"] = {"pace": float(values["pace"])}
    return patch
