"""What one frame of a reel shows: a small tree, from which the picture is drawn."""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from typing import Literal, TypeAlias

from vexel.core.document.label import Label
from vexel.core.reel.item_spec import Fit, TitleItem, Towards
from vexel.core.reel.media import MediaRef

Rect: TypeAlias = tuple[int, int, int, int]
"""Left, top, width and height in pixels."""


@dataclass(frozen=True)
class Shown:
    """A frame of media.

    Attributes
    ----------
    ref : MediaRef
    frame : int
        Its number; where `phase` is told, the one that is nearest.
    fit : str
    phase : Fraction or None
        The instant that is to be captured for real: 0 to 1 over the shot's motion.
    """

    ref: MediaRef
    frame: int
    fit: Fit = "contain"
    phase: Fraction | None = None


@dataclass(frozen=True)
class Plain:
    """One colour; None for the reel's own background."""

    colour: str | None = None


@dataclass(frozen=True)
class Card:
    """A title card."""

    title: TitleItem


@dataclass(frozen=True)
class Hole:
    """In place of what is gone: `what` names it."""

    what: str


@dataclass(frozen=True)
class Mixed:
    """Two pictures in linear light, `share` of the second."""

    one: "Node"
    other: "Node"
    share: float


@dataclass(frozen=True)
class Moved:
    """Two pictures of which the second comes in from a side, by a share of the frame: over the first, or pushing it."""

    one: "Node"
    other: "Node"
    share: float
    kind: Literal["wipe", "slide"]
    towards: Towards


@dataclass(frozen=True)
class Cell:
    """A picture in a part of the frame.

    Attributes
    ----------
    rect : Rect
        Of the picture, inside margin and border.
    border, border_colour
        Pixels around it, and their colour.
    caption : str
    caption_rect : Rect
        Below it; of no height without a caption.
    """

    node: "Node"
    rect: Rect
    border: int = 0
    border_colour: str = "#ffffff"
    caption: str = ""
    caption_rect: Rect = (0, 0, 0, 0)


@dataclass(frozen=True)
class Cells:
    """Several pictures at once; later ones lie over earlier ones."""

    cells: tuple[Cell, ...]
    caption_colour: str = "#ffffff"


@dataclass(frozen=True)
class Divided:
    """Two pictures on the two sides of an upright line at a share of the width."""

    one: "Node"
    other: "Node"
    place: float


Node: TypeAlias = "Shown | Plain | Card | Hole | Mixed | Moved | Cells | Divided"


@dataclass(frozen=True)
class ReelFrame:
    """A frame of a reel: its picture, and the labels over it."""

    node: Node
    labels: tuple[Label, ...] = ()


def shown_in(node: Node) -> Iterator[Shown]:
    """All frames that a tree shows."""
    if isinstance(node, Shown):
        yield node
    elif isinstance(node, (Mixed, Moved, Divided)):
        yield from shown_in(node.one)
        yield from shown_in(node.other)
    elif isinstance(node, Cells):
        for cell in node.cells:
            yield from shown_in(cell.node)
