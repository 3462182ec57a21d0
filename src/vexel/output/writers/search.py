"""Reaching a size: the knob of an encoder is turned until the file is just below it."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from vexel.core.errors import Failure
from vexel.core.recipes.byte_size import said_bytes
from vexel.core.wording import counted
from vexel.output.job.job import Job
from vexel.output.writers.codecs import Knob

WITHIN = 0.97
"""Of the size that is wanted, what a file reaches at least."""
ROUNDS = 10
_HALVED = 6.0
"""Steps of CRF that halve a file, about (common practice for H.264 and H.265)."""


class TooLarge(Failure):
    """No quality makes a file that small; `fits` lists settings that would, as patches of the recipe with labels."""

    fits: Sequence[tuple[str, dict[str, Any]]] = ()

    @classmethod
    def of(cls, job: Job, most: int, least: int) -> "TooLarge":
        """A job whose smallest file has more bytes than it may have."""
        share = most / least * 0.9
        count, rate = len(job.timeline.picks), job.timeline.rate.fps
        side = max(math.floor(max(job.width, job.height) * math.sqrt(share) / 2) * 2, 16)
        frames = max(math.floor(count * share), 1)
        slower = max(math.floor(rate * share), 1)
        first = job.timeline.picks[0][0]
        no_size = {"width": None, "height": None}
        fits: list[tuple[str, dict[str, Any]]] = [
            (f"at most {side} px long", {"size": no_size | {"long_side": side}}),
            (f"the first {counted(frames, 'frame')}", {"timing": {"frames": f"{first}-{first + frames - 1}"}}),
            (f"{slower} fps", {"timing": {"rate": str(slower)}}),
        ]
        lowest = "" if job.recipe.form.exact else " at its lowest quality"
        error = cls(
            f"{job.file.name} has {said_bytes(least)}{lowest}, more than {said_bytes(most)}. "
            f"What would about fit: {', or '.join(label for label, _ in fits)}"
        )
        error.fits = fits
        return error


@dataclass
class SizeSearch:
    """Looks for the knob at which a file is at most so large, and at least `WITHIN` of that.

    Attributes
    ----------
    most : int
        Bytes.
    knob : Knob
        To be tried next.
    """

    most: int
    knob: Knob
    lowest: float
    highest: float
    _job: Job
    tried: list[tuple[float, int]] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)

    @classmethod
    def of(cls, job: Job, *, by_bits: bool = False) -> "SizeSearch | None":
        """A search that begins where such a file usually lands; None where no size is asked for.

        Parameters
        ----------
        job : Job
        by_bits : bool
            Whether bits a second are tried, and not levels of quality.
        """
        most = job.recipe.quality.most_bytes
        if most is None:
            return None
        if job.recipe.form.exact:
            return cls(most, Knob(), 0, 0, job)
        if not by_bits and job.recipe.form.quality:
            scale = job.recipe.form.quality
            return cls(most, Knob(level=scale.usual), scale.worst, scale.best, job)
        bits, highest = 8 * most / float(job.timeline.seconds) * 0.98, job.recipe.form.most_kilobits * 1000
        return cls(most, Knob(bits=min(max(round(bits), 1000), highest)), 500, highest, job)

    def another(self, size: int) -> bool:
        """Record the resulting size; return whether another try is due, with a new `knob`.

        Raises
        ------
        TooLarge
            When no quality makes it so small.
        """
        if self._job.recipe.form.exact:
            # What loses nothing has one size.
            if size > self.most:
                raise TooLarge.of(self._job, self.most, size)
            self.notes.append(f"{said_bytes(size)} of at most {said_bytes(self.most)}")
            return False
        value = self.knob.level if self.knob.level is not None else float(self.knob.bits or 0)
        self.tried.append((value, size))
        if self.most * WITHIN <= size <= self.most:
            self.notes.append(f"{said_bytes(size)} of at most {said_bytes(self.most)}")
            return False
        best = value == self._best
        if size <= self.most and best:
            self.notes.append(f"the best quality needs {said_bytes(size)} of at most {said_bytes(self.most)}")
            return False
        if len(self.tried) >= ROUNDS:
            return self._settle(size)
        following = self._next()
        if any(abs(following - before) < 1e-3 for before, _ in self.tried):
            return self._settle(size)
        self._set(following)
        return True

    @property
    def _best(self) -> float:
        return self.highest

    def _settle(self, size: int) -> bool:
        """End with the largest that fits: this one, or one that was tried before.

        Raises
        ------
        TooLarge
            When none does.
        """
        fitting = [(made, value) for value, made in self.tried if made <= self.most]
        if not fitting:
            raise TooLarge.of(self._job, self.most, min(made for _, made in self.tried))
        made, value = max(fitting)
        if size == made:
            share = size / self.most
            if share < WITHIN:
                self.notes.append(f"no step of its quality comes nearer than {share:.0%} of {said_bytes(self.most)}")
            return False
        self._set(value)
        self.tried = [(value, made)] * ROUNDS
        return True

    def _set(self, value: float) -> None:
        self.knob = Knob(level=round(value, 3)) if self.knob.level is not None else Knob(bits=round(value))

    def _next(self) -> float:
        """Where the size is expected to be 1.5 % below what is wanted, by what was tried."""
        aim = math.log(self.most * 0.985)
        axis = (lambda value: value) if self.knob.level is not None else math.log
        back = (lambda value: value) if self.knob.level is not None else math.exp
        points = sorted((axis(value), math.log(size)) for value, size in self.tried)
        above = [point for point in points if point[1] > math.log(self.most)]
        below = [point for point in points if point[1] <= math.log(self.most)]
        if above and below:
            nearest_above = min(above, key=lambda point: point[1])
            nearest_below = max(below, key=lambda point: point[1])
            (x0, y0), (x1, y1) = nearest_below, nearest_above
            share = (aim - y0) / (y1 - y0) if y1 > y0 else 0.5
            at = x0 + (x1 - x0) * min(max(share, 0.1), 0.9)
        else:
            x, y = max(points, key=lambda point: -abs(point[1] - aim))
            slope = -math.log(2) / _HALVED if self.knob.level is not None else 1.0
            if len(points) > 1 and points[0][1] != points[-1][1] and points[0][0] != points[-1][0]:
                slope = (points[-1][1] - points[0][1]) / (points[-1][0] - points[0][0]) or slope
            at = x + (aim - y) / slope
        low, high = sorted((axis(self.lowest), axis(self.highest)))
        return back(min(max(at, low), high))
