"""Whether the loop of a shot closes."""

from dataclasses import dataclass
from typing import Literal

from vexel.core.checks.preflight import preflight
from vexel.core.document.shot import Shot
from vexel.core.finding import SEAMS


@dataclass(frozen=True)
class Seam:
    """How the end of a shot meets its beginning.

    Attributes
    ----------
    state : {"none", "closes", "open", "source"}
        No loop; a loop that closes; one that does not; one of which only the source knows.
    what : str
        In words; empty where there is no loop.
    """

    state: Literal["none", "closes", "open", "source"]
    what: str = ""


def seam_of(shot: Shot) -> Seam:
    """The seam, as far as the document tells."""
    if shot.clock.span != "loop":
        return Seam("none")
    gaps = [finding.what for finding in preflight(shot) if finding.name in SEAMS]
    if gaps:
        return Seam("open", "; ".join(gaps))
    rig = shot.camera.rig
    travels = shot.source.traits.gives == "geometry" and rig.traits.travels
    if travels and rig.ends_elsewhere:
        return Seam("open", "the camera ends elsewhere than it began")
    if shot.orbit is None and not travels:
        return Seam("source", "whether it closes depends on the source: compare first and last")
    return Seam("closes", "the loop closes: the frame after the last is the first again")
