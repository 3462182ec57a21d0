"""The run controller: makes the frames of a take that are missing, and keeps its ledger."""

import queue
import time
from collections import Counter, deque
from collections.abc import Callable, Collection, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Protocol

from vexel.core.errors import Failure
from vexel.core.progress import Progress, progress
from vexel.core.recipes.byte_size import said_bytes
from vexel.disk.finished import Finished
from vexel.disk.room import Room
from vexel.store.frame_states import FrameState
from vexel.workers.planner import Prepared
from vexel.workers.stop import Pause, Stop
from vexel.workers.worker_pool import Workers
from vexel.workers.worker_task import FrameOrder, FrameResult

IN_A_ROW = 3
"""After this number of frames in a row at a limit of time or memory the run stops: the rest would fail too."""
CLOCK_SECONDS, MOST_SET_BACK = 5.0, 60.0
"""Without a result for so long, a run looks whether the clock was set back by more than it would wait for."""
ROOM_SECONDS = 1.0
"""How often a paused run looks whether there is room on the disk."""
LAST_FRAMES_SECONDS = 5.0
"""How long a stopped run waits for frames that are nearly done."""
RATE_ORDERS = 60
"""Number of recent orders from which the rate is calculated."""
LOOKED_UP = 256
"""Number of pictures looked up at once."""
ORDER_SECONDS = 0.5
ORDER_FRAMES = 32
"""Quick frames are ordered together, up to this duration and number: an order costs some milliseconds."""


class Take(Protocol):
    """Where a run's frames and ledger go."""

    damaged: list[Path]
    """Frames that were no longer what they were, where they lie now."""

    def holds(self, pictures: Sequence[tuple[int, str]]) -> dict[int, Finished]:
        """Those of these pictures, told by number and key, that are there already and whole."""

    def path(self, number: int, key: str) -> Path:
        """Where the frame will be written."""

    def record(self, states: Sequence[FrameState]) -> None:
        """Write rows of the ledger."""


@dataclass(frozen=True)
class Outcome:
    """How a run ended.

    Attributes
    ----------
    made, kept, failed, waiting : int
        Frames in each state.
    halt : str
        Why it ended early; empty when the user stopped it or all is done.
    damaged : int
        Frames that had been damaged since they were made, and were set aside.
    """

    made: int
    kept: int
    failed: int
    waiting: int
    halt: str = ""
    damaged: int = 0


@dataclass(frozen=True)
class RunOptions:
    """How a run differs from the usual.

    Attributes
    ----------
    again : collection of int
        Pictures that are made though they are there.
    tries : int
        How often a frame that fails is tried.
    pause : Pause
        Looked at before every frame.
    known_keys : mapping of int to str
        Keys of pictures that an earlier sitting worked out of the same plan: a key takes most of a millisecond.
    """

    again: Collection[int] = ()
    tries: int = 1
    pause: Pause = field(default_factory=Pause)
    known_keys: Mapping[int, str] = field(default_factory=dict)


class Run:
    """One sitting of making frames.

    Parameters
    ----------
    prepared : Prepared
    numbers : sequence of int
        Pictures of the take; see `vexel.core.document.camera_pass`.
    take : Take
    stop : Stop
        Checked before every frame; running frames are given a few seconds.
    room : Room
        The disk that frames are written to: while it is nearly full the run pauses.
    options : RunOptions, optional
    """

    def __init__(
        self,
        prepared: Prepared,
        numbers: Sequence[int],
        take: Take,
        stop: Stop,
        room: Room,
        options: RunOptions | None = None,
    ) -> None:
        self._options = options or RunOptions()
        self._tried: Counter[str] = Counter()
        self._in_a_row = 0
        self._prepared, self._take, self._room = prepared, take, room
        self._numbers = numbers
        self._stop = stop
        self._results: queue.Queue[list[FrameResult] | Exception | None] = queue.Queue()
        self._made = self._kept = self._failed = 0
        self._pace: deque[tuple[float, int]] = deque(maxlen=RATE_ORDERS)

    def go(self, workers: Callable[[], Workers], on_progress: Callable[[Progress], None] = lambda _: None) -> Outcome:
        """Make what is missing.

        Parameters
        ----------
        workers : callable
            Called only when a frame is missing, since they take a second to start.
        on_progress : callable
            Called after every change.
        """
        halt = ""
        with self._stop.cutting(self._wake):
            keys, missing = self._look(on_progress)
            on_progress(self._progress())
            if missing and not self._stop.asked:
                halt = self._make(workers(), keys, missing, on_progress)
        settled = self._made + self._kept + self._failed
        left = len(self._numbers) - settled
        return Outcome(self._made, self._kept, self._failed, left, halt, len(self._take.damaged))

    def _wake(self) -> None:
        """Wake the loop to check the stop, without a result."""
        self._results.put(None)

    def _look(self, on_progress: Callable[[Progress], None]) -> tuple[dict[str, list[int]], deque[str]]:
        """Note the frames that are there; those missing, by key, in order; none when it is stopped meanwhile."""
        keys: dict[str, list[int]] = {}
        for begin in range(0, len(self._numbers), LOOKED_UP):
            pictures: list[tuple[int, str]] = []
            for number in self._numbers[begin : begin + LOOKED_UP]:
                if self._stop.asked:
                    return {}, deque()
                known = self._options.known_keys.get(number)
                pictures.append((number, known or self._prepared.plan.picture_spec(number).key))
            there = self._take.holds([one for one in pictures if one[0] not in self._options.again])
            self._take.record(
                [_state(number, key, "kept", there[number]) for number, key in pictures if number in there]
            )
            self._kept += len(there)
            for number, key in pictures:
                if number not in there:
                    keys.setdefault(key, []).append(number)
            on_progress(self._progress())
        plan = self._prepared.plan
        if plan.inputs.facts.sequential:
            # Reached through those before it: in the motion's own order, also where it is shown backwards.
            return keys, deque(sorted(keys, key=lambda key: plan.course_place(keys[key][0])))
        return keys, deque(keys)

    def _make(
        self, workers: Workers, keys: dict[str, list[int]], missing: deque[str], on_progress: Callable[[Progress], None]
    ) -> str:
        under_way: dict[int, tuple[deque[str], _WorkBatch]] = {}
        hands = _batches(missing, workers.count, self._prepared.plan.inputs.facts.sequential)
        halt = ""
        self._note_pace()
        while under_way or (any(hand.waiting for hand in hands) and not halt and not self._stop.asked):
            pause = self._pause_reason()
            for hand in hands:
                while hand.free and not pause and not halt and not self._stop.asked:
                    share = hand.take()
                    under_way[keys[share[0]][0]] = share, hand
                    self._send(workers, keys, share, hand.worker)
            if pause and not under_way:
                halt = self._wait(pause, on_progress)
                continue
            results = self._next(workers, halt)
            if results is None:
                if halt or self._stop.asked:
                    break
                continue
            if isinstance(results, Exception):
                halt = halt or f"The workers failed: {results}"
                break
            share, hand = under_way.pop(results[0].number)
            halt = halt or self._take_in(results, share, keys)
            hand.give_back(share, results)
            self._note_pace()
            on_progress(self._progress())
        return halt

    def _take_in(self, results: Sequence[FrameResult], share: deque[str], keys: dict[str, list[int]]) -> str:
        """Settle the results of an order, but for frames that are made later; why the run must end, or nothing."""
        halt = ""
        for result in results:
            key = share.popleft()
            halt = halt or result.halt
            # Back to those that wait: a resumed run makes it.
            if result.halt or result.ended:
                share.appendleft(key)
            elif result.error and self._is_tried_again(key):
                share.append(key)
            else:
                self._settle(result, key, keys[key])
            self._in_a_row = self._in_a_row + 1 if result.at_limit else 0
            if result.ended and not self._stop.asked:
                halt = halt or "The process that makes frames was ended: resume the run."
        if self._in_a_row >= IN_A_ROW and not halt:
            halt = f"Stopped, since {self._in_a_row} frames in a row went wrong alike: {results[-1].error}"
        return halt

    def _is_tried_again(self, key: str) -> bool:
        self._tried[key] += 1
        return self._tried[key] < self._options.tries and not self._stop.asked

    def _pause_reason(self) -> str:
        """Why no further frame may be begun now, as a sentence; empty where it may."""
        if self._options.pause.asked:
            return "Paused. Press Continue to make the other frames."
        if not (lacking := self._room.lacking):
            return ""
        free, keep = said_bytes(max(self._room.keep - lacking, 0)), said_bytes(self._room.keep)
        disk = f"Paused: {free} are free on the disk of {self._room.place}, and {keep} must stay free."
        return f"{disk} Free some space, and the run continues."

    def _wait(self, paused: str, on_progress: Callable[[Progress], None]) -> str:
        """Pause for a moment, which a stop ends; why the run must end, or nothing."""
        on_progress(replace(self._progress(), rate=0.0, seconds_left=None, paused=paused))
        # What was made before says nothing of the pace after it.
        self._pace.clear()
        came = None
        with suppress(queue.Empty):
            came = self._results.get(timeout=ROOM_SECONDS)
        self._note_pace()
        return f"The workers failed: {came}" if isinstance(came, Exception) else ""

    def _send(self, workers: Workers, keys: dict[str, list[int]], share: Sequence[str], worker: int | None) -> None:
        orders = []
        for key in share:
            number = keys[key][0]
            orders.append(FrameOrder(number, self._prepared.plan.picture_spec(number), self._take.path(number, key)))
        workers.make(self._results.put, self._prepared.at, orders, worker)

    def _next(self, workers: Workers, halt: str) -> list[FrameResult] | Exception | None:
        ending = halt or self._stop.asked
        try:
            result = self._result(workers, LAST_FRAMES_SECONDS if ending else None)
            # The marker from `stop` wakes the loop; running frames may still arrive.
            return self._results.get(timeout=LAST_FRAMES_SECONDS) if result is None else result
        except queue.Empty:
            return None

    def _result(self, workers: Workers, seconds: float | None) -> list[FrameResult] | Exception | None:
        """The next result, within some seconds or whenever it comes.

        Dask sends its messages by the wall clock: where that is set back by an hour, none is sent for an hour.
        """
        while True:
            try:
                return self._results.get(timeout=CLOCK_SECONDS if seconds is None else seconds)
            except queue.Empty:
                if seconds is not None:
                    raise
                back = workers.clock_set_back()
                if back > MOST_SET_BACK:
                    return Failure(f"the clock of this machine was set back by {back:,.0f} s. Resume the run.")

    def _settle(self, result: FrameResult, key: str, numbers: list[int]) -> None:
        """Write the ledger's rows of a frame, and of all frames equal to it."""
        if result.error:
            states = [FrameState(n, key, "failed", error=result.error) for n in numbers]
            self._failed += len(states)
        else:
            states = [replace(_state(result.number, key, "made", result.file), seconds=result.seconds)]
            self._made += 1
        self._take.record(states)
        twins = [(n, key) for n in numbers if n != result.number]
        if not result.error and twins:
            # Frames that are equal have one key: made once, they are all there, where the take keeps them by key.
            there = self._take.holds(twins)
            self._kept += len(there)
            self._take.record([_state(n, key, "kept", file) for n, file in there.items()])

    def _note_pace(self) -> None:
        self._pace.append((time.monotonic(), self._made))

    def _progress(self) -> Progress:
        done = self._made + self._kept + self._failed
        if len(self._pace) < 2:
            return progress(done, len(self._numbers), 0, 0.0)
        (begun, before), (now, made) = self._pace[0], self._pace[-1]
        return progress(done, len(self._numbers), made - before, now - begun)


def _state(number: int, key: str, state: str, file: Finished) -> FrameState:
    return FrameState(number, key, state, bytes=file.bytes, digest=file.digest, written=file.written)


@dataclass
class _WorkBatch:
    """Frames that are handed out together: to any worker, or a stretch of the shot to one of them.

    Attributes
    ----------
    waiting : deque of str
        Keys of the frames.
    most : int
        Greatest number of running orders.
    worker : int or None
    under_way : int
    seconds : float
        What a frame took last; 0 while that is not known.
    """

    waiting: deque[str]
    most: int
    worker: int | None = None
    under_way: int = 0
    seconds: float = 0.0

    @property
    def free(self) -> bool:
        return bool(self.waiting) and self.under_way < self.most

    def take(self) -> deque[str]:
        """The next frames for one order: fewer towards the end, so that all workers end together."""
        self.under_way += 1
        # A task for each frame cost more than making a quick one: 36 of 62 ms of a page's frame were the browser's.
        fit = int(ORDER_SECONDS / self.seconds) if self.seconds else 1
        fit = max(1, min(fit, ORDER_FRAMES, len(self.waiting) // self.most))
        return deque(self.waiting.popleft() for _ in range(fit))

    def give_back(self, rest: deque[str], results: Sequence[FrameResult]) -> None:
        """Take note of an order that came back, with frames that were not made."""
        self.under_way -= 1
        self.waiting.extendleft(reversed(rest))
        self.seconds = max((result.seconds for result in results), default=0.0)


def _batches(missing: deque[str], workers: int, sequential: bool) -> list[_WorkBatch]:
    """How frames are handed out: an order a worker and one more in hand, so that none waits and a stop loses little."""
    if not sequential or workers == 1:
        return [_WorkBatch(missing, 2 * workers)]
    keys, share = list(missing), -(-len(missing) // workers)
    return [_WorkBatch(deque(keys[n * share : (n + 1) * share]), 2, n) for n in range(workers)]
