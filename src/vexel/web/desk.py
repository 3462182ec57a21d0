"""Runs and compilings in the background of the server, one of each at a time."""

import json
import logging
import os
import queue
import threading
import time
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path

from vexel.core.budget import Progress
from vexel.core.errors import Mistake, VexelError
from vexel.core.facts import Basis
from vexel.core.naming import slug
from vexel.core.recipes import RECIPES, recipe_for
from vexel.core.shot import read_shot
from vexel.crew.cluster import Crew
from vexel.crew.limits import capture_limits
from vexel.crew.planner import Planner, Prepared
from vexel.crew.run import Outcome, Run
from vexel.crew.stage_process import StageProcess
from vexel.crew.work import disk_trouble
from vexel.output.compile import Stopped, compile_footage
from vexel.output.footage import Footage, footage_of_frames
from vexel.store.project import Project
from vexel.store.states import READY, UNDER_WAY
from vexel.store.tables import RunRow, now
from vexel.web.bulletin import Bulletin

TELL_SECONDS = 0.5
log = logging.getLogger("vexel")


class Desk:
    """Takes orders for runs and files, and carries them out in order."""

    def __init__(self, project: Project, bulletin: Bulletin) -> None:
        self._project = project
        self._bulletin = bulletin
        self._limits = capture_limits()
        self._crew: Crew | None = None
        self._stages: list[StageProcess] = []
        self._run: tuple[int, Run] | None = None
        self._called_off: set[tuple[str, int]] = set()
        self.progress: dict[int, Progress] = {}
        self.steps: dict[int, tuple[int, int, float]] = {}
        self._runs: queue.Queue[int | None] = queue.Queue()
        self._outputs: queue.Queue[int | None] = queue.Queue()
        project.ledger.interrupt_all()
        self._threads = [
            threading.Thread(target=self._serve, args=(self._runs, self._carry_out), daemon=True),
            threading.Thread(target=self._serve, args=(self._outputs, self._compile), daemon=True),
        ]
        for thread in self._threads:
            thread.start()

    def capture(self, shot_id: str) -> int:
        """Order a run of all frames of a shot as it stands; the run's id."""
        kept = self._project.shots.get(shot_id)
        pictures = kept.shot.clock.clock().frames * len(kept.shot.strands)
        run_id = self._project.ledger.begin(shot_id, kept.document, range(pictures))
        self._order(run_id)
        return run_id

    def resume(self, run_id: int) -> None:
        """Order that a stopped run goes on."""
        if self._project.ledger.run(run_id).state not in UNDER_WAY:
            self._order(run_id)

    def stop(self, run_id: int) -> None:
        """Stop a run that waits or goes on."""
        if self._run is not None and self._run[0] == run_id:
            self._run[1].stop()
        elif self._project.ledger.run(run_id).state in UNDER_WAY:
            self._called_off.add(("run", run_id))
            self._set(run_id, state="stopped", message="", ended=now())

    def compile(self, run_id: int, recipe: str, strand: int = 0) -> int:
        """Order a file of one strand of a run's take; the file's id."""
        suffix = RECIPES[recipe].suffix if recipe in RECIPES else ""
        recipe_for(Path(f"file{suffix}"), recipe)
        row = self._project.ledger.run(run_id)
        shot = read_shot(row.document)
        if not 0 <= strand < len(shot.strands):
            raise Mistake(f"run {run_id} has strands 0 to {len(shot.strands) - 1}, not {strand}")
        of = "" if len(shot.strands) == 1 else ".".join(["", *shot.strands[strand]])
        name = f"{slug(shot.title)}.run{run_id}{of}{'.small' if recipe == 'gif-640' else ''}{suffix}"
        output_id = self._project.outputs.add(run_id, recipe, name, strand)
        self._outputs.put(output_id)
        self._bulletin.tell("output", id=output_id, run=run_id)
        return output_id

    def stop_output(self, output_id: int) -> None:
        """Stop a compiling."""
        if self._project.outputs.get(output_id).state in UNDER_WAY:
            self._called_off.add(("output", output_id))

    def close(self) -> None:
        """End all work; frames under way are lost, all others kept."""
        if self._run is not None:
            self._run[1].stop()
        self._runs.put(None)
        self._outputs.put(None)
        self._dismiss()

    def _serve(self, orders: "queue.Queue[int | None]", work: Callable[[int], None]) -> None:
        while (order := orders.get()) is not None:
            try:
                work(order)
            except Exception:
                log.exception("order %s could not be carried out", order)

    def _order(self, run_id: int) -> None:
        self._called_off.discard(("run", run_id))
        self._set(run_id, state="waiting", message="", ended="")
        self._runs.put(run_id)

    def _carry_out(self, run_id: int) -> None:
        if ("run", run_id) in self._called_off:
            return
        begun = time.monotonic()
        row = self._project.ledger.run(run_id)
        self._set(run_id, state="running")
        try:
            prepared = self._prepared(row)
            numbers = [r.number for r in self._project.ledger.rows(run_id)]
            run = Run(prepared, numbers, self._project.ledger.take(run_id, prepared.plan.shot.picture.suffix))
            self._run = (run_id, run)
            outcome = run.go(lambda: self._crew_ready(prepared.at.kind), self._teller(run_id))
            state, message = _ending(outcome)
        except VexelError as error:
            state, message = "failed", str(error)
        except Exception as error:
            log.exception("run %s broke down", run_id)
            state, message = "stopped", f"{_trouble(error, self._project.home)} Resume it to go on."
        finally:
            self._run = None
            self.progress.pop(run_id, None)
        if state == "stopped" or self._crew is None:
            self._dismiss()
        spent = row.seconds + time.monotonic() - begun
        self._set(run_id, state=state, message=message, ended=now(), seconds=spent)

    def _prepared(self, row: RunRow) -> Prepared:
        """The plan of a run: made anew the first time, and the same ever after."""
        shot = read_shot(row.document)
        self._stages = self._stages or [StageProcess(self._limits) for _ in range(os.cpu_count() or 1)]
        planner = Planner(self._project.copies, self._stages[0], self._project.facts)
        prepared = planner.again(shot, Basis.loads(row.plan)) if row.plan else None
        if prepared is None:
            prepared = planner.prepare(shot, self._project.shots.folder)
            self._project.ledger.set(row.id, plan=prepared.plan.basis.dumps())
        return prepared

    def _crew_ready(self, kind: str) -> Crew:
        if self._crew is None:
            self._crew = Crew(self._limits, kind, self._stages)
        return self._crew

    def _dismiss(self) -> None:
        """End the workers, so that none goes on with a frame that nobody waits for."""
        if self._crew is not None:
            self._crew.close()
            self._crew = None
        for stage in self._stages:
            stage.end()
        self._stages = []

    def _teller(self, run_id: int) -> Callable[[Progress], None]:
        last = 0.0

        def told(progress: Progress) -> None:
            nonlocal last
            self.progress[run_id] = progress
            if time.monotonic() - last > TELL_SECONDS or progress.done == progress.count:
                last = time.monotonic()
                self._bulletin.tell("progress", run=run_id, **asdict(progress))

        return told

    def _set(self, run_id: int, **values: object) -> None:
        self._project.ledger.set(run_id, **values)
        self._bulletin.tell("run", id=run_id, state=values.get("state", ""))

    def _compile(self, output_id: int) -> None:
        row = self._project.outputs.get(output_id)
        begun = time.monotonic()

        def told(done: int, count: int) -> None:
            before = self.steps.get(output_id, (0, 0, 0.0))
            self.steps[output_id] = (done, count, done / max(time.monotonic() - begun, 1e-6))
            if done == count or done * 50 // count != before[0] * 50 // count:
                self._bulletin.tell("output", id=output_id, run=row.run_id, done=done, count=count)

        self._project.outputs.set(output_id, state="running")
        try:
            footage = self._footage(row.run_id, row.strand)
            receipt = compile_footage(
                footage,
                self._project.files / row.file,
                RECIPES[row.recipe],
                told,
                lambda: ("output", output_id) in self._called_off,
            )
            values = {"state": "done", "receipt": json.dumps(receipt.document()), "message": ""}
        except Stopped:
            values = {"state": "stopped", "message": "Compiling was stopped; no file was left."}
        except VexelError as error:
            values = {"state": "failed", "message": str(error)}
        except Exception as error:
            log.exception("file %s could not be compiled", output_id)
            values = {"state": "failed", "message": _trouble(error, self._project.files)}
        self.steps.pop(output_id, None)
        self._project.outputs.set(output_id, **values)
        self._bulletin.tell("output", id=output_id, run=row.run_id, state=values["state"])

    def _footage(self, run_id: int, strand: int) -> Footage:
        shot = read_shot(self._project.ledger.run(run_id).document)
        ready = {}
        for row in self._project.ledger.rows(run_id, READY):
            frame, number = divmod(row.number, len(shot.strands))
            if number == strand:
                ready[frame] = self._project.ledger.frames.path(row.key, shot.picture.suffix)
        return footage_of_frames(ready, shot.clock.clock(), "this take").of_shot(shot, strand)


def _ending(outcome: Outcome) -> tuple[str, str]:
    """State of a run that ended, and a sentence where one is due."""
    if outcome.halt:
        return "stopped", outcome.halt
    if outcome.waiting:
        return "stopped", ""
    if outcome.failed:
        return "failed", f"{outcome.failed:,} frames failed. Mend the source and capture again, or resume to retry."
    return "done", ""


def _trouble(error: Exception, home: Path) -> str:
    if isinstance(error, OSError):
        return disk_trouble(home, error)
    if "disk is full" in str(error) or "disk I/O" in str(error):
        return f"The disk that holds {home} is full: free some space."
    return f"Vexel itself broke down ({type(error).__name__}: {error})."
