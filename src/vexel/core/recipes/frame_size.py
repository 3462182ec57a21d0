"""Sizes: how frames of one size become pictures of another."""

from dataclasses import dataclass
from fractions import Fraction

from vexel.core.errors import Mistake
from vexel.core.recipes.form import sides_step
from vexel.core.recipes.recipe import Recipe


class SmallerFrames(Mistake):
    """Frames are smaller than the size that a recipe asks for, and the recipe does not set how to fit them."""

    fits = (
        ("enlarged", {"size": {"enlarge": True}}),
        ("in their own size", {"size": {"width": None, "height": None}}),
    )


@dataclass(frozen=True)
class Fitted:
    """How a frame is fitted to the file's size: a part of it, scaled, at a position.

    Attributes
    ----------
    width, height : int
        Of the file's pictures, in pixels.
    part : tuple of int
        Left, top, width and height of what is taken of the frame.
    scaled : tuple of int
        Width and height of that part in the file.
    at : tuple of int
        Left and top of its place there.
    frame : tuple of int
        Width and height of the whole frame.
    """

    width: int
    height: int
    part: tuple[int, int, int, int]
    scaled: tuple[int, int]
    at: tuple[int, int]
    frame: tuple[int, int]

    @property
    def is_whole(self) -> bool:
        """Whether frames keep their size."""
        return self.frame == self.part[2:] == self.scaled == (self.width, self.height)

    @property
    def enlarged(self) -> Fraction:
        """Pixels of the file a pixel of the frame, along a side; above 1 it is enlarged."""
        return max(Fraction(self.scaled[0], self.part[2]), Fraction(self.scaled[1], self.part[3]))


def even_sides(width: int, height: int) -> tuple[int, int]:
    """The nearest size, not larger, that 4:2:0 video can hold: both sides even."""
    return max(width - width % 2, 2), max(height - height % 2, 2)


def fitted(recipe: Recipe, width: int, height: int, *, alpha: bool = False) -> Fitted:
    """How frames of a size fit a recipe's.

    Nothing is enlarged unless the recipe asks for it. A long side is an upper bound, which smaller frames keep.

    Raises
    ------
    SmallerFrames
        When frames are smaller than a width or height that is asked for, and the recipe neither enlarges them nor
        puts them in the middle.
    Mistake
        When the file would be larger than its kind can hold.
    """
    size = recipe.size
    box_w, box_h = _box(recipe, width, height)
    if (size.width or size.height) and not size.enlarge and size.fit != "none":
        of = max if size.fit == "cover" else min
        if of(Fraction(box_w, width), Fraction(box_h, height)) > 1:
            raise SmallerFrames(
                f"the frames have {width} × {height}, and {recipe.name} asks for {box_w} × {box_h}: enlarge them (size."
                "enlarge, or --enlarge), put them in the middle of that size (size.fit none, or --fit none), or leave "
                "the size out"
            )
    if size.fit == "none" and size.width and size.height:
        part_w, part_h = min(width, box_w), min(height, box_h)
        scaled = part_w, part_h
        canvas = box_w, box_h
    elif size.fit == "cover" and size.width and size.height:
        ratio = max(Fraction(box_w, width), Fraction(box_h, height))
        ratio = ratio if size.enlarge else min(ratio, Fraction(1))
        part_w, part_h = min(width, max(_near(box_w / ratio), 1)), min(height, max(_near(box_h / ratio), 1))
        scaled = canvas = max(_near(part_w * ratio), 1), max(_near(part_h * ratio), 1)
    else:
        ratio = min(Fraction(box_w, width), Fraction(box_h, height))
        ratio = ratio if size.enlarge else min(ratio, Fraction(1))
        part_w, part_h = width, height
        scaled = max(_near(width * ratio), 1), max(_near(height * ratio), 1)
        # Bars are for a shape that was asked for; else the file has the frame's own.
        canvas = (box_w, box_h) if size.width and size.height else scaled
    step = sides_step(recipe.form, recipe.pixels_for(alpha))
    made = _stepped(size.odd, step, (width, height), (part_w, part_h), scaled, canvas)
    if max(made.width, made.height) > recipe.form.most:
        raise Mistake(
            f"{made.width} × {made.height} is more than {recipe.makes} holds, {recipe.form.most:,} pixels a side: "
            "give the recipe a smaller size"
        )
    return made


def _box(recipe: Recipe, width: int, height: int) -> tuple[int, int]:
    size = recipe.size
    if size.long_side:
        ratio = Fraction(size.long_side, max(width, height))
        return max(_near(width * ratio), 1), max(_near(height * ratio), 1)
    if size.width and size.height:
        return size.width, size.height
    if size.width:
        return size.width, max(_near(Fraction(size.width * height, width)), 1)
    if size.height:
        return max(_near(Fraction(size.height * width, height)), 1), size.height
    return width, height


def _stepped(
    odd: str,
    step: tuple[int, int],
    frame: tuple[int, int],
    part: tuple[int, int],
    scaled: tuple[int, int],
    canvas: tuple[int, int],
) -> Fitted:
    """The same with sides that are multiples of `step`."""
    over = [side % unit for side, unit in zip(canvas, step, strict=True)]
    if any(over) and odd == "pad":
        canvas = canvas[0] + over[0], canvas[1] + over[1]
    elif any(over):
        canvas = max(canvas[0] - over[0], step[0]), max(canvas[1] - over[1], step[1])
        if odd == "crop":
            # As much of the frame goes as does not fit, so that nothing is squeezed.
            kept = [min(Fraction(side, whole), Fraction(1)) for side, whole in zip(canvas, scaled, strict=True)]
            part = max(_near(part[0] * kept[0]), 1), max(_near(part[1] * kept[1]), 1)
        scaled = min(scaled[0], canvas[0]), min(scaled[1], canvas[1])
    left, top = ((whole - taken) // 2 for whole, taken in zip(frame, part, strict=True))
    at = (canvas[0] - scaled[0]) // 2, (canvas[1] - scaled[1]) // 2
    if odd == "pad" and any(over) and at == (0, 0):
        left = top = 0
    return Fitted(*canvas, (left, top, *part), scaled, at, frame)


def _near(value: Fraction) -> int:
    return (value + Fraction(1, 2)).__floor__()
