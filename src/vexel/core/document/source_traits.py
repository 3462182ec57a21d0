"""What is always true of a kind of source, whatever its file holds."""

from dataclasses import dataclass
from typing import Literal

Gives = Literal["geometry", "picture", "either"]


@dataclass(frozen=True)
class SourceTraits:
    """One record for each kind; rules ask it instead of naming kinds.

    Attributes
    ----------
    is_a : str
        What it is, in a few words, such as ``code that draws a picture``.
    bring : str
        What a person brings for it.
    gives : {"geometry", "picture", "either"}
        Geometry for a camera to look at, a picture, or whatever its code returns.
    dials : bool
        Whether it may have numbers that a lane drives.
    blurs : bool
        Whether it can be asked for several instants within an open shutter.
    own_text : bool
        Whether its main file is text that a person edits.
    runs_once : bool
        Whether its last frame is not followed by its first.
    remembers : bool
        Whether a frame depends on the frames before it.
    needs_rate : bool
        Whether nothing in its file says how fast it is played.
    """

    is_a: str
    bring: str
    gives: Gives
    dials: bool = False
    blurs: bool = True
    own_text: bool = False
    runs_once: bool = False
    remembers: bool = False
    needs_rate: bool = False
