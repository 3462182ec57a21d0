"""Runs in the background of the server, one at a time."""

import logging
import queue
import threading
import time
from collections.abc import Callable, Sequence
from pathlib import Path

from vexel.core.checks.estimate import Progress
from vexel.core.document.shot import Shot
from vexel.core.errors import Mistake, Stopped, VexelError
from vexel.core.evaluate.source_facts import Basis
from vexel.core.wording import counted
from vexel.crew.bounded_process import ProcessEnded
from vexel.crew.bounds.limits import capture_limits, workers_here
from vexel.crew.bounds.project_reach import reach_in
from vexel.crew.planner import Gate, Planner, Prepared
from vexel.crew.run import Outcome, Run
from vexel.crew.stage_process import StageProcess
from vexel.crew.stop import Stop
from vexel.crew.workers import LocalWorkers
from vexel.disk.disk_errors import disk_trouble
from vexel.store.frame_states import UNDER_WAY
from vexel.store.project import Project
from vexel.store.tables import RunRow, now
from vexel.store.takes import shot_of
from vexel.web.events import Events
from vexel.web.jobs.output_queue import OutputQueue
from vexel.web.schemas.news import RunChanged, RunProgress

TELL_SECONDS = 0.5
log = logging.getLogger("vexel")


class JobQueue:
    """Takes orders for runs, and carries them out in order."""

    def __init__(self, project: Project, events: Events, gate: Gate, files: OutputQueue) -> None:
        self._project = project
        self._files = files
        self._gate = gate
        self._events = events
        self._limits = capture_limits()
        self._workers: LocalWorkers | None = None
        self._stages: list[StageProcess] = []
        self._going: tuple[int, Stop] | None = None
        self._closing = False
        self._tickets: dict[int, object] = {}
        self._turn = threading.Lock()
        self._begun: dict[int, float] = {}
        self.progress: dict[int, Progress] = {}
        self._runs: queue.Queue[tuple[int, object] | None] = queue.Queue()
        project.ledger.interrupt_all()
        threading.Thread(target=self._serve, daemon=True).start()

    def capture(self, shot_id: str, rough: bool = False, to_file: bool = False) -> int:
        """Order a run of all frames of a shot as it stands, and of its file if wanted; the run's id."""
        shot = self._project.shots.shot(shot_id)
        shot = shot.rough() if rough else shot
        pictures = shot.pictures
        document = shot.model_dump(mode="json")
        makes = shot.recipe if to_file else ""
        run_id = self._project.ledger.begin(shot_id, document, range(pictures), rough=rough, makes=makes)
        self._order(run_id)
        return run_id

    def capture_some(self, shot_id: str, shot: Shot, numbers: Sequence[int]) -> int:
        """Order a run of some pictures of a shot, which may differ from the one that is kept; the run's id."""
        run_id = self._project.ledger.begin(shot_id, shot.model_dump(mode="json"), numbers)
        self._order(run_id)
        return run_id

    def resume(self, run_id: int) -> None:
        """Order that a stopped run continues."""
        with self._turn:
            if self._project.ledger.run(run_id).state not in UNDER_WAY:
                self._order(run_id)

    def stop(self, run_id: int) -> None:
        """Stop a run that waits or goes on."""
        with self._turn:
            going = self._going
            if going is not None and going[0] == run_id:
                going[1].ask()
                return
            waited = self._tickets.pop(run_id, None)
        if waited is not None or self._project.ledger.run(run_id).state in UNDER_WAY:
            self._end(run_id, state="stopped", message="", ended=now())

    def remove(self, run_id: int) -> None:
        """Delete a run with its files and the frames that no other run shows.

        Raises
        ------
        Mistake
            While it goes on, or a file is made of it.
        """
        row = self._project.ledger.run(run_id)
        if row.state in UNDER_WAY:
            raise Mistake(f"run {run_id} is under way: stop it first")
        self._files.remove_files(run_id)
        self._project.ledger.remove(run_id, shot_of(row).picture.suffix)
        self._events.send(RunChanged(id=run_id))

    def seconds(self, row: RunRow) -> float:
        """How long a run took, or takes up to now."""
        begun = self._begun.get(row.id)
        return row.seconds + (time.monotonic() - begun if begun else 0.0)

    def close(self) -> None:
        """End all work; frames under way are lost, all others kept."""
        self._closing = True
        if self._going is not None:
            self._going[1].ask()
        self._runs.put(None)
        self._dismiss()

    def _serve(self) -> None:
        while (order := self._runs.get()) is not None:
            try:
                self._carry_out(*order)
            except Exception:
                log.exception("run %s could not be carried out", order[0])

    def _order(self, run_id: int) -> None:
        self._set(run_id, state="waiting", message="", ended="")
        # An order that was stopped and given again is in the queue twice, and the last one counts.
        ticket = self._tickets[run_id] = object()
        self._runs.put((run_id, ticket))

    def _carry_out(self, run_id: int, ticket: object) -> None:
        stop = Stop()
        with self._turn:
            if self._closing or self._tickets.get(run_id) is not ticket:
                return
            del self._tickets[run_id]
            self._going = (run_id, stop)
        begun = self._begun[run_id] = time.monotonic()
        seconds, makes = 0.0, ""
        try:
            row = self._project.ledger.run(run_id)
            seconds, makes = row.seconds, row.makes
            self._set(run_id, state="running")
            prepared = self._prepared(row, stop)
            numbers = [r.number for r in self._project.ledger.rows(run_id)]
            take = self._project.ledger.take(run_id, prepared.plan.shot.picture.suffix)
            run = Run(prepared, numbers, take, stop)
            outcome = run.go(lambda: self._workers_ready(prepared.at.kind), self._teller(run_id))
            state, message = _ending(outcome)
        except (Stopped, ProcessEnded):
            state, message = "stopped", ""
        except Exception as error:
            if stop.asked:
                # Whatever broke, broke since it was cut short.
                state, message = "stopped", ""
            elif isinstance(error, VexelError):
                state, message = "failed", str(error)
            else:
                log.exception("run %s broke down", run_id)
                state, message = "stopped", f"{_trouble(error, self._project.home)} Resume it to go on."
        finally:
            self._going = None
            self.progress.pop(run_id, None)
        # A stage that was cut short is of no use to the next run; those of a run that is done stay warm for it.
        if state == "stopped" or self._workers is None:
            self._dismiss()
        spent = seconds + time.monotonic() - begun
        self._begun.pop(run_id, None)
        # Only now, when nothing of it continues: whoever hears that it ended may delete it.
        self._end(run_id, state=state, message=message, ended=now(), seconds=spent)
        if state == "done" and makes:
            self._files.order_what_is_due(run_id, makes)

    def _prepared(self, row: RunRow, stop: Stop) -> Prepared:
        """The plan of a run: made anew the first time, and the same ever after."""
        stop.check()
        shot = shot_of(row)
        self._stages = self._stages or [
            StageProcess(self._limits, reach=reach_in(self._project)) for _ in range(workers_here())
        ]
        planner = Planner(self._project.copies, self._stages[0], self._project.facts, self._gate)
        prepared = planner.again(shot, Basis.loads(row.plan)) if row.plan else None
        if prepared is None:
            # A source may take long to answer: the stop ends its process.
            with stop.cutting(self._stages[0].cut):
                prepared = planner.prepare(shot, self._project.shots.folder)
            self._project.ledger.set(row.id, plan=prepared.plan.basis.dumps())
        return prepared

    def _workers_ready(self, kind: str) -> LocalWorkers:
        if self._workers is None:
            self._workers = LocalWorkers(self._stages, kind)
        return self._workers

    def _dismiss(self) -> None:
        """End the workers, so that none goes on with a frame that nobody waits for."""
        if self._workers is not None:
            self._workers.close()
            self._workers = None
        for stage in self._stages:
            stage.end()
        self._stages = []

    def _teller(self, run_id: int) -> Callable[[Progress], None]:
        last = 0.0

        def on_progress(progress: Progress) -> None:
            nonlocal last
            self.progress[run_id] = progress
            if time.monotonic() - last > TELL_SECONDS or progress.done == progress.count:
                last = time.monotonic()
                self._events.send(RunProgress(run=run_id, progress=progress))

        return on_progress

    def _end(self, run_id: int, **values: object) -> None:
        """Record how a run ended, whatever the disk says."""
        self._project.ledger.end(run_id, **values)
        self._events.send(RunChanged(id=run_id, state=str(values["state"])))

    def _set(self, run_id: int, **values: object) -> None:
        self._project.ledger.set(run_id, **values)
        self._events.send(RunChanged(id=run_id, state=str(values.get("state", ""))))


def _ending(outcome: Outcome) -> tuple[str, str]:
    """State of a run that ended, and a sentence where one is due."""
    sentences = []
    if outcome.damaged:
        sentences.append(f"{counted(outcome.damaged, 'frame was', 'frames were')} damaged, set aside, and made again.")
    if outcome.halt:
        sentences.append(outcome.halt)
    elif outcome.failed and not outcome.waiting:
        sentences.append(
            f"{counted(outcome.failed, 'frame')} failed. Mend the source and capture again, or resume to retry."
        )
    state = "stopped" if outcome.halt or outcome.waiting else "failed" if outcome.failed else "done"
    return state, " ".join(sentences)


def _trouble(error: Exception, home: Path) -> str:
    return disk_trouble(error, home) or f"Vexel itself broke down ({type(error).__name__}: {error})."
