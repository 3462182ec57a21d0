"""What every kind of source offers, and the error that all raise."""

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from typing import TYPE_CHECKING, Protocol, TypeAlias, runtime_checkable

from vexel.core.evaluate.source_facts import SourceFacts

if TYPE_CHECKING:
    from vexel.imaging.light import Picture
    from vexel.sources.meshes.parts import Part


@dataclass(frozen=True)
class FrameRequest:
    """What one frame asks of its source.

    Attributes
    ----------
    dials : mapping of str to float
    time_inputs : mapping of str to int or Fraction
        Attributes of the instant on which the source depends, by its facts,
        or the slot that the instant shows.
    size : (int, int)
        Width and height of the frame in pixels.
    layout : (int, int)
        Width and height that a drawing counts in.
    background : str
        ``#rrggbb`` or ``transparent``.
    samples : int
        How many samples a pixel is made of, for a source that has no sampling of the stage's.
    stamp : str
        What identified the slot's picture when the frame was planned.
    """

    dials: Mapping[str, float]
    time_inputs: Mapping[str, int | Fraction]
    size: tuple[int, int]
    layout: tuple[int, int]
    background: str
    samples: int = 1
    stamp: str = ""


Shown: TypeAlias = "list[Part] | Picture"
"""Parts, for the camera to look at, or a picture."""


class Source(Protocol):
    """Something that gives every frame of a shot."""

    facts: SourceFacts

    def show(self, asked: FrameRequest) -> Shown:
        """What the source shows.

        Raises
        ------
        SourceError
            When the source cannot give this frame.
        """


@runtime_checkable
class Encoded(Protocol):
    """A source whose pictures come encoded, so that they need not be encoded again."""

    def png(self, asked: FrameRequest) -> bytes:
        """What `Source.show` gives, as a PNG file."""


@runtime_checkable
class Watched(Protocol):
    """A source whose code is watched while it runs."""

    @property
    def readings(self) -> list[tuple[str, str]]:
        """What it read beside its own files; see `vexel.sources.code.watch.Reading`."""


@runtime_checkable
class Closing(Protocol):
    """A source that holds on to something outside its process."""

    def close(self) -> None:
        """Let go of it."""
