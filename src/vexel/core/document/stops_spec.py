"""The rig that goes from one saved view to the next: its rests and travels in whole frames."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any, ClassVar, Literal

from pydantic import Field

from vexel.core.brief_part import BriefPart
from vexel.core.document.lane_spec import Ease
from vexel.core.document.passes import PASSES
from vexel.core.document.rig_spec import RigSpec, RigTraits
from vexel.core.document.view_spec import Seconds, ViewSpec, Way
from vexel.core.lanes.easing import Easing
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
        Of the whole path.
    """

    dwells: tuple[int, ...]
    travels: tuple[int, ...]
    frames: int

    @property
    def arrivals(self) -> tuple[int, ...]:
        """Frame at which each stop is reached; the first one's again at the end of a path that goes back."""
        at, arrivals = 0, [0]
        for dwell, travel in zip(self.dwells, self.travels, strict=False):
            at += dwell + travel
            arrivals.append(at)
        return tuple(arrivals)


class StopsSpec(RigSpec):
    """Saved views in turn, with a rest at each."""

    kind: Literal["stops"]
    traits: ClassVar[RigTraits] = RigTraits(
        "saved views", edit_instead="save other views", travels=True, times_shot=True
    )
    dwell_seconds: Seconds = Field(default=2, description="rest at each view that does not set one")
    travel_seconds: Seconds = Field(default=3, description="from each to the next")
    way: Way = Field(default="around", description="around the subject, straight, or with a cut")
    ease: Ease = Field(default="ease-in-out", description="of each travel")
    closed: bool = Field(default=False, description="continues from the last view to the first")

    @property
    def ends_elsewhere(self) -> bool:
        """See `RigSpec.ends_elsewhere`."""
        return not self.closed

    def timetable(self, views: Sequence[ViewSpec], rate: Rate, span: Span) -> Timetable:
        """Rests and travels in whole frames, and how many frames that makes.

        A cut takes no time. A path with ends shows its last stop in at least one
        frame; one that goes back to the first ends upon it.
        """
        dwells = [_frames(self.dwell_seconds if v.dwell_seconds is None else v.dwell_seconds, rate) for v in views]
        travels = [
            0
            if self.way_from(v) == "cut"
            else _frames(self.travel_seconds if v.travel_seconds is None else v.travel_seconds, rate)
            for v in (views if self.closed else views[:-1])
        ]
        if not self.closed:
            dwells[-1] = max(dwells[-1], 1)
        end = 1 if self.closed and span == "ends" else 0
        return Timetable(tuple(dwells), tuple(travels), max(sum(dwells) + sum(travels) + end, 1))

    @property
    def easing(self) -> Easing:
        """The easing of each travel."""
        return Easing.parse(self.ease)

    def way_from(self, view: ViewSpec) -> Way:
        """How the camera travels from a view to the next."""
        return view.way or self.way

    def frames(self, views: Sequence[ViewSpec], rate: Rate, span: Span) -> int:
        """See `RigSpec.frames`."""
        return self.timetable(views, rate, span).frames

    def arrivals(self, views: Sequence[ViewSpec], rate: Rate, span: Span) -> Sequence[int]:
        """See `RigSpec.arrivals`."""
        return self.timetable(views, rate, span).arrivals[: len(views)]

    def derivation(self, views: Sequence[ViewSpec], rate: Rate, span: Span) -> str:
        """See `RigSpec.derivation`."""
        times = self.timetable(views, rate, span)
        rests, ways = sum(times.dwells), sum(times.travels)
        more = times.frames - rests - ways
        return (
            f"{counted(len(views), 'stop')}: {rests:,} frames of rest + {ways:,} on the way"
            f"{f' + {more}, the first view again' if more else ''} = {times.frames:,} frames"
        )

    def brief(self, views: Sequence[ViewSpec]) -> list[BriefPart]:
        """See `RigSpec.brief`."""
        drawn = list(dict.fromkeys(PASSES[view.drawn].label for view in views if view.drawn))
        stops = f"{counted(len(views), 'saved view')}{' and back' if self.closed else ''}"
        stops += f", some drawn as {' or '.join(drawn)}" if drawn else ""
        return [BriefPart("with the camera going through"), BriefPart(stops, "camera", "Views")]

    def stretched(self, views: Sequence[ViewSpec], factor: float) -> dict[str, Any]:
        """See `RigSpec.stretched`."""
        rig = {name: _short(getattr(self, name) * factor) for name in ("dwell_seconds", "travel_seconds")}
        stops = []
        for view in views:
            stop = view.model_dump(mode="json", exclude_defaults=True)
            stop |= {name: _short(stop[name] * factor) for name in rig if name in stop}
            stops.append(stop)
        return {"rig": rig, "views": stops}


def _frames(seconds: float, rate: Rate) -> int:
    return nearest_whole(Fraction(repr(seconds)) * rate.fps)


def _short(seconds: float) -> float:
    return float(f"{seconds:.6g}")
