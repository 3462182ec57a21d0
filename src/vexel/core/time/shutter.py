"""The shutter: how long each frame looks, and the instants within that time."""

import re
from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

from vexel.core.errors import Mistake

Sits = Literal["leading", "centred", "trailing"]
WIDEST = 4
"""Frame intervals that a shutter may stay open: more would only smear."""
_FORM = re.compile(r"(\d+(?:\.\d+)?(?:/\d+)?)\s*(°|deg|degrees|s)?")


@dataclass(frozen=True)
class Shutter:
    """How long a frame looks.

    Attributes
    ----------
    opening : Fraction
        In frame intervals; 0 looks at one instant, 1/2 is a shutter of 180°.
    sits : {"leading", "centred", "trailing"}
        Whether it opens at the frame's instant, lies around it, or closes at it.
    """

    opening: Fraction = Fraction(0)
    sits: Sits = "centred"

    @classmethod
    def parse(cls, text: str, fps: Fraction, sits: Sits = "centred") -> "Shutter":
        """Read an angle such as ``180°``, a share of the frame such as ``0.5`` or ``1/2``, or seconds as ``1/48 s``.

        Raises
        ------
        Mistake
            When the text is none of them, or the shutter is open for more than four frames.
        """
        form = _FORM.fullmatch(text.strip())
        if form is None or form[1].endswith("/0"):
            raise Mistake(
                f"shutter {text.strip()!r} is not a shutter: write an angle such as 180°, a share of the frame "
                "such as 0.5, or seconds such as 1/48 s"
            )
        number, unit = Fraction(*map(Fraction, form[1].split("/"))), form[2] or ""
        opening = number * fps if unit == "s" else number / 360 if unit else number
        if opening > WIDEST:
            raise Mistake(
                f"shutter {text.strip()} is open for {float(opening):.4g} frames, at most {WIDEST} are taken"
                f"{'' if unit else f'; write {text.strip()}° for an angle'}"
            )
        return cls(opening, sits)

    @property
    def is_open(self) -> bool:
        """Whether a frame looks for longer than an instant."""
        return self.opening > 0

    @property
    def label(self) -> str:
        """The opening as an angle, such as ``180°``."""
        return f"{float(self.opening * 360):.6g}°"

    def offsets(self, looks: int) -> list[Fraction]:
        """When a frame looks, in frame intervals from its own instant: the middles of equal parts of the opening."""
        if not self.is_open:
            return [Fraction(0)]
        begin = {"leading": Fraction(0), "centred": -self.opening / 2, "trailing": -self.opening}[self.sits]
        return [begin + self.opening * (2 * look + 1) / (2 * looks) for look in range(looks)]
