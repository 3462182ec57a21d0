"""Findings of texts without a font, or without room."""

from collections.abc import Iterable, Iterator
from dataclasses import replace

from vexel.core.document.label import Label
from vexel.core.finding import Finding
from vexel.sources.pictures.fonts import missing_in
from vexel.stage.text_block import lay_out

_MOST_SHOWN = 8
_SHOWN_TEXT = 40
_LEAST = 0.99
"""Share of its size at which text counts as smaller."""


def label_findings(labels: Iterable[Label], width: int, height: int) -> Iterator[Finding]:
    """Findings of texts that no font here has, or that do not fit at their size, each once.

    Parameters
    ----------
    labels : iterable of Label
    width, height : int
        Of the frame, in pixels.
    """
    # Cells of one layout may have the same caption.
    for label in {label.text: label for label in labels}.values():
        shown = label.text if len(label.text) <= _SHOWN_TEXT else f"{label.text[:_SHOWN_TEXT]}…"
        shown = " ".join(shown.split())
        if missing := missing_in(label.text):
            listed = " ".join(f"{letter} (U+{ord(letter):04X})" for letter in missing[:_MOST_SHOWN])
            more = f" and {len(missing) - _MOST_SHOWN} more" if len(missing) > _MOST_SHOWN else ""
            yield Finding(
                "text-without-font",
                f"No font on this machine has {listed}{more}, in the text {shown!r}",
                "Boxes are drawn in their place. Install a font that has them, or write the text without them.",
            )
        # Its lines do not depend on its colour.
        block = lay_out(replace(label, colour="#000000"), width, height)
        if block.size < _LEAST * label.size * height:
            yield Finding(
                "text-smaller",
                f"The text {shown!r} does not fit at its size",
                f"It is drawn at {block.size / (label.size * height):.0%} of it. Write less, or choose a smaller size.",
            )
