"""When a camera is at each of its saved views: rests and travels in whole frames."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from vexel.core.document.rig_spec import StopsSpec
from vexel.core.document.view_spec import ViewSpec, Way
from vexel.core.time.clock import Span, nearest_whole
from vexel.core.time.rate import Rate
from vexel.core.wording import counted


@dataclass(frozen=True)
class Timetable:
    """When the camera is at each stop, counted in frames.

    Attributes
    ----------
    dwells : tuple of int
        Rest at each stop.
    travels : tuple of int
        From each stop to the next; one more than gaps between stops where it
        goes back to the first.
    frames : int
        Of the whole walk.
    """

    dwells: tuple[int, ...]
    travels: tuple[int, ...]
    frames: int

    @property
    def arrivals(self) -> tuple[int, ...]:
        """Frame at which each stop is reached; the first one's again at the end of a walk that goes back."""
        at, arrivals = 0, [0]
        for dwell, travel in zip(self.dwells, self.travels, strict=False):
            at += dwell + travel
            arrivals.append(at)
        return tuple(arrivals)


def timetable(stops: StopsSpec, views: Sequence[ViewSpec], rate: Rate, span: Span) -> Timetable:
    """Rests and travels in whole frames, and how many frames that makes.

    A cut takes no time. A walk with ends shows its last stop in at least one
    frame; one that goes back to the first ends upon it.
    """
    dwells = [_frames(stops.dwell_seconds if v.dwell_seconds is None else v.dwell_seconds, rate) for v in views]
    travels = [
        0
        if way_from(stops, v) == "cut"
        else _frames(stops.travel_seconds if v.travel_seconds is None else v.travel_seconds, rate)
        for v in (views if stops.closed else views[:-1])
    ]
    if not stops.closed:
        dwells[-1] = max(dwells[-1], 1)
    end = 1 if stops.closed and span == "ends" else 0
    return Timetable(tuple(dwells), tuple(travels), max(sum(dwells) + sum(travels) + end, 1))


def way_from(stops: StopsSpec, view: ViewSpec) -> Way:
    """How the camera goes on from a view."""
    return view.way or stops.way


def stops_derivation(stops: StopsSpec, views: Sequence[ViewSpec], rate: Rate, span: Span) -> str:
    """How the number of frames follows."""
    times = timetable(stops, views, rate, span)
    rests, ways = sum(times.dwells), sum(times.travels)
    more = times.frames - rests - ways
    return (
        f"{counted(len(views), 'stop')}: {rests:,} frames of rest + {ways:,} on the way"
        f"{f' + {more}, the first view again' if more else ''} = {times.frames:,} frames"
    )


def _frames(seconds: float, rate: Rate) -> int:
    return nearest_whole(Fraction(repr(seconds)) * rate.fps)
