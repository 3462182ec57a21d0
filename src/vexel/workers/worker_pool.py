"""Workers that make frames: what a run asks of them, and those of this machine."""

import threading
from collections import deque
from collections.abc import Callable, Sequence
from typing import Protocol

from vexel.core.errors import Failure
from vexel.core.evaluate.source_facts import SourceAt
from vexel.workers.stage_process import StageProcess
from vexel.workers.worker_task import FrameOrder, FrameResult, make_frames

Done = Callable[[list[FrameResult] | Exception], None]
END_SECONDS = 5.0
"""A worker whose stage has ended ends within this time."""


class Workers(Protocol):
    """Workers that make frames, each in its own stage process.

    Attributes
    ----------
    count : int
        How many there are.
    """

    count: int

    def make(self, done: Done, at: SourceAt, orders: Sequence[FrameOrder], worker: int | None = None) -> None:
        """Make frames on one worker, a certain one if that can be.

        Parameters
        ----------
        done : callable
            Gets the results, or an exception when the worker crashed; nothing once the workers are closed.
        at : SourceAt
        orders : sequence of FrameOrder
        worker : int, optional
        """

    def clock_set_back(self) -> float:
        """Seconds by which the wall clock lags behind where it was when frames were ordered, if that matters."""

    def close(self) -> None:
        """End the stages, also in the middle of a frame."""


class LocalWorkers:
    """A thread for each stage process of this machine: the work is done in the stages, the threads wait for it.

    Parameters
    ----------
    stages : sequence of StageProcess
        They may be asked other things while no run uses them.
    kind : str
        Of the source that is shown first: the stages get ready for it.
    """

    def __init__(self, stages: Sequence[StageProcess], kind: str) -> None:
        self._stages = stages
        self.count = len(stages)
        self._waiting: deque[tuple[int | None, Done, SourceAt, Sequence[FrameOrder]]] = deque()
        self._changed = threading.Condition()
        self._closed = False
        self._threads = [
            threading.Thread(target=self._work, args=(number, stage), name=f"worker {number}", daemon=True)
            for number, stage in enumerate(stages)
        ]
        for stage in stages:
            stage.start(kind)
        for thread in self._threads:
            thread.start()

    def make(self, done: Done, at: SourceAt, orders: Sequence[FrameOrder], worker: int | None = None) -> None:
        """See `Workers.make`."""
        with self._changed:
            self._waiting.append((None if worker is None else worker % self.count, done, at, orders))
            self._changed.notify_all()

    def clock_set_back(self) -> float:
        """Nothing here goes by the wall clock."""
        return 0.0

    def close(self) -> None:
        """See `Workers.close`."""
        with self._changed:
            self._closed = True
            self._changed.notify_all()
        for stage in self._stages:
            stage.end()
        for thread in self._threads:
            thread.join(END_SECONDS)

    def _work(self, number: int, stage: StageProcess) -> None:
        while (order := self._next(number)) is not None:
            done, at, orders = order
            results: list[FrameResult] | Exception
            try:
                results = make_frames(stage, at, orders)
            except Exception as error:  # noqa: BLE001 (the run must hear of every error)
                results = Failure(f"the worker crashed: {error}")
            if not self._closed:
                done(results)

    def _next(self, number: int) -> tuple[Done, SourceAt, Sequence[FrameOrder]] | None:
        """The first order that waits for this worker or for any; None once the workers are closed."""
        with self._changed:
            while not self._closed:
                for place, (worker, done, at, orders) in enumerate(self._waiting):
                    if worker in (None, number):
                        del self._waiting[place]
                        return done, at, orders
                self._changed.wait()
        return None
