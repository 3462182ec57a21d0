"""Whether the loop of a shot closes: as far as its document and its source tell, and as measured on pictures."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from vexel.core.checks.preflight import preflight
from vexel.core.document.camera_spec import CameraSpec
from vexel.core.document.rig_spec import OrbitSpec
from vexel.core.document.shot import Shot, read_shot_document
from vexel.core.evaluate.source_facts import SourceFacts
from vexel.core.finding import SEAMS

SAME = 2 / 255
"""Largest difference of a channel, as a share of white, up to which two pictures count as one."""
LIKE_A_STEP = 1.5
"""How many times the usual step the one from the last picture to the first may be, where none follows the last."""
SMALL_STEP = 0.1
"""Share of the usual step by which the picture after the last may differ from the first."""


@dataclass(frozen=True)
class Seam:
    """How the end of a shot meets its beginning.

    Attributes
    ----------
    state : {"none", "closes", "open", "source"}
        No loop; a loop that closes; one that does not; one of which only pictures tell.
    what : str
        In words; empty where there is no loop.
    """

    state: Literal["none", "closes", "open", "source"]
    what: str = ""


@dataclass(frozen=True)
class Difference:
    """How far two pictures differ, as shares of white: on average, and at most."""

    mean: float
    most: float


@dataclass(frozen=True)
class SeamTrial:
    """What is drawn to measure a seam.

    Attributes
    ----------
    shot : Shot
        The motion of a shot and the frame after its last, before a camera that stands.
    pairs : tuple of (int, int)
        Numbers of frames to be compared: at the beginning, at the end, and at the seam.
    follows : bool
        Whether a frame follows the last one; else the last is compared with the first.
    """

    shot: Shot
    pairs: tuple[tuple[int, int], ...]
    follows: bool


def seam_of(shot: Shot, facts: SourceFacts | None = None) -> Seam:
    """The seam, as far as the document and, where they are given, the facts of its source tell."""
    if shot.clock.span != "loop":
        return Seam("none")
    gaps = [finding.what for finding in preflight(shot) if finding.name in SEAMS]
    if gaps:
        return Seam("open", "; ".join(gaps))
    for camera in shot.all_cameras if shot.source.traits.gives == "geometry" else ():
        if not _returns(camera, main=camera is shot.camera):
            return Seam("open", f"the camera {camera.name} ends elsewhere than it began")
    if facts is None or facts.time_inputs or facts.sequential or facts.source_frames is not None:
        return Seam("source", "whether it closes depends on the source")
    return Seam("closes", "the loop closes: the frame after the last is the first again")


def _returns(camera: CameraSpec, *, main: bool) -> bool:
    """Whether a camera ends as it began; turns of the main one are checked by preflight."""
    rig = camera.rig
    if isinstance(rig, OrbitSpec):
        return main or all(step.turns == round(step.turns) for step in rig.steps)
    return not (rig.traits.travels and rig.ends_elsewhere)


def seam_trial(shot: Shot, facts: SourceFacts) -> SeamTrial:
    """What is drawn to measure whether a source closes a loop; the camera and lanes are checked by `seam_of`."""
    clock = shot.clock.exact
    follows, last = facts.source_frames is None, clock.motion - 1
    own = clock.own and clock.own + follows
    document = shot.model_dump(mode="json", exclude={"cameras", "labels", "lanes"})
    document["clock"] = {
        "rate": shot.clock.rate,
        "frames": clock.motion + follows,
        "span": "ends" if follows else "loop",
        "retimed_from": own,
    }
    document["camera"]["rig"] = {"kind": "still"}
    document["lanes"] = [lane.model_dump(mode="json") for lane in shot.lanes if lane.drive.startswith("dial:")]
    seam = (last + 1, 0) if follows else (last, 0)
    pairs = ((0, min(1, last)), (max(last - 1, 0), last), seam)
    return SeamTrial(read_shot_document(document), pairs, follows)


def measured_seam(trial: SeamTrial, differences: Sequence[Difference]) -> Seam:
    """What the differences of a trial's pairs say.

    Parameters
    ----------
    differences : sequence of Difference
        As long as `trial.pairs`.
    """
    *steps, seam = differences
    usual = max(step.mean for step in steps)
    share = SMALL_STEP if trial.follows else LIKE_A_STEP
    last = "the frame after the last" if trial.follows else "the last frame"
    gap = f"measured: {last} differs from the first by {_shares(seam)}"
    if seam.most <= SAME or seam.mean <= share * usual:
        return Seam("closes", f"{gap}, so the loop closes")
    return Seam("open", f"{gap}; frames that follow each other differ by {usual:.1%} on average")


def _shares(difference: Difference) -> str:
    if not difference.most:
        return "nothing"
    return f"{difference.mean:.1%} of white on average and {difference.most:.0%} at most"
