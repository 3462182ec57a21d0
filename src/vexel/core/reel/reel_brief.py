"""The reel as a sentence, each value with what it is of."""

from dataclasses import dataclass
from typing import Literal

from vexel.core.brief_part import turns_in_words
from vexel.core.reel.item_spec import GroupItem, LayoutItem, PlayedSpec, ReelItem
from vexel.core.reel.reel_plan import ReelPlan
from vexel.core.time.clock import decimal
from vexel.core.wording import counted

MOST_SAID = 6
"""Items that are named."""


@dataclass(frozen=True)
class ReelPart:
    """A few words of the sentence.

    Attributes
    ----------
    text : str
    of : {"", "item", "transition", "reel"}
        What the value belongs to; empty for the words between values.
    item : int
        Number of the item, or of the one that a transition leads out of.
    """

    text: str
    of: Literal["", "item", "transition", "reel"] = ""
    item: int = 0


def reel_brief(plan: ReelPlan) -> list[ReelPart]:
    """Play **Shell** **twice**, then, over **12 frames** of wipe, **Light**, as **1920 × 1080** at **24 fps**."""
    reel = plan.reel
    parts = [ReelPart("Play")]
    for number, item in enumerate(reel.items[:MOST_SAID]):
        if number:
            transition = reel.items[number - 1].transition
            parts.append(ReelPart(", then"))
            if transition.kind != "cut" and transition.frames:
                dips = transition.kind == "dip-to-colour"
                kind = f"dip to {transition.colour}" if dips else transition.kind
                lasts = f"{counted(transition.frames, 'frame')} of {kind}"
                parts += [ReelPart("over"), ReelPart(lasts, "transition", number - 1)]
                if transition.in_step:
                    parts.append(ReelPart("with matched motion"))
                parts.append(ReelPart(","))
        parts.append(ReelPart(plan.names[number], "item", number))
        if said := _times(item):
            parts.append(ReelPart(said, "item", number))
    if more := len(reel.items) - MOST_SAID:
        parts += [ReelPart(f", and {counted(more, 'more item')}")] if more > 0 else []
    if not reel.items:
        parts.append(ReelPart("nothing yet"))
    parts += [
        ReelPart(", in"),
        ReelPart(f"{decimal(plan.frames / plan.rate.fps, 3)} s", "reel"),
        ReelPart("as"),
        ReelPart(f"{reel.width} × {reel.height}", "reel"),
        ReelPart("at"),
        ReelPart(plan.rate.label, "reel"),
    ]
    return parts


def _times(item: object) -> str:
    """How often an item is played, where it is more than once."""
    repeat = item.repeat if isinstance(item, (PlayedSpec, GroupItem, ReelItem)) else 1
    if isinstance(item, LayoutItem):
        return f"of {len(item.cells)}"
    return turns_in_words(float(repeat)) if repeat > 1 else ""
