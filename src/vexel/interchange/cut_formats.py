"""A reel's cuts as text for other programs: one record a format."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from vexel.core.errors import Mistake
from vexel.core.reel.media import MediaRef
from vexel.core.reel.reel_plan import ReelPlan
from vexel.core.wording import counted
from vexel.interchange.cut_list import cmx3600, cut_table

FirstFile = Callable[[MediaRef], Path | None]
"""The file of media, or of their first frame."""
Written = tuple[str, list[str]]
"""The text, and what it has no place for."""


@dataclass(frozen=True)
class CutFormat:
    """A format.

    Attributes
    ----------
    ending : str
        Of its files, such as ``.edl``.
    about : str
    write : callable
        Takes a plan, what finds files, and the folder that paths are relative to.
    formats : str
        What becomes of a reel's formats.
    """

    ending: str
    about: str
    write: Callable[[ReelPlan, FirstFile, Path], Written]
    formats: str = "left out"

    def text_of(self, plan: ReelPlan, first_file: FirstFile, folder: Path) -> Written:
        """Write a reel's cuts, with notes on all that the format has no place for."""
        text, notes = self.write(plan, first_file, folder)
        count = len(plan.reel.formats)
        lost = [f"{counted(count, 'format is', 'formats are')} {self.formats}: cuts are of the reel's own size"]
        return text, [*notes, *(lost if count else [])]

    @property
    def label(self) -> str:
        """In a word."""
        return self.ending.removeprefix(".").upper()


def _timeline(plan: ReelPlan, first_file: FirstFile, folder: Path) -> Written:
    # Its library takes a while to load.
    from vexel.interchange.otio_writer import write_otio

    return write_otio(plan, first_file, folder)


CUT_FORMATS = {
    one.ending: one
    for one in (
        CutFormat(".otio", "OpenTimelineIO", _timeline, "kept in its metadata alone"),
        CutFormat(".edl", "Edit list, CMX 3600", lambda plan, first_file, folder: cmx3600(plan)),
        CutFormat(".csv", "A table of the cuts", lambda plan, first_file, folder: (cut_table(plan), [])),
    )
}


def cut_format(ending: str) -> CutFormat:
    """The format of an ending.

    Raises
    ------
    Mistake
        When there is none.
    """
    if ending not in CUT_FORMATS:
        raise Mistake(f"{ending} is not a timeline format: use {', '.join(CUT_FORMATS)}")
    return CUT_FORMATS[ending]
