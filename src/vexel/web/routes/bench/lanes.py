"""Blueprint: lanes of a shot, as curves and as played in."""

import numpy as np
from flask import Blueprint
from pydantic import Field

from vexel.core.document.shot import Shot
from vexel.core.evaluate.lane_sampling import lane_places, lane_tracks
from vexel.core.lanes.record_lane import keys_of_recording
from vexel.core.lanes.targets import target_name
from vexel.core.time.ruler import Unit, ticks
from vexel.web.schemas.common import Preview
from vexel.web.schemas.shots import LaneCurve, PlayedIn, StripBody
from vexel.web.services import patched, services
from vexel.web.spec import answers, spec

CURVE_POINTS = 240
WINDOW_POINTS = 600
blueprint = Blueprint("lanes", __name__, url_prefix="/api")


class Stretch(Preview):
    """Shown frames of a shot, from one to another."""

    first: int = Field(default=0, ge=0)
    last: int = Field(default=0, ge=0)
    unit: Unit = "frames"
    marks: int = Field(default=12, ge=1, le=100, description="at most this many marks of the ruler")


@blueprint.post("/shots/<shot_id>/strip")
@spec.validate(resp=answers(StripBody), tags=["lanes"])
def strip_of(shot_id: str, json: Stretch) -> StripBody:
    """A stretch of the shot, with its lanes more finely than the shot itself tells them."""
    shot = patched(services().project.shots.shot(shot_id), json.patch)
    clock = shot.clock.exact
    last = min(json.last, clock.frames - 1)
    return StripBody(
        ticks=ticks(clock, json.unit, min(json.first, last), last, json.marks),
        curves=lane_curves(shot, json.first, last, WINDOW_POINTS),
    )


def lane_curves(shot: Shot, first: int = 0, last: int | None = None, points: int = CURVE_POINTS) -> list[LaneCurve]:
    """Lanes along a stretch of the shot; the whole of it if no last frame is given."""
    if not shot.lanes:
        return []
    phases = shot.clock.exact.phases()
    end = len(phases) - 1 if last is None else min(last, len(phases) - 1)
    first = min(first, end)
    frames = np.unique(np.linspace(first, end, min(end - first + 1, points)).round()).astype(int)
    everywhere = phases[np.unique(np.linspace(0, len(phases) - 1, min(len(phases), points)).round()).astype(int)]
    values, whole = lane_tracks(shot, phases[frames]), lane_tracks(shot, everywhere)
    curves = []
    for lane in shot.lanes:
        reached = [*whole[lane.drive], *(key[1] for key in lane.keys)]
        places = lane_places(shot, lane, phases[frames]).tolist() if lane.keys else []
        curves.append(
            LaneCurve(
                drive=lane.drive,
                low=float(min(reached)),
                high=float(max(reached)),
                frames=frames.tolist(),
                values=values[lane.drive].tolist(),
                places=places,
            )
        )
    return curves


def played(shot: Shot, gesture: PlayedIn) -> dict[str, object]:
    """The merge patch that makes lanes of a gesture; each takes the place of the lane that drove the same."""
    clock = shot.clock.exact
    lanes = [lane.model_dump(mode="json", exclude_defaults=True) for lane in shot.lanes]
    for track in gesture.tracks:
        lane = {"drive": track.drive, "keys": keys_of_recording(clock, track.samples, gesture.tolerance)}
        places = [n for n, old in enumerate(lanes) if old["drive"] == track.drive] or [len(lanes)]
        lanes[places[0] : places[0] + 1] = [lane]
    return {"lanes": lanes}


def played_name(gesture: PlayedIn) -> str:
    """What was played in, for undo."""
    return "recording " + " and ".join(target_name(track.drive) for track in gesture.tracks)
