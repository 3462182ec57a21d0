"""Backgrounds: their kinds, and how the document writes each."""

import re
from dataclasses import dataclass
from typing import Literal

from vexel.core.errors import Mistake

TRANSPARENT = "transparent"
PLAIN = "#2b2f33"
"""The background of a new shot."""
WAYS = 'write "#rrggbb", "#rrggbb #rrggbb" for a gradient from above to below, "image:FILE" or "transparent"'
_GRADIENT = re.compile(r"#[0-9a-fA-F]{6} #[0-9a-fA-F]{6}")
_HEX = re.compile(r"#[0-9a-fA-F]{6}")
_IMAGE = "image:"


@dataclass(frozen=True)
class Background:
    """A background, read from its text.

    Attributes
    ----------
    kind : {"colour", "gradient", "image", "transparent"}
    text : str
        The document's own text.
    """

    kind: Literal["colour", "gradient", "image", "transparent"]
    text: str

    @classmethod
    def parse(cls, text: str) -> "Background":
        """Read a background.

        Raises
        ------
        Mistake
            When it is none.
        """
        if text == TRANSPARENT:
            return cls("transparent", text)
        if _HEX.fullmatch(text):
            return cls("colour", text)
        if _GRADIENT.fullmatch(text):
            return cls("gradient", text)
        if text.startswith(_IMAGE) and text.removeprefix(_IMAGE).strip():
            return cls("image", text)
        raise Mistake(f"{text!r} is not a background: {WAYS}")

    @property
    def image(self) -> str:
        """The file of an image, relative to the shot document; empty for any other kind."""
        return self.text.removeprefix(_IMAGE).strip() if self.kind == "image" else ""

    @property
    def rendered(self) -> str:
        """What the picture is rendered on: a colour, or nothing where a backdrop is added afterwards."""
        return self.text if self.kind == "colour" else TRANSPARENT

    @property
    def is_backdrop(self) -> bool:
        """Whether the finished picture is composited over it."""
        return self.kind in ("gradient", "image")


def rgb(colour: str) -> tuple[int, int, int]:
    """Red, green and blue, 0 to 255, of ``#rrggbb``."""
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)
