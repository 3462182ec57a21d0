"""All background work of the server: one queue, one way to stop, one stream of news."""

import logging
import threading
import time
from collections import deque
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from vexel.core.errors import Mistake
from vexel.core.progress import Progress, progress
from vexel.web.jobs.endings import BUSY, REMOVED, called_off, ending_of
from vexel.web.jobs.job import Ending, Job, JobKey, JobKind, Record, Work
from vexel.web.schemas.news import JobChanged

Line = Literal["frames", "files", "checks", "figures"]
"""Orders of one line run one after another. Lines run in parallel."""
LINES: tuple[Line, ...] = ("frames", "files", "checks", "figures")
TELL_SECONDS = 0.5
"""News of progress comes no more often than this."""
KEPT_KINDS = ("check", "probe", "figures")
"""Kinds whose newest ended job is remembered, since nothing else records what it came to."""
log = logging.getLogger("vexel")


@dataclass(frozen=True)
class Order:
    """Jobs that are carried out together."""

    jobs: Sequence[Job]
    work: Work


class Jobs:
    """The jobs of a server. Each goes from queued to running, and ends once: stopped, failed or done.

    Parameters
    ----------
    send : callable
        Takes each piece of news.
    home : Path
        The project's folder, for sentences.
    records : mapping of str to Record
        Where jobs of a kind are written down.
    threads : bool, optional
        Whether each line has a thread that runs its orders. Without threads, the caller runs them by `begin_next` and
        `settle`.
    """

    def __init__(
        self,
        send: Callable[[JobChanged], None],
        home: Path,
        records: Mapping[JobKind, Record],
        *,
        threads: bool = True,
    ) -> None:
        self._send, self._home, self._records = send, home, records
        self._turn = threading.Condition(threading.RLock())
        self._waiting: dict[Line, deque[Order]] = {line: deque() for line in LINES}
        self._jobs: dict[JobKey, Job] = {}
        self._used: dict[JobKey, int] = {}
        self._removed: set[JobKey] = set()
        self._told: dict[JobKey, float] = {}
        self._begun: dict[Line, JobKey] = {}
        self._closing = False
        for line in LINES if threads else ():
            threading.Thread(target=self._serve, args=(line,), name=f"{line} of jobs", daemon=True).start()

    def find(self, key: JobKey) -> Job | None:
        """The queued or running job of a key, or the last one of a kind that is remembered."""
        return self._jobs.get(key)

    def ahead(self, line: Line) -> dict[JobKey, JobKey]:
        """The job right before each queued one of a line: queued, or running."""
        found: dict[JobKey, JobKey] = {}
        with self._turn:
            first = self._jobs.get(self._begun[line]) if line in self._begun else None
            before = first.key if first is not None and first.under_way else None
            for order in self._waiting[line]:
                left = [job.key for job in order.jobs if job.under_way]
                found |= {key: before for key in left if before is not None}
                before = left[-1] if left else before
        return found

    def order(self, line: Line, jobs: Sequence[Job], work: Work) -> list[Job]:
        """Queue jobs that run together. A key that is already queued or running gets no second job.

        Returns
        -------
        list of Job
            The queued or running job of each key, in the given order.

        Raises
        ------
        Mistake
            When what a job works on is being removed.
        """
        with self._turn:
            new = [job for job in jobs if (there := self._jobs.get(job.key)) is None or not there.under_way]
            for job in new:
                self._refuse_removed(job)
            for job in new:
                self._record(job)
                self._jobs[job.key] = job
            if new:
                self._waiting[line].append(Order(new, work))
                self._turn.notify_all()
            return [self._jobs[job.key] for job in jobs]

    @contextmanager
    def going(self, job: Job) -> Iterator[Job]:
        """Run a job in this thread. A running job of the same key is asked to stop first."""
        with self._turn:
            self._refuse_removed(job)
            if (before := self._jobs.get(job.key)) is not None:
                before.stop.ask()
            self._jobs[job.key] = job
            self._begin(job)
        ending = Ending("done")
        try:
            yield job
        except Exception as error:
            ending = ending_of(job, error, self._home)
            raise
        finally:
            self._end(job, ending)

    def stop(self, key: JobKey) -> None:
        """Stop a job: immediately if it is queued, else when its work checks the request."""
        with self._turn:
            job = self._jobs.get(key)
            if job is None or not job.under_way:
                return
            if job.state == "queued":
                self._end(job, called_off(job))
                return
        # Not in turn: what cuts its work short may take a while.
        job.stop.ask()

    def pause(self, key: JobKey, on: bool) -> None:
        """Pause a running job, or let it continue; nothing happens to one that does not run."""
        job = self._jobs.get(key)
        if job is not None and job.state == "running" and job.under_way:
            (job.pause.ask if on else job.pause.end)()
            self._send(_news(job))

    def queued(self, line: Line) -> list[JobKey]:
        """The queued jobs of a line, the next one first."""
        with self._turn:
            return [job.key for order in self._waiting[line] for job in order.jobs if job.under_way]

    def put_in_order(self, line: Line, keys: Sequence[JobKey]) -> None:
        """Put queued orders of a line in another order; what is not named follows in the old one."""
        place = {key: number for number, key in enumerate(keys)}
        with self._turn:
            waiting = self._waiting[line]
            ordered = sorted(waiting, key=lambda order: min(place.get(job.key, len(place)) for job in order.jobs))
            waiting.clear()
            waiting.extend(ordered)
        for key in self.queued(line):
            if (job := self._jobs.get(key)) is not None:
                self._send(_news(job))

    def stop_all(self, kind: JobKind) -> None:
        """Stop all jobs of a kind."""
        for key in [key for key in list(self._jobs) if key.kind == kind]:
            self.stop(key)

    def forget(self, key: JobKey) -> None:
        """Stop a job, and remember nothing of it."""
        self.stop(key)
        with self._turn:
            self._jobs.pop(key, None)

    @contextmanager
    def using(self, key: JobKey) -> Iterator[None]:
        """Block the removal of what a key names while jobs that work on it are ordered.

        Raises
        ------
        Mistake
            When it is being removed.
        """
        with self._turn:
            if key in self._removed:
                raise Mistake(REMOVED.format(*key))
            self._used[key] = self._used.get(key, 0) + 1
        try:
            yield
        finally:
            with self._turn:
                self._used[key] -= 1
                if not self._used[key]:
                    del self._used[key]

    @contextmanager
    def removing(self, key: JobKey) -> Iterator[None]:
        """Block jobs that work on what a key names while it is removed.

        Raises
        ------
        Mistake
            When a job works on it or is being ordered.
        """
        with self._turn:
            for job in self._jobs.values():
                if job.under_way and key in (job.key, job.of):
                    raise Mistake(BUSY[job.key.kind].format(key.name))
            if key in self._used or key in self._removed:
                raise Mistake(BUSY[key.kind].format(key.name))
            self._removed.add(key)
        try:
            yield
        finally:
            with self._turn:
                self._removed.discard(key)

    @contextmanager
    def quiet(self, line: Line) -> Iterator[None]:
        """Block orders of a line while what its jobs use is changed.

        Raises
        ------
        Mistake
            When a job of the line is queued or running.
        """
        with self._turn:
            busy = self._jobs.get(self._begun[line]) if line in self._begun else None
            if self._waiting[line] or (busy is not None and busy.under_way):
                raise Mistake("captures are queued or running: wait until they have ended, or stop them")
            yield

    def steps(self, job: Job, done: int, count: int) -> None:
        """Note how far a job is."""
        self.tell(job, progress(done, count, done, job.seconds))

    def tell(self, job: Job, stands: Progress) -> None:
        """Note how a job stands, and send that now and then."""
        job.progress = stands
        now = time.monotonic()
        if now - self._told.get(job.key, 0.0) > TELL_SECONDS or stands.done == stands.count:
            self._told[job.key] = now
            self._send(_news(job))

    def close(self) -> None:
        """Stop all work. Queued jobs stay queued in their records, as after a power cut."""
        with self._turn:
            self._closing = True
            self._turn.notify_all()
            running = [job for job in self._jobs.values() if job.under_way and job.state == "running"]
        for job in running:
            job.stop.ask()

    def begin_next(self, line: Line) -> Order | None:
        """Start the next order of a line. None if nothing is queued or the server is closing."""
        with self._turn:
            while self._waiting[line] and not self._closing:
                order = self._waiting[line].popleft()
                jobs = [job for job in order.jobs if job.under_way]
                for job in jobs:
                    self._begin(job)
                if jobs:
                    self._begun[line] = jobs[-1].key
                    return Order(jobs, order.work)
            return None

    def settle(self, order: Order, endings: Sequence[Ending | Exception]) -> None:
        """Record how the jobs of an order ended."""
        told = [
            one if isinstance(one, Ending) else ending_of(job, one, self._home)
            for job, one in zip(order.jobs, endings, strict=True)
        ]
        for job, ending in zip(order.jobs, told, strict=True):
            self._end(job, ending)
        for ending in told:
            if ending.then is not None:
                ending.then()

    def _serve(self, line: Line) -> None:
        while True:
            with self._turn:
                self._turn.wait_for(lambda: self._closing or self._waiting[line])
                if self._closing:
                    return
            try:
                if (order := self.begin_next(line)) is not None:
                    self.settle(order, _carried_out(order))
            except Exception:
                # A line never ends: what comes next in it may go well.
                log.exception("an order of %s could not be settled", line)

    def _refuse_removed(self, job: Job) -> None:
        for key in (job.key, job.of):
            if key in self._removed:
                raise Mistake(REMOVED.format(*key))

    def _begin(self, job: Job) -> None:
        job.state, job.begun = "running", time.monotonic()
        try:
            self._record(job)
        except Exception:
            # It runs all the same: how it ends is recorded at the latest when the disk has room again.
            log.exception("the begin of %s %s could not be recorded", *job.key)

    def _record(self, job: Job) -> None:
        if (record := self._records.get(job.key.kind)) is not None:
            record.under_way(job)
        self._send(_news(job))

    def _end(self, job: Job, ending: Ending) -> None:
        with self._turn:
            if not job.under_way:
                return
            job.state, job.ending = ending.state, ending
            self._told.pop(job.key, None)
            if job.key.kind not in KEPT_KINDS and self._jobs.get(job.key) is job:
                del self._jobs[job.key]
            try:
                if (record := self._records.get(job.key.kind)) is not None:
                    record.ended(job, ending)
            except Exception:
                # The others of its order end all the same.
                log.exception("the end of %s %s could not be recorded", *job.key)
        self._send(_news(job))


def _carried_out(order: Order) -> Sequence[Ending | Exception]:
    try:
        return order.work(order.jobs)
    except Exception as error:  # noqa: BLE001 (it is how the jobs ended)
        return [error] * len(order.jobs)


def _news(job: Job) -> JobChanged:
    run = next((key.name for key in (job.of, job.key) if key is not None and key.kind == "run"), 0)
    stands = job.progress if job.under_way else None
    return JobChanged(job=job.key.kind, id=job.key.name, run=int(run), state=job.state, progress=stands)
