"""Items of a reel: their kinds, and how the document writes each."""

from collections.abc import Callable, Iterator
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from vexel.core.document.background import PLAIN
from vexel.core.document.fit import Fit, Point
from vexel.core.document.lane_spec import Ease
from vexel.core.document.part import Part
from vexel.core.errors import Mistake
from vexel.core.reel.media import MediaRef
from vexel.core.time.frame_selection import Order
from vexel.core.time.rate import Rate

Frames = Annotated[int, Field(ge=1, le=1_000_000)]
MOST_NUMBER = 1_000_000_000
"""Of a frame: more than any film has, and fewer than other programs' formats take."""
Seconds = Annotated[float, Field(gt=0, le=100_000)]
Share = Annotated[float, Field(ge=0, le=1)]
Hex = Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")]
Between = Literal["nearest", "blend", "refuse", "true"]
Towards = Literal["left", "right", "up", "down"]
Arrangement = Literal["row", "column", "grid", "large", "inset", "divided"]
LineSize = Annotated[float, Field(ge=0.01, le=0.9)]
"""Height of a title's line, as a share of the frame's height."""
MOST_FORMATS = 8
FILE = Field(min_length=1, max_length=1000)


OLDER_KINDS = {"cross-fade": "cross-dissolve", "colour": "dip-to-colour"}


def newer_names(value: Any) -> Any:
    """JSON values of a document or a patch with the names of today; "joint" was a transition until November 2026.

    Unchanged, and so refused by what reads it, where both names are given or values are nested too deeply.
    """
    try:
        return _newer(value)
    except RecursionError:
        return value


def _newer(value: Any) -> Any:
    if isinstance(value, list):
        return [_newer(one) for one in value]
    if not isinstance(value, dict):
        return value
    older = "joint" in value and "transition" not in value
    newer = {name: _newer(one) for name, one in value.items() if name != "joint" or not older}
    if older:
        made = value["joint"]
        kind = made.get("kind") if isinstance(made, dict) else None
        newer["transition"] = made | {"kind": OLDER_KINDS.get(kind, kind)} if isinstance(kind, str) else made
    return newer


class TransitionSpec(Part):
    """How an item changes to the next, and for how many frames both are visible."""

    kind: Literal["cut", "cross-dissolve", "dip-to-colour", "wipe", "slide"] = "cut"
    frames: int = Field(default=0, ge=0, le=100_000, description="frames that both items have a part in")
    colour: Hex = Field(default="#000000", description="that colour goes through")
    towards: Towards = Field(default="left", description="in which a wipe or slide moves")
    ease: Ease = Field(default="linear", title="Easing")
    in_step: bool = Field(default=False, description="the next item continues this one's place in the shot's motion")

    @model_validator(mode="after")
    def _lasts(self) -> "TransitionSpec":
        if self.kind == "cut" and self.frames:
            raise Mistake("transition.frames: a cut lasts no frames: leave it at 0, or choose cross-dissolve")
        return self


class LengthSpec(Part):
    """A length, in seconds or in frames of the reel."""

    seconds: Seconds | None = None
    frames: Frames | None = None

    @model_validator(mode="after")
    def _one_length(self) -> "LengthSpec":
        if self.seconds is not None and self.frames is not None:
            raise Mistake("give either seconds or frames, the other follows from the reel's rate")
        return self


class FramingSpec(Part):
    """How an item is placed in one of the reel's formats; null leaves the format's value, or the item's."""

    fit: Fit | None = None
    focus_x: Share | None = Field(default=None, title="Focus across", description="see the item's own")
    focus_y: Share | None = Field(default=None, title="Focus down", description="see the item's own")
    arrangement: Arrangement | None = Field(
        default=None, description="of a layout; null stacks what is side by side in an upright format"
    )
    size: LineSize | None = Field(
        default=None,
        description="of a title's line, as a share of the format's height; null keeps its share of the width",
    )


class ItemSpec(LengthSpec):
    """What all items have: a name, a fit, and the transition to the next."""

    name: str = Field(default="", max_length=200, description="of its chapter; empty for the item's own")
    fit: Fit = "contain"
    focus_x: Share = Field(
        default=0.5,
        title="Focus across",
        description="point that stays in sight where edges are cut off, from the left",
    )
    focus_y: Share = Field(default=0.5, title="Focus down", description="the same, from the top")
    framing: dict[str, FramingSpec] = Field(
        default={}, max_length=MOST_FORMATS, description="in other formats of the reel, by their names"
    )
    transition: TransitionSpec = TransitionSpec()

    @property
    def focus(self) -> Point:
        """The point that stays in sight, as shares of the picture's width and height."""
        return self.focus_x, self.focus_y

    @property
    def parts(self) -> tuple["ItemSpec", ...]:
        """Items within it."""
        return ()

    def walked(self) -> Iterator["ItemSpec"]:
        """It and all within it."""
        yield self
        for part in self.parts:
            yield from part.walked()


class PlayedSpec(ItemSpec):
    """An item of frames that are there, or can be made: which of them, how often, how fast.

    `seconds` or `frames` fit an item to a length; `speed` plays it faster.
    """

    first: int = Field(default=0, ge=0, le=MOST_NUMBER, description="first frame that is played")
    last: int | None = Field(default=None, ge=0, le=MOST_NUMBER, description="last one; null for the last there is")
    order: Order = "forward"
    repeat: int = Field(default=1, ge=1, le=10_000)
    hold_start: int = Field(default=0, ge=0, le=1_000_000, description="still frames of the reel before it")
    hold_end: int = Field(default=0, ge=0, le=1_000_000, description="and after it")
    speed: float = Field(default=1, gt=0, le=1000)
    between: Between = Field(
        default="nearest", description="where the reel's frames are not the item's; true captures them for real"
    )

    @property
    def ref(self) -> MediaRef:
        """Where its frames come from."""
        raise NotImplementedError

    @model_validator(mode="after")
    def _one_pace(self) -> "PlayedSpec":
        if self.speed != 1 and (self.seconds is not None or self.frames is not None):
            raise Mistake("speed: the item is fitted to a length already: leave speed at 1, or the length out")
        return self


class TakeItem(PlayedSpec):
    """A take: its folder, or a run of the project."""

    kind: Literal["take"]
    take: str = Field(min_length=1, max_length=1000, description='a folder, or "run:3" of the project')
    camera: str = ""
    render_pass: str = ""

    @property
    def ref(self) -> MediaRef:
        """See `PlayedSpec.ref`."""
        return MediaRef("take", self.take, self.camera, self.render_pass)


class ShotItem(PlayedSpec):
    """A shot: its newest take, which is made if there is none."""

    kind: Literal["shot"]
    shot: str = FILE
    camera: str = ""
    render_pass: str = ""

    @property
    def ref(self) -> MediaRef:
        """See `PlayedSpec.ref`."""
        return MediaRef("shot", self.shot, self.camera, self.render_pass)


class ClipItem(PlayedSpec):
    """A video file."""

    kind: Literal["clip"]
    file: str = FILE
    audible: bool = Field(default=False, description="whether its own sound is heard")

    @property
    def ref(self) -> MediaRef:
        """See `PlayedSpec.ref`."""
        return MediaRef("clip", self.file)


class StillsItem(PlayedSpec):
    """Numbered images, or one."""

    kind: Literal["stills"]
    file: str = Field(min_length=1, max_length=1000, description="a folder, a pattern such as f.%04d.png, or an image")
    rate: str = Field(default="", description="at which they were made; empty for the reel's")

    @property
    def ref(self) -> MediaRef:
        """See `PlayedSpec.ref`."""
        rate = str(Rate.parse(self.rate).fps) if self.rate else ""
        return MediaRef("stills", self.file, rate=rate)


class TitleItem(ItemSpec):
    """A title card."""

    kind: Literal["title"]
    text: str = Field(default="", max_length=2000, description="lines; empty for a card without text")
    size: LineSize = Field(default=0.09, description="of a line, as a share of the frame's height")
    colour: Hex = "#ffffff"
    background: Hex | None = Field(default=None, description="null for the reel's own")
    image: str = Field(default="", max_length=1000, description="behind the text, filling the frame")


class GapItem(ItemSpec):
    """Nothing but the reel's background."""

    kind: Literal["gap"]


class ReelItem(ItemSpec):
    """Another reel, in the place of its items."""

    kind: Literal["reel"]
    reel: str = FILE
    repeat: int = Field(default=1, ge=1, le=10_000)
    speed: float = Field(default=1, gt=0, le=1000)


class CellSpec(Part):
    """A picture within a layout."""

    item: "AnyItem"
    caption: str = Field(default="", max_length=200)
    offset: int = Field(default=0, ge=-1_000_000, le=1_000_000, description="frames by which it begins later")
    margin: float = Field(default=0, ge=0, le=0.45, description="around it, as a share of the frame's height")
    border: float = Field(default=0, ge=0, le=0.2, description="as a share of the frame's height")
    border_colour: Hex = "#ffffff"


class LayoutItem(ItemSpec):
    """Several items at once, synchronised."""

    kind: Literal["layout"]
    arrangement: Arrangement = "row"
    columns: int = Field(default=0, ge=0, le=64, description="of a grid; 0 for about as many as rows")
    share: float = Field(default=0.7, ge=0.05, le=0.95, description="of the large picture, or the inset's width")
    divider: list[tuple[Share, Share]] = Field(
        default=[(0, 0.5), (1, 0.5)], min_length=1, max_length=1000, description="phase and place of the dividing line"
    )
    ease: Ease = Field(
        default="linear", title="Easing of the line", description="from place to place of the dividing line"
    )
    caption_size: float = Field(default=0.035, ge=0.005, le=0.3, description="as a share of the frame's height")
    caption_colour: Hex = "#ffffff"
    cells: list[CellSpec] = Field(min_length=1, max_length=64)

    @model_validator(mode="after")
    def _is_pair(self) -> "LayoutItem":
        phases = [phase for phase, _ in self.divider]
        if phases != sorted(phases):
            raise Mistake("divider: its keys must rise in phase")
        divided = "divided" in (self.arrangement, *(one.arrangement for one in self.framing.values()))
        if divided and len(self.cells) != 2:
            raise Mistake(f"a divided layout shows two items, not {len(self.cells)}")
        return self

    @property
    def parts(self) -> tuple[ItemSpec, ...]:
        """See `ItemSpec.parts`."""
        return tuple(cell.item for cell in self.cells)


class GroupItem(ItemSpec):
    """Items that are treated as one: repeated, played faster, or fitted to a length."""

    kind: Literal["group"]
    items: list["AnyItem"] = Field(min_length=1, max_length=5000)
    repeat: int = Field(default=1, ge=1, le=10_000)
    speed: float = Field(default=1, gt=0, le=1000)
    ease: Ease = Field(default="linear", description="of the group's own time")
    rate: str = Field(
        default="",
        title="Rate within",
        description="frames per second in which lengths within it are counted; empty for the reel's",
    )

    @model_validator(mode="after")
    def _one_pace(self) -> "GroupItem":
        if self.speed != 1 and (self.seconds is not None or self.frames is not None):
            raise Mistake("speed: the group is fitted to a length already: leave speed at 1, or the length out")
        if self.rate:
            Rate.parse(self.rate)
        return self

    @property
    def parts(self) -> tuple[ItemSpec, ...]:
        """See `ItemSpec.parts`."""
        return tuple(self.items)


AnyItem = Annotated[
    TakeItem | ShotItem | ClipItem | StillsItem | TitleItem | GapItem | LayoutItem | GroupItem | ReelItem,
    Field(discriminator="kind"),
]
for _model in (CellSpec, LayoutItem, GroupItem):
    _model.model_rebuild()
DEFAULT_GROUND = PLAIN


def replaced(item: AnyItem, of: Callable[[AnyItem], AnyItem]) -> AnyItem:
    """An item with those within it, and then itself, put through a function."""
    if isinstance(item, GroupItem):
        item = item.model_copy(update={"items": [replaced(one, of) for one in item.items]})
    elif isinstance(item, LayoutItem):
        cells = [CellSpec.model_copy(cell, update={"item": replaced(cell.item, of)}) for cell in item.cells]
        item = item.model_copy(update={"cells": cells})
    return of(item)
