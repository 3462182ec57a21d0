"""Media: where frames of a reel come from, and what is known of them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Literal

MediaKind = Literal["take", "shot", "clip", "stills"]


@dataclass(frozen=True)
class MediaRef:
    """The media of an item, in the document's terms.

    Attributes
    ----------
    kind : str
    place : str
        A path relative to the reel's file, or ``run:3``.
    camera, render_pass : str
        Of a take that holds several.
    rate : str
        Of images without a rate.
    """

    kind: MediaKind
    place: str
    camera: str = ""
    render_pass: str = ""
    rate: str = ""

    @property
    def label(self) -> str:
        """For people."""
        return " ".join(filter(None, [self.place, self.camera, self.render_pass]))


@dataclass(frozen=True)
class MediaFacts:
    """What is known of frames.

    Attributes
    ----------
    frames : int
    rate : Fraction
        At which they were made, frames a second.
    width, height : int
    closes : bool
        Whether the first frame follows the last.
    title : str
    shot : str
        What tells takes of one shot from those of others; empty where no shot is known.
    renewable : bool
        Whether other frames of the same motion can be captured.
    stale : bool
        Whether the shot has changed since they were made.
    transparent : bool
    dials : mapping of str to sequence of float
        Values by the frame, and at the motion's end, which labels may say.
    subject : str
        What tells takes of one source from those of others; empty where no shot is known.
    passes : tuple of (str, str)
        Cameras and passes that there are to choose from.
    look : mapping of str to str
        How the shot says that it looks, by names for people.
    """

    frames: int
    rate: Fraction
    width: int
    height: int
    closes: bool = False
    title: str = ""
    shot: str = ""
    renewable: bool = False
    stale: bool = False
    transparent: bool = False
    dials: Mapping[str, Sequence[float]] = field(default_factory=dict, repr=False, compare=False)
    subject: str = ""
    passes: tuple[tuple[str, str], ...] = ()
    look: Mapping[str, str] = field(default_factory=dict, repr=False, compare=False)
