"""Runs and compilings in the background of the server, one of each at a time."""

import json
import logging
import queue
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace
from pathlib import Path

from vexel.core.checks.estimate import Progress
from vexel.core.document.naming import slug
from vexel.core.document.recipes import RECIPES, recipe_named
from vexel.core.document.shot import read_shot
from vexel.core.errors import Failure, Mistake, Stopped, VexelError
from vexel.core.evaluate.source_facts import Basis
from vexel.core.wording import counted
from vexel.crew.cluster import Crew
from vexel.crew.limits import capture_limits, workers_here
from vexel.crew.planner import Gate, Planner, Prepared
from vexel.crew.run import Outcome, Run
from vexel.crew.stage_process import StageEnded, StageProcess
from vexel.crew.stop import Stop
from vexel.output.compile import compile_footage
from vexel.output.footage import DamagedFrame, Footage, footage_of_frames
from vexel.output.receipt import Receipt
from vexel.output.sequence import lay_frames
from vexel.store.disk.disk_errors import disk_trouble
from vexel.store.disk.finished import finished
from vexel.store.frame_states import READY, UNDER_WAY
from vexel.store.project import Project
from vexel.store.tables import OutputRow, RunRow, now
from vexel.web.events import Events
from vexel.web.schemas.news import OutputChanged, RunChanged, RunProgress

TELL_SECONDS = 0.5
FILES_KEPT = (*UNDER_WAY, "done")
"""States of a file that is there, or will be."""
log = logging.getLogger("vexel")


class JobQueue:
    """Takes orders for runs and files, and carries them out in order."""

    def __init__(self, project: Project, events: Events, gate: Gate) -> None:
        self._project = project
        self._gate = gate
        self._events = events
        self._limits = capture_limits()
        self._crew: Crew | None = None
        self._stages: list[StageProcess] = []
        self._going: tuple[int, Stop] | None = None
        self._closing = False
        self._called_off: set[tuple[str, int]] = set()
        self._linked: set[int] = set()
        self._begun: dict[int, float] = {}
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

    def resume(self, run_id: int) -> None:
        """Order that a stopped run goes on."""
        if self._project.ledger.run(run_id).state not in UNDER_WAY:
            self._order(run_id)

    def stop(self, run_id: int) -> None:
        """Stop a run that waits or goes on."""
        going = self._going
        if going is not None and going[0] == run_id:
            going[1].ask()
        elif self._project.ledger.run(run_id).state in UNDER_WAY:
            self._called_off.add(("run", run_id))
            self._set(run_id, state="stopped", message="", ended=now())

    def compile(self, run_id: int, recipe: str, camera_pass: int = 0, folder: str = "", links: bool = False) -> int:
        """Order a file of one camera pass of a run's take, or its frames in a folder; the file's id.

        Parameters
        ----------
        folder : str
            Where the recipe makes a folder: an absolute path; empty is one among the project's outputs.
        links : bool
            Hard links in that folder in place of copies.
        """
        made = recipe_named(recipe)
        row = self._project.ledger.run(run_id)
        shot = read_shot(row.document)
        if not 0 <= camera_pass < len(shot.camera_passes):
            raise Mistake(f"run {run_id} has camera passes 0 to {len(shot.camera_passes) - 1}, not {camera_pass}")
        of = "" if len(shot.camera_passes) == 1 or made.is_folder else ".".join(["", *shot.camera_passes[camera_pass]])
        small = f".{made.long_side}" if made.long_side else ""
        name = f"{slug(shot.title)}.run{run_id}{'.rough' if row.rough else ''}{of}{small}{made.suffix}"
        if made.is_folder and folder:
            name = _own_folder(folder)
        output_id = self._project.outputs.add(run_id, recipe, name, camera_pass)
        self._linked.update([output_id] if links else [])
        self._outputs.put(output_id)
        self._events.send(OutputChanged(id=output_id, run=run_id))
        return output_id

    def named_frames(self, run_id: int, deep: bool = False) -> list[tuple[str, Path]]:
        """The finished frames of a run, all cameras and passes, under the names that their shot gives them.

        Raises
        ------
        Mistake
            When none is finished.
        Failure
            When some are no longer what was made; `deep` looks at every byte.
        """
        ledger = self._project.ledger
        shot = read_shot(ledger.run(run_id).document)
        rows, suffix = ledger.rows(run_id, READY), shot.picture.suffix
        if not rows:
            raise Mistake(f"run {run_id} has no finished frame yet: capture it first")
        keys = list(dict.fromkeys(row.key for row in rows))
        there = ledger.frames.there(keys, suffix, deep=deep)
        if gone := [key for key in keys if key not in there]:
            ledger.frames.set_aside(gone, suffix)
            raise Failure(
                f"{counted(len(gone), 'frame is', 'frames are')} damaged or missing in run {run_id}: "
                "resume it to make them again"
            )
        return [(shot.file_name(row.number), ledger.frames.path(row.key, suffix)) for row in rows]

    def own_files(self, run_id: int) -> list[Path]:
        """Files that were made of a run in the project; a folder of a person's own is theirs."""
        places = [self._project.files / file.file for file in self._project.outputs.of(run_id)]
        inside = [place for place in places if place.parent == self._project.files]
        return [file for place in inside for file in (place.iterdir() if place.is_dir() else [place]) if file.is_file()]

    def remove(self, run_id: int) -> None:
        """Delete a run with its files and the frames that no other run shows.

        Raises
        ------
        Mistake
            While it goes on, or a file is made of it.
        """
        row = self._project.ledger.run(run_id)
        files = self._project.outputs.of(run_id)
        if row.state in UNDER_WAY or any(file.state in UNDER_WAY for file in files):
            raise Mistake(f"run {run_id} is under way: stop it first")
        for place in self.own_files(run_id):
            place.unlink(missing_ok=True)
            if place.parent != self._project.files:
                with suppress(OSError):
                    place.parent.rmdir()
        self._project.ledger.remove(run_id, read_shot(row.document).picture.suffix)
        self._events.send(RunChanged(id=run_id))

    def seconds(self, row: RunRow) -> float:
        """How long a run took, or takes up to now."""
        begun = self._begun.get(row.id)
        return row.seconds + (time.monotonic() - begun if begun else 0.0)

    def stop_output(self, output_id: int) -> None:
        """Stop a compiling."""
        if self._project.outputs.get(output_id).state in UNDER_WAY:
            self._called_off.add(("output", output_id))

    def close(self) -> None:
        """End all work; frames under way are lost, all others kept."""
        self._closing = True
        if self._going is not None:
            self._going[1].ask()
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
        stop = Stop()
        self._going = (run_id, stop)
        if self._closing or ("run", run_id) in self._called_off:
            self._going = None
            return
        begun = self._begun[run_id] = time.monotonic()
        row = self._project.ledger.run(run_id)
        self._set(run_id, state="running")
        try:
            prepared = self._prepared(row, stop)
            numbers = [r.number for r in self._project.ledger.rows(run_id)]
            take = self._project.ledger.take(run_id, prepared.plan.shot.picture.suffix)
            run = Run(prepared, numbers, take, stop)
            outcome = run.go(lambda: self._crew_ready(prepared.at.kind), self._teller(run_id))
            state, message = _ending(outcome)
        except (Stopped, StageEnded):
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
        if state == "stopped" or self._crew is None:
            self._dismiss()
        spent = row.seconds + time.monotonic() - begun
        self._begun.pop(run_id, None)
        # Only now, when nothing of it goes on: whoever hears that it ended may delete it.
        self._set(run_id, state=state, message=message, ended=now(), seconds=spent)
        if state == "done" and row.makes:
            self._to_files(row)

    def _to_files(self, row: RunRow) -> None:
        """Order what a run was to end in, unless it is there from an earlier sitting."""
        camera_passes = 1 if RECIPES[row.makes].is_folder else len(read_shot(row.document).camera_passes)
        there = {
            (file.recipe, file.camera_pass) for file in self._project.outputs.of(row.id) if file.state in FILES_KEPT
        }
        for camera_pass in range(camera_passes):
            if (row.makes, camera_pass) not in there:
                self.compile(row.id, row.makes, camera_pass)

    def _prepared(self, row: RunRow, stop: Stop) -> Prepared:
        """The plan of a run: made anew the first time, and the same ever after."""
        stop.check()
        shot = read_shot(row.document)
        self._stages = self._stages or [StageProcess(self._limits) for _ in range(workers_here())]
        planner = Planner(self._project.copies, self._stages[0], self._project.facts, self._gate)
        prepared = planner.again(shot, Basis.loads(row.plan)) if row.plan else None
        if prepared is None:
            # A source may take long to answer: the stop ends its process.
            with stop.cutting(self._stages[0].cut):
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

        def on_progress(progress: Progress) -> None:
            nonlocal last
            self.progress[run_id] = progress
            if time.monotonic() - last > TELL_SECONDS or progress.done == progress.count:
                last = time.monotonic()
                self._events.send(RunProgress(run=run_id, progress=progress))

        return on_progress

    def _set(self, run_id: int, **values: object) -> None:
        self._project.ledger.set(run_id, **values)
        self._events.send(RunChanged(id=run_id, state=str(values.get("state", ""))))

    def _compile(self, output_id: int) -> None:
        row = self._project.outputs.get(output_id)
        begun = time.monotonic()

        def on_progress(done: int, count: int) -> None:
            before = self.steps.get(output_id, (0, 0, 0.0))
            self.steps[output_id] = (done, count, done / max(time.monotonic() - begun, 1e-6))
            # Fifty pieces of news a file are enough for a bar, however many frames it has.
            if done == count or done * 50 // count != before[0] * 50 // count:
                self._events.send(OutputChanged(id=output_id, run=row.run_id))

        self._project.outputs.set(output_id, state="running")
        try:
            receipt = self._made(row, on_progress, lambda: self._closing or ("output", output_id) in self._called_off)
            place = self._project.files / row.file
            known = vars(finished(place)) if place.is_file() else {}
            values = {"state": "done", "receipt": json.dumps(receipt.document()), "message": "", **known}
        except DamagedFrame as error:
            self._events.send(RunChanged(id=row.run_id))
            values = {"state": "failed", "message": f"{error}. Resume run {row.run_id}, then compile again."}
        except Stopped as error:
            values = {"state": "stopped", "message": str(error)}
        except VexelError as error:
            values = {"state": "failed", "message": str(error)}
        except Exception as error:
            log.exception("file %s could not be compiled", output_id)
            values = {"state": "failed", "message": _trouble(error, self._project.files)}
        self.steps.pop(output_id, None)
        self._project.outputs.set(output_id, **values)
        self._events.send(OutputChanged(id=output_id, run=row.run_id))

    def _made(self, row: OutputRow, on_progress: Callable[[int, int], None], stopped: Callable[[], bool]) -> Receipt:
        """The file that was ordered, or the folder of frames."""
        recipe, place = RECIPES[row.recipe], self._project.files / row.file
        if not recipe.is_folder:
            return compile_footage(self._footage(row.run_id, row.camera_pass), place, recipe, on_progress, stopped)
        frames, planned = self.named_frames(row.run_id, deep=True), self._project.ledger.run(row.run_id).count

        def step(done: int) -> None:
            if stopped():
                raise Stopped(f"Stopped after {done:,} of {counted(len(frames), 'frame')}: order it again to go on.")
            on_progress(done, len(frames))

        return lay_frames(frames, place, recipe.name, planned, step, row.id in self._linked)

    def _footage(self, run_id: int, camera_pass: int) -> Footage:
        shot = read_shot(self._project.ledger.run(run_id).document)
        keys = {}
        for row in self._project.ledger.rows(run_id, READY):
            index = shot.picture_index(row.number)
            if index.camera_pass == camera_pass:
                keys[index.frame] = row.key
        frames, suffix = self._project.ledger.frames, shot.picture.suffix
        ready = {frame: frames.path(key, suffix) for frame, key in keys.items()}
        known = {frames.path(key, suffix): file for key, file in frames.known(sorted(set(keys.values()))).items()}
        footage = footage_of_frames(ready, shot.clock.exact, "this take").of_shot(shot, camera_pass)
        of_key = {frames.path(key, suffix): key for key in keys.values()}
        return replace(footage, known=known, set_aside=lambda file: frames.set_aside([of_key[file]], suffix))


def _own_folder(text: str) -> str:
    """The folder that a person names for frames.

    Raises
    ------
    Mistake
        When it is no absolute path, or a file.
    """
    folder = Path(text).expanduser()
    if not folder.is_absolute():
        raise Mistake(f"{text} is not an absolute path: begin it with / or ~")
    if folder.exists() and not folder.is_dir():
        raise Mistake(f"{folder} is a file: name a folder for the frames")
    return str(folder)


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
