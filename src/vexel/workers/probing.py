"""Probes: some frames of a shot, made as its capture makes them, from which the whole is foretold."""

import time
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path

from vexel.core.document.source_spec import SimulationSource
from vexel.core.errors import Failure, Stopped
from vexel.core.evaluate.source_facts import SourceAt
from vexel.core.forecast.foretold import Probe, ProbedFrame
from vexel.core.forecast.probe_frames import first_frames, frame_between, stretches
from vexel.core.progress import Progress, progress
from vexel.core.wording import counted
from vexel.disk.finished import Finished
from vexel.disk.room import Room
from vexel.store.frame_states import READY, FrameState
from vexel.workers.planner import Prepared
from vexel.workers.run import Run, Take
from vexel.workers.stage_process import StageProcess
from vexel.workers.stop import Stop
from vexel.workers.worker_pool import Done, Workers
from vexel.workers.worker_task import FrameOrder

REACHED_SECONDS = 60.0
"""The last frame of a source that goes from frame to frame is probed where getting there takes no longer."""
FEW_STEPS = 6
"""Frames from which a step of such a source is measured before it goes further."""


@dataclass(frozen=True)
class Probed:
    """What a probe left: its figures, and stretches of frames that are there, for the size of a file."""

    probe: Probe
    stretches: tuple[range, ...]


class _NotedTake:
    """A take that remembers what it recorded.

    Parameters
    ----------
    take : Take
    seconds_of : callable
        What a frame that is there already took when it was made: its picture's number and key to seconds, or None.
    """

    def __init__(self, take: Take, seconds_of: Callable[[int, str], float | None]) -> None:
        self._take, self._seconds_of = take, seconds_of
        self.damaged: list[Path] = take.damaged
        self.states: dict[int, FrameState] = {}
        self.seconds: dict[int, float | None] = {}

    def holds(self, pictures: Sequence[tuple[int, str]]) -> dict[int, Finished]:
        """See `Take`."""
        return self._take.holds(pictures)

    def path(self, number: int, key: str) -> Path:
        """See `Take`."""
        return self._take.path(number, key)

    def record(self, states: Sequence[FrameState]) -> None:
        """See `Take`."""
        for state in states:
            self.states[state.number] = state
            made = state.state == "made"
            self.seconds[state.number] = state.seconds if made else self._seconds_of(state.number, state.key)
        self._take.record(states)


class _OneWorker:
    """The first of some workers: what goes from frame to frame is timed in a known order."""

    count = 1

    def __init__(self, workers: Workers) -> None:
        self._workers = workers

    def make(self, done: Done, at: SourceAt, orders: Sequence[FrameOrder], worker: int | None = None) -> None:
        """See `Workers.make`."""
        self._workers.make(done, at, orders, 0)

    def clock_set_back(self) -> float:
        """See `Workers.clock_set_back`."""
        return self._workers.clock_set_back()

    def close(self) -> None:
        """The workers are used further."""


class Probing:
    """One probe.

    Parameters
    ----------
    prepared : Prepared
    take : Take
        Where its frames go, so that a capture finds them.
    stages : sequence of StageProcess
        Of the workers: they get ready before the first frame, and are asked for their memory.
    workers : callable
        Starts the workers that use these stages.
    stop : Stop
    room : Room
    seconds_of : callable
        See `_NotedTake`.
    begun : float
        When the work began, by `time.monotonic`: what comes before the first frame belongs to the capture too.
    on_progress : callable
    """

    def __init__(
        self,
        prepared: Prepared,
        take: Take,
        stages: Sequence[StageProcess],
        workers: Callable[[], Workers],
        stop: Stop,
        room: Room,
        seconds_of: Callable[[int, str], float | None],
        begun: float,
        on_progress: Callable[[Progress], None] = lambda _: None,
    ) -> None:
        self._begun = begun
        self._prepared, self._plan = prepared, prepared.plan
        self._take = _NotedTake(take, seconds_of)
        self._stages, self._hire, self._stop, self._room = stages, workers, stop, room
        self._tell = on_progress
        self._frames: list[int] = []
        self._wanted = 0

    def go(self) -> Probed:
        """Make the frames.

        Raises
        ------
        Stopped
            When it is stopped; the frames that were made are kept.
        Failure
            When a frame failed.
        """
        plan, sequential = self._plan, self._plan.inputs.facts.sequential
        start = self._warm()
        if sequential:
            self._reach()
        else:
            self._make(first_frames(plan))
            while (between := frame_between(self._costs())) is not None:
                self._make([between])
        there = sorted(self._frames)
        heaviest = max(there, key=self._bytes)
        known = [seconds for frame in there if (seconds := self._seconds(frame)) is not None]
        each = max(sum(known) / len(known), 1e-3) if known else 1.0
        parts = (
            [range(begin, end) for begin, end in _runs_of(there)]
            if sequential
            else stretches(there, heaviest, plan.clock.frames, each, len(self._stages))
        )
        self._make([frame for part in parts for frame in part])
        peaks = [stage.peak_bytes() for stage in self._stages]
        frames = tuple(self._probed(frame) for frame in sorted(self._frames))
        keeps = isinstance(plan.shot.source, SimulationSource)
        probe = Probe(frames, len(self._stages), start, max(peaks, default=0), keeps_states=keeps)
        return Probed(probe, tuple(part for part in parts if len(part) > 1) or (range(there[0], there[0] + 1),))

    def _warm(self) -> float:
        """Let all workers load what the first frame needs; the seconds since the work began."""
        spec = self._plan.frame_spec(0)
        self._hire()
        with self._stop.cutting(self._cut), ThreadPoolExecutor(len(self._stages)) as pool:
            for ready in [pool.submit(stage.warm_up, self._prepared.at, spec) for stage in self._stages]:
                ready.result()
        return time.monotonic() - self._begun

    def _cut(self) -> None:
        for stage in self._stages:
            stage.cut()

    def _reach(self) -> None:
        """Frames of a source that goes from frame to frame: the first ones, then further ones that are soon reached."""
        count = self._plan.clock.frames
        order = sorted(range(count), key=self._place)
        self._make(order[: FEW_STEPS + 1])
        timed = [seconds for frame in self._frames if (seconds := self._seconds(frame)) is not None]
        step = min(timed[1:] or timed, default=0.0)
        for place in (count // 2, max(count - FEW_STEPS, 0)):
            if place > FEW_STEPS and place * step <= REACHED_SECONDS:
                self._make(order[place : place + FEW_STEPS])

    def _place(self, frame: int) -> int:
        return self._plan.course_place(self._picture(frame))

    def _picture(self, frame: int, camera_pass: int = 0) -> int:
        return frame * len(self._plan.shot.camera_passes) + camera_pass

    def _make(self, frames: Sequence[int]) -> None:
        new = [frame for frame in dict.fromkeys(frames) if frame not in self._frames]
        if not new:
            return
        passes = range(len(self._plan.shot.camera_passes))
        numbers = [self._picture(frame, camera_pass) for frame in new for camera_pass in passes]
        before = self._wanted
        self._wanted += len(numbers)

        def tell(stands: Progress) -> None:
            self._tell(replace(stands, done=before + stands.done, count=before + stands.count))

        def hired() -> Workers:
            workers = self._hire()
            return _OneWorker(workers) if self._plan.inputs.facts.sequential else workers

        outcome = Run(self._prepared, numbers, self._take, self._stop, self._room).go(hired, tell)
        if self._stop.asked:
            raise Stopped("The probe was stopped. The frames that it made are kept.")
        if outcome.failed:
            failed = next(state for state in self._take.states.values() if state.state == "failed")
            raise Failure(f"{counted(outcome.failed, 'frame')} failed: {failed.error}")
        if outcome.halt or outcome.waiting:
            raise Failure(outcome.halt or "the workers ended before the probe did: try again")
        self._frames += new
        self._tell(progress(self._wanted, self._wanted, 0, 0.0))

    def _states(self, frame: int) -> list[FrameState]:
        numbers = (self._picture(frame, n) for n in range(len(self._plan.shot.camera_passes)))
        return [state for n in numbers if (state := self._take.states.get(n)) is not None and state.state in READY]

    def _bytes(self, frame: int) -> int:
        return sum(state.bytes for state in self._states(frame))

    def _seconds(self, frame: int) -> float | None:
        known = [self._take.seconds.get(state.number) for state in self._states(frame)]
        return None if any(one is None for one in known) else sum(one for one in known if one is not None)

    def _costs(self) -> dict[int, float]:
        """Seconds of the frames so far, or their bytes where the seconds of one are not known."""
        seconds = {frame: self._seconds(frame) for frame in self._frames}
        if all(seconds.values()):
            return {frame: value for frame, value in seconds.items() if value is not None}
        return {frame: float(self._bytes(frame)) for frame in self._frames}

    def _probed(self, frame: int) -> ProbedFrame:
        return ProbedFrame(frame, self._seconds(frame), self._bytes(frame), self._steps(frame))

    def _steps(self, frame: int) -> int:
        """From the frame that was made before this one, in the motion's own order."""
        if not self._plan.inputs.facts.sequential:
            return 0
        before = [self._place(other) for other in self._frames[: self._frames.index(frame)]]
        return max(self._place(frame) - max(before, default=-1), 1)


def _runs_of(frames: Sequence[int]) -> list[tuple[int, int]]:
    """Runs of neighbours among sorted numbers, as begins and ends."""
    runs: list[tuple[int, int]] = []
    for frame in frames:
        if runs and runs[-1][1] == frame:
            runs[-1] = runs[-1][0], frame + 1
        else:
            runs.append((frame, frame + 1))
    return runs
