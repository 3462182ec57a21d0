"""What one frame of a reel shows: a small tree, from which the picture is drawn."""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from typing import Literal, TypeAlias

from vexel.core.document.fit import MIDDLE, Fit, Point
from vexel.core.document.label import Label
from vexel.core.reel.item_spec import LayoutItem, TitleItem, Towards
from vexel.core.reel.media import MediaRef


@dataclass(frozen=True)
class Shown:
    """A frame of media.

    Attributes
    ----------
    ref : MediaRef
    frame : int
        Its number; where `phase` is set, the nearest one.
    fit : str
    focus : (float, float)
        Point that stays in sight where the fit cuts edges off, as shares of width and height.
    phase : Fraction or None
        The instant to capture: 0 to 1 over the shot's motion.
    """

    ref: MediaRef
    frame: int
    fit: Fit = "contain"
    focus: Point = MIDDLE
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
class MissingMedia:
    """Media that are gone or cannot be shown: `what` names them, `why` gives a reason other than absence."""

    what: str
    why: str = ""


@dataclass(frozen=True)
class Mixed:
    """Two pictures in linear light, `share` of the second."""

    one: "Node"
    other: "Node"
    share: float


@dataclass(frozen=True)
class SideTransition:
    """Two pictures of which the second comes in from a side, by a share of the frame: over the first, or pushing it."""

    one: "Node"
    other: "Node"
    share: float
    kind: Literal["wipe", "slide"]
    towards: Towards


@dataclass(frozen=True)
class Cells:
    """Several pictures at once, each in its part of the frame; later ones lie over earlier ones."""

    layout: LayoutItem
    nodes: tuple["Node", ...]


@dataclass(frozen=True)
class Divided:
    """Two pictures on the two sides of an upright line at a share of the width."""

    one: "Node"
    other: "Node"
    place: float


Node: TypeAlias = "Shown | Plain | Card | MissingMedia | Mixed | SideTransition | Cells | Divided"


@dataclass(frozen=True)
class ReelFrame:
    """A frame of a reel: its picture, and the labels over it."""

    node: Node
    labels: tuple[Label, ...] = ()


def shown_in(node: Node) -> Iterator[Shown]:
    """All frames that a tree shows."""
    if isinstance(node, Shown):
        yield node
    elif isinstance(node, (Mixed, SideTransition, Divided)):
        yield from shown_in(node.one)
        yield from shown_in(node.other)
    elif isinstance(node, Cells):
        for one in node.nodes:
            yield from shown_in(one)
