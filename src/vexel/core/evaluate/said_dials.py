"""Dials of a shot frame by frame, as far as its document says them."""

import numpy as np

from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake
from vexel.core.evaluate.lane_sampling import lane_tracks


def said_dials(shot: Shot) -> dict[str, tuple[float, ...]]:
    """Values of the dials that lanes drive or the shot sets: one a frame of its take, and that at the motion's end.

    Those that only saved views set, or that have the source's own value, are known while capturing only.
    """
    clock = shot.clock.exact
    dials = {name: (float(value),) * (clock.frames + 1) for name, value in getattr(shot.source, "dials", {}).items()}
    try:
        tracks = lane_tracks(shot, np.append(clock.phases(), 1.0))
    except Mistake:
        return dials
    driven = {drive: values for drive, values in tracks.items() if drive.startswith("dial:")}
    return dials | {drive.removeprefix("dial:"): tuple(map(float, values)) for drive, values in driven.items()}
