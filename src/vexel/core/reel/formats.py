"""Formats of a reel: further sizes of its files, in which each item has its own framing."""

from collections.abc import Iterator, Sequence
from fractions import Fraction
from functools import lru_cache, partial
from typing import Any

from vexel.core.document.fit import Fit, Point
from vexel.core.errors import Mistake
from vexel.core.finding import Finding, Fix
from vexel.core.reel.item_spec import AnyItem, Arrangement, FramingSpec, GroupItem, ItemSpec, LayoutItem, TitleItem
from vexel.core.reel.items_patch import change_item
from vexel.core.reel.played_item import Playing
from vexel.core.reel.reel_plan import ReelPlan
from vexel.core.reel.reel_spec import FormatSpec, Reel
from vexel.core.time.clock import decimal
from vexel.core.wording import counted, nearest_name

ENLARGED = Fraction(101, 100)
"""From which scale on a picture counts as enlarged."""
UNFRAMED = FramingSpec()


def in_format(reel: Reel) -> Reel:
    """Apply the format that a reel names: its size, and the framing of each item.

    Heights of texts, captions, borders and of the watermark are shares of the frame's height. In a format that is
    narrower for its height they become smaller, so that they keep their share of the width.
    """
    chosen = next((one for one in reel.formats if one.name == reel.format), None)
    if chosen is None:
        return reel
    narrower = Fraction(chosen.width * reel.height, chosen.height * reel.width)
    shrink = min(float(narrower), 1.0)
    mark = reel.mark and reel.mark.model_copy(
        update={"size": reel.mark.size * shrink, "margin": reel.mark.margin * shrink}
    )
    return reel.model_copy(
        update={
            "width": chosen.width,
            "height": chosen.height,
            "items": [_framed(item, chosen, shrink) for item in reel.items],
            "labels": [one.model_copy(update={"size": one.size * shrink}) for one in reel.labels],
            "mark": mark,
        }
    )


def shown_in(reel: Reel, formats: Sequence[str] | None) -> list[Reel]:
    """A reel, once for each format that files are made in.

    Parameters
    ----------
    formats : sequence of str, optional
        Their names, of which the empty one is the reel's own size; by default its own size and all formats.

    Raises
    ------
    Mistake
        When it has no such format.
    """
    names = ["", *(one.name for one in reel.formats)]
    for name in formats or ():
        if name not in names:
            raise Mistake(f"{reel.title} has no format {name}: {nearest_name(name, names[1:])}")
    return [reel.model_copy(update={"format": name}) for name in (names if formats is None else dict.fromkeys(formats))]


def framed_by(item: ItemSpec, chosen: FormatSpec) -> tuple[Fit, Point]:
    """Fit and focus of an item that fills the frame, in a format.

    What is shown without scaling stays so, unless its own framing differs.
    """
    own = item.framing.get(chosen.name, UNFRAMED)
    usual = item.fit if item.fit == "none" else chosen.fit
    across = item.focus_x if own.focus_x is None else own.focus_x
    down = item.focus_y if own.focus_y is None else own.focus_y
    return own.fit or usual, (across, down)


def _framed(item: AnyItem, chosen: FormatSpec, shrink: float, within: bool = False) -> AnyItem:
    """An item in a format; one within a layout keeps its own fit, which is that of a part of the frame."""
    own = item.framing.get(chosen.name, UNFRAMED)
    fit, (across, down) = framed_by(item, chosen)
    changed: dict[str, Any] = {"fit": (own.fit or item.fit) if within else fit, "focus_x": across, "focus_y": down}
    if isinstance(item, TitleItem):
        changed["size"] = own.size or item.size * shrink
    elif isinstance(item, GroupItem):
        changed["items"] = [_framed(one, chosen, shrink, within) for one in item.items]
    elif isinstance(item, LayoutItem):
        cells = [
            cell.model_copy(
                update={
                    "item": _framed(cell.item, chosen, shrink, True),
                    "margin": cell.margin * shrink,
                    "border": cell.border * shrink,
                }
            )
            for cell in item.cells
        ]
        changed |= {"cells": cells, "arrangement": own.arrangement or _turned(item.arrangement, chosen)}
        changed["caption_size"] = item.caption_size * shrink
    return item.model_copy(update=changed)


def _turned(arrangement: Arrangement, chosen: FormatSpec) -> Arrangement:
    """Pictures side by side are stacked where the frame is taller than wide."""
    return "column" if arrangement == "row" and chosen.height > chosen.width else arrangement


@lru_cache(256)
def scale_of(media: tuple[int, int], frame: tuple[int, int], fit: Fit) -> Fraction:
    """By how much media of a width and height are scaled in a frame; thousands of items are of few sizes."""
    if fit == "none":
        return Fraction(1)
    wide, high = (Fraction(frame[axis], media[axis]) for axis in (0, 1))
    return min(wide, high) if fit == "contain" else max(wide, high)


def format_findings(plan: ReelPlan) -> Iterator[Finding]:
    """What is off with a reel in its formats, apart from what is off in its own size."""
    reel = plan.reel
    if plan.sequence is None or reel.format:
        return
    playing = [(number, track) for number, track in enumerate(plan.sequence.tracks) if isinstance(track, Playing)]
    for place, chosen in enumerate(reel.formats):
        size = chosen.width, chosen.height
        scales = {
            number: scale_of((track.facts.width, track.facts.height), size, framed_by(track.item, chosen)[0])
            for number, track in playing
        }
        enlarged = [number for number, scale in scales.items() if scale > ENLARGED]
        if enlarged:
            yield _enlarged(plan, place, enlarged, max(scales[number] for number in enlarged))
    names = {one.name for one in reel.formats}
    for number, item in enumerate(reel.items):
        for name in item.framing:
            if name not in names:
                yield Finding(
                    "framing-unknown",
                    f"{plan.names[number]} has a framing for {name}, which is none of the reel's formats",
                    "It has no effect.",
                    (Fix("Remove the framing", change_item(number, framing={name: None})),),
                )


def _enlarged(plan: ReelPlan, place: int, enlarged: list[int], most: Fraction) -> Finding:
    formats = plan.reel.formats
    chosen = formats[place]
    least = 1 / most
    size = {"width": _even(chosen.width * least), "height": _even(chosen.height * least)}
    changed = partial(_with_format, formats, place)
    count = len(enlarged)
    what = plan.names[enlarged[0]] if count == 1 else counted(count, "item")
    fixes = [Fix(f"Make {chosen.name} {size['width']} × {size['height']}", changed(**size))]
    if chosen.fit == "cover":
        fixes.append(Fix(f"Show whole pictures in {chosen.name}", changed(fit="contain")))
    return Finding(
        "item-enlarged",
        f"In {chosen.name}, {what} {'is' if count == 1 else 'are'} shown up to {decimal(most, 2)} times as large",
        "It looks soft." if count == 1 else "They look soft.",
        tuple(fixes),
    )


def _with_format(formats: list[FormatSpec], place: int, **values: Any) -> dict[str, Any]:
    """A patch of the list of formats, of which one is changed."""
    return {
        "formats": [
            one.model_dump(mode="json") | (values if number == place else {}) for number, one in enumerate(formats)
        ]
    }


def _even(length: Fraction) -> int:
    """An even number of pixels, as most video codecs need."""
    return max(round(length / 2) * 2, 16)
