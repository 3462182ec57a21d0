"""Dials of a shot frame by frame, as far as its document says them."""

from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.evaluate.lane_sampling import lane_tracks


def said_dials(shot: Shot) -> dict[str, tuple[float, ...]]:
    """Values of the dials that lanes drive or the shot sets, a number a frame of its take.

    Those that only saved views set, or that have the source's own value, are known while capturing only.
    """
    clock = shot.clock.exact
    dials = {name: (float(value),) * clock.frames for name, value in getattr(shot.source, "dials", {}).items()}
    try:
        tracks = lane_tracks(shot, clock.phases())
    except Mistake:
        return dials
    driven = {drive: values for drive, values in tracks.items() if drive.startswith("dial:")}
    return dials | {drive.removeprefix("dial:"): tuple(map(float, values)) for drive, values in driven.items()}
