"""A reel's cuts as text for other programs, by the ending of the file."""

from collections.abc import Callable
from pathlib import Path

from vexel.core.errors import Mistake
from vexel.core.reel.media import MediaRef
from vexel.core.reel.reel_plan import ReelPlan
from vexel.interchange.cut_list import cmx3600, cut_table

ENDINGS = (".otio", ".edl", ".csv")


def reel_list(
    plan: ReelPlan, first_file: Callable[[MediaRef], Path | None], ending: str, folder: Path
) -> tuple[str, list[str]]:
    """The list, and what it has no place for.

    Parameters
    ----------
    first_file : callable
        The file of media, or of their first frame.
    ending : str
        One of `ENDINGS`.
    folder : Path
        Where the list will lie: paths in it are relative to that.

    Raises
    ------
    Mistake
        When the ending is another, or the list cannot hold the reel.
    """
    if ending == ".csv":
        return cut_table(plan), []
    if ending == ".edl":
        return cmx3600(plan)
    if ending != ".otio":
        raise Mistake(f"{ending} is no list of cuts: use {', '.join(ENDINGS)}")
    # Its library takes a while to load.
    from vexel.interchange.otio_writer import write_otio

    return write_otio(plan, first_file, folder)
