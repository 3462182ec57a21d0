"""What travels to and from a media process: plain values, without open files."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path
from typing import Any, TypeAlias

from vexel.core.errors import Failure, VexelError
from vexel.core.recipes.recipe import Recipe
from vexel.core.reel.media import MediaFacts, MediaRef
from vexel.output.footage.footage import Footage, LeftInPlace
from vexel.output.job.pictures import Pixels
from vexel.output.job.receipt import Receipt


@dataclass(frozen=True)
class GivenMedia:
    """Media that a project knows and no path tells: the frames of a run, or a shot without a take.

    Attributes
    ----------
    footage : Footage or None
    shot : str
        The shot's document, as JSON.
    stale : bool
        Whether the shot has changed since the frames were made.
    name : str
        Of a shot without a take.
    trouble : str
        Why there are none.
    """

    footage: Footage | None = None
    shot: str = ""
    stale: bool = False
    name: str = ""
    trouble: str = ""


@dataclass(frozen=True)
class ReelOrder:
    """A reel with what its project knows of its media.

    Attributes
    ----------
    document : str
        JSON.
    folder : Path
        That paths in it are relative to.
    given : mapping of MediaRef to GivenMedia
    captured : mapping of MediaRef to Footage
        Instants that were captured for this reel.
    """

    document: str
    folder: Path
    given: Mapping[MediaRef, GivenMedia] = field(default_factory=dict)
    captured: Mapping[MediaRef, Footage] = field(default_factory=dict)

    @property
    def footages(self) -> Iterator[Footage]:
        """All frames that the project gives."""
        yield from (one.footage for one in self.given.values() if one.footage is not None)
        yield from self.captured.values()


KEPT_REELS = 8
"""Reels that a media process keeps open."""
Work: TypeAlias = Footage | ReelOrder
"""Where the frames of files come from."""


def sent(work: Work) -> Work:
    """The same without what acts on the project: the asking process moves a damaged frame."""
    if isinstance(work, Footage):
        return _detached(work)
    given = {ref: sent_media(one) for ref, one in work.given.items()}
    return replace(work, given=given, captured={ref: _detached(one) for ref, one in work.captured.items()})


def sent_media(given: GivenMedia) -> GivenMedia:
    """See `sent`."""
    return given if given.footage is None else replace(given, footage=_detached(given.footage))


def _detached(footage: Footage) -> Footage:
    return replace(footage, set_aside=LeftInPlace())


def set_aside(work: Work, file: Path) -> None:
    """Move a damaged frame out of the way, so that a resumed capture makes it again."""
    for footage in [work] if isinstance(work, Footage) else work.footages:
        if file in footage.known:
            footage.set_aside(file)
            return


@dataclass(frozen=True)
class KnownMedia:
    """Media that are open in another process: what is known of them."""

    facts: MediaFacts
    notes: Sequence[str]
    first_file: Path | None

    def picture(self, number: int) -> Pixels:
        """See `vexel.output.reel.media.Media.picture`: it has none in this process."""
        raise Failure(f"frame {number} is read in another process")

    def file(self, number: int) -> Path | None:
        """See `vexel.output.reel.media.Media.file`."""
        return None


@dataclass(frozen=True)
class FileOrder:
    """An order for a file: its recipe's document, as JSON, and its place."""

    recipe: str
    file: Path

    @classmethod
    def of(cls, recipe: Recipe, file: Path) -> "FileOrder":
        """A recipe's file."""
        return cls(recipe.model_dump_json(exclude_defaults=True), file)


@dataclass(frozen=True)
class MadeFile:
    """A file's receipt, or why there is none."""

    receipt: Receipt | None = None
    error: VexelError | None = None


@dataclass(frozen=True)
class Imported:
    """Items and sounds of a reel's document, as JSON values."""

    items: list[dict[str, Any]]
    sounds: list[dict[str, Any]]


@dataclass(frozen=True)
class SoundLength:
    """How long a sound is, or why it cannot be heard."""

    seconds: Fraction | None = None
    trouble: str = ""
