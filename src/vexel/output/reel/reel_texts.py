"""Every text that a reel draws, as the label that draws it."""

from collections.abc import Iterator

from vexel.core.document.label import Label
from vexel.core.reel.item_spec import LayoutItem, TitleItem
from vexel.core.reel.layout import LINE, CellPlace, placed_cells
from vexel.core.reel.reel_plan import ReelPlan


def title_label(title: TitleItem) -> Label:
    """The text of a title card, in the middle of the frame."""
    return Label(title.text, (0.5, 0.5), title.size, title.colour, "middle")


def caption_label(layout: LayoutItem, text: str, place: CellPlace, width: int, height: int) -> Label:
    """The line below a cell of a layout, as wide as the cell at most."""
    left, top, wide, high = place.caption
    middle = ((left + wide / 2) / width, min((top + high / 2) / height, 1.0))
    # A line has no breaks in it.
    return Label(" ".join(text.split()), middle, high / LINE / height, layout.caption_colour, "middle", wide / width, 1)


def texts_of(plan: ReelPlan) -> Iterator[Label]:
    """Labels at the first and the last frame, titles, and the captions of layouts that fill the frame."""
    reel = plan.reel
    if plan.sequence is not None and reel.labels:
        for number in {0, max(plan.frames - 1, 0)}:
            yield from plan.labels_at(number)
    for item in reel.walked():
        if isinstance(item, TitleItem) and item.text:
            yield title_label(item)
        if isinstance(item, LayoutItem):
            for cell, place in zip(item.cells, placed_cells(item, reel.width, reel.height), strict=True):
                if cell.caption:
                    yield caption_label(item, cell.caption, place, reel.width, reel.height)
