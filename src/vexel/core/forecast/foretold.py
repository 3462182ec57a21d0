"""From a probe to what a whole capture comes to: ranges of time, bytes, memory and the size of its file."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import nnls

WIDEST = 1.41
"""The ends of a range are no further from its middle than by this factor: its high end is below twice its low one."""
TIME, BYTES, FILE, MEMORY = 1.35, 1.2, 1.35, 1.3
"""Factors by which outcomes differ from a probe whose frames are alike, as `bench/foretell.py` measures them."""


@dataclass(frozen=True)
class Range:
    """What a figure will lie between."""

    low: float
    high: float

    def has(self, value: float) -> bool:
        """Whether a value lies within."""
        return self.low <= value <= self.high


@dataclass(frozen=True)
class ProbedFrame:
    """A frame that was made, with all cameras and passes.

    Attributes
    ----------
    frame : int
    seconds : float or None
        That a worker took; None where it was there already, and nothing recorded its time.
    bytes : int
    steps : int
        From the frame that the worker made before, of a source that goes from frame to frame; else 0.
    """

    frame: int
    seconds: float | None
    bytes: int
    steps: int = 0


@dataclass(frozen=True)
class Stretch:
    """A stretch of a file.

    Attributes
    ----------
    begin : int
        Its first frame.
    pictures, bytes : int
        Of a file of all of it.
    first_bytes : int
        Of a file of its first picture alone.
    begun_pictures, begun_bytes : int
        Of a file of its beginning: what follows costs as much as in the midst of a film.
    """

    begin: int
    pictures: int
    first_bytes: int
    bytes: int
    begun_pictures: int
    begun_bytes: int

    @property
    def each(self) -> float:
        """Bytes of a picture that follows others."""
        return max(self.bytes - self.begun_bytes, 0) / (self.pictures - self.begun_pictures)


@dataclass(frozen=True)
class FileProbe:
    """Stretches of the file of one camera pass.

    Attributes
    ----------
    pictures : int
        In the whole file.
    frames : int
        Of the shot, that the file shows.
    key_distance : int
        A whole picture is stored after so many; 0 for the first one alone.
    most_bytes : int
        That the recipe keeps to; 0 for any size.
    settled : float
        What a picture of the longest stretch costs, in proportion to one of a short stretch at the same place.
    """

    stretches: tuple[Stretch, ...]
    pictures: int
    frames: int
    key_distance: int = 0
    most_bytes: int = 0
    settled: float = 1.0


@dataclass(frozen=True)
class Probe:
    """Frames of a shot that were made by its workers, and what they took.

    Attributes
    ----------
    frames : tuple of ProbedFrame
    workers : int
    start_seconds : float
        Until the workers had loaded all that they need.
    memory : int
        The most bytes that a worker took; 0 where that is not known.
    files : tuple of FileProbe
        Of the shot's recipe; empty where the frames themselves are what is made.
    recipe : str
        The name of the shot's recipe.
    keeps_states : bool
        Whether a source that goes from frame to frame continues from frames that the probe reached.
    """

    frames: tuple[ProbedFrame, ...]
    workers: int
    start_seconds: float = 0.0
    memory: int = 0
    files: tuple[FileProbe, ...] = ()
    recipe: str = ""
    keeps_states: bool = False


@dataclass(frozen=True)
class Foretold:
    """What a capture comes to.

    Attributes
    ----------
    seconds : Range or None
        With all workers; None where no frame's time is known.
    bytes : Range
        On disk, of the frames that are not there yet.
    memory : Range or None
        Bytes of each worker.
    file_bytes : Range or None
        Of the files of the shot's recipe together.
    frames : tuple of int
        Those that it rests on.
    left : int
        Frames that were not there.
    """

    seconds: Range | None
    bytes: Range
    memory: Range | None
    file_bytes: Range | None
    frames: tuple[int, ...]
    left: int


def foretold(
    probe: Probe,
    left: Sequence[int],
    place: Callable[[int], int] | None = None,
    written: Sequence[int] | None = None,
) -> Foretold:
    """Foretell the capture of some frames.

    Parameters
    ----------
    probe : Probe
    left : sequence of int
        Frames that are not there yet, without those that are equal to another one.
    place : callable, optional
        The position of a frame in the motion's own order, of a source that goes from frame to frame.
    written : sequence of int, optional
        Frames whose files are not there, where those that are equal to another one get files too.
    """
    written = left if written is None else written
    bytes_each = np.array([frame.bytes for frame in probe.frames], float)
    places = [frame.frame for frame in probe.frames]
    sizes = np.interp(written, places, bytes_each) if len(written) else np.zeros(0)
    return Foretold(
        seconds=_seconds(probe, left, place),
        bytes=_about(float(sizes.sum()), BYTES, bytes_each),
        memory=Range(probe.memory / 1.05, probe.memory * MEMORY) if probe.memory else None,
        file_bytes=_file_bytes(probe.files) if probe.files else None,
        frames=tuple(frame.frame for frame in probe.frames),
        left=len(left),
    )


def _seconds(probe: Probe, left: Sequence[int], place: Callable[[int], int] | None) -> Range | None:
    timed = [frame for frame in probe.frames if frame.seconds is not None]
    if not timed:
        return None
    each = np.array([frame.seconds for frame in timed], float)
    if place is None:
        places, spread = _typical(timed)
        work = float(np.interp(left, places, spread).sum()) / probe.workers if left else 0.0
    else:
        step, drawn = nnls(np.array([[max(frame.steps, 1), 1.0] for frame in timed]), each)[0]
        reached = sorted(place(frame.frame) for frame in probe.frames) if probe.keeps_states else []
        work = _by_steps(sorted(place(frame) for frame in left), float(step), float(drawn), probe.workers, reached)
        spread = np.zeros(0)
    # Workers may have been started before: then the capture begins at once.
    return _about(work + (probe.start_seconds / 2 if left else 0.0), TIME, spread)


def _typical(timed: Sequence[ProbedFrame]) -> tuple[list[float], NDArray[np.float64]]:
    """Places and seconds of stretches of neighbours: the median of each, since a worker's first frame takes longer."""
    stretches: list[list[ProbedFrame]] = []
    for frame in timed:
        if stretches and frame.frame == stretches[-1][-1].frame + 1:
            stretches[-1].append(frame)
        else:
            stretches.append([frame])
    places = [float(np.mean([frame.frame for frame in one])) for one in stretches]
    return places, np.array([float(np.median([frame.seconds or 0.0 for frame in one])) for one in stretches])


def _by_steps(places: Sequence[int], step: float, drawn: float, workers: int, reached: Sequence[int]) -> float:
    """Seconds until the last of some workers has ended, each of which goes to its stretch from what is reached."""
    share = -(-len(places) // workers) if places else 0
    ends = []
    for begin in range(0, len(places), share or 1):
        own = places[begin : begin + share]
        nearest = max((one for one in reached if one <= own[0]), default=0)
        ends.append((own[-1] - nearest) * step + len(own) * drawn)
    return max(ends, default=0.0)


def _file_bytes(files: Sequence[FileProbe]) -> Range:
    ranges = [_of_file(file) for file in files]
    return Range(sum(one.low for one in ranges), sum(one.high for one in ranges))


def _of_file(file: FileProbe) -> Range:
    first = max(stretch.first_bytes for stretch in file.stretches)
    longest = max(stretch.pictures for stretch in file.stretches)
    further = [
        (stretch.begin, stretch.each * (file.settled if 2 * stretch.pictures <= longest else 1.0))
        for stretch in file.stretches
        if stretch.pictures > stretch.begun_pictures
    ]
    if not further or file.pictures <= 1:
        return _about(float(first), BYTES, np.zeros(0))
    where = np.linspace(0, file.frames - 1, file.pictures - 1)
    each = np.array([value for _, value in further])
    sizes = np.interp(where, [begin for begin, _ in further], each)
    whole = (file.pictures - 1) // file.key_distance if file.key_distance else 0
    total = first + float(sizes.sum()) + whole * max(first - float(sizes.mean()), 0.0)
    found = _about(total, FILE, each)
    if file.most_bytes and found.high > file.most_bytes:
        return Range(min(found.low, file.most_bytes / WIDEST**2), file.most_bytes)
    return found


def _about(value: float, factor: float, parts: NDArray[np.float64]) -> Range:
    """A range around a value, wider where the parts that it was made of differ."""
    low, high = (parts.min(), parts.max()) if parts.size else (1.0, 1.0)
    spread = float(high / low) if low > 0 else WIDEST**4
    factor = min(factor * spread**0.25, WIDEST)
    return Range(value / factor, value * factor)
