"""The sound of clips in a reel: when each is heard, and which cannot be."""

from dataclasses import dataclass
from fractions import Fraction

from vexel.core.reel.item_spec import ClipItem
from vexel.core.reel.played_item import Playing
from vexel.core.reel.reel_plan import ReelPlan
from vexel.core.reel.reel_spec import SoundSpec


@dataclass(frozen=True)
class OwnSound:
    """Sound of a clip.

    Attributes
    ----------
    number : int
        Of its item; -1 for one that lies within another.
    name : str
    sounds : tuple of SoundSpec
        One each time it is played.
    trouble : str
        Why there are none.
    """

    number: int
    name: str
    sounds: tuple[SoundSpec, ...] = ()
    trouble: str = ""


def own_sounds(plan: ReelPlan) -> list[OwnSound]:
    """The sound of every clip that is not muted."""
    found, sequence = [], plan.sequence
    for number, item in enumerate(plan.reel.items):
        for part in item.walked():
            if not isinstance(part, ClipItem) or not part.audible:
                continue
            if part is not item:
                found.append(OwnSound(-1, part.name or part.file, trouble=f"it lies within {plan.names[number]}"))
            elif sequence is not None and isinstance(track := sequence.tracks[number], Playing):
                found.append(_of_track(plan, number, part, track))
    return found


def _of_track(plan: ReelPlan, number: int, item: ClipItem, track: Playing) -> OwnSound:
    assert plan.sequence is not None
    sequence, name, rate = plan.sequence, plan.names[number], plan.rate.fps
    if item.order != "forward" or track.pace * rate != track.facts.rate or plan.frames != sequence.count:
        return OwnSound(number, name, trouble="it is not played forward at its own speed")
    # Within a transition both are heard, each fading as its picture does.
    overlaps = [
        Fraction(sequence.overlaps[place]) / rate if 0 <= place < len(sequence.overlaps) else Fraction(0)
        for place in (number - 1, number)
    ]
    lasts = Fraction(track.steps, item.repeat) / track.facts.rate
    begin = Fraction(sequence.starts[number] + item.hold_start) / rate
    sounds = tuple(
        SoundSpec(
            file=item.file, at=float(begin + n * lasts), first=float(item.first / track.facts.rate),
            seconds=float(lasts), fade_in=float(overlaps[0]) if n == 0 else 0,
            fade_out=float(overlaps[1]) if n == item.repeat - 1 else 0,
        )
        for n in range(item.repeat)
    )  # fmt: skip
    return OwnSound(number, name, sounds)
