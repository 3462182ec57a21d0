"""Files in the background of the server, a batch at a time: their frames are read once for all."""

import json
import logging
import queue
import threading
import time
from collections.abc import Callable, Iterable, Mapping, Sequence
from contextlib import suppress
from dataclasses import replace
from functools import partial
from pathlib import Path

from vexel.core.errors import Failure, Mistake, Stopped, VexelError
from vexel.core.recipes.file_names import file_names, versions
from vexel.core.recipes.recipe import Recipe, read_recipe
from vexel.core.recipes.shipped import RECIPES
from vexel.core.reel.reel_spec import Reel, read_reel
from vexel.core.wording import counted, slug
from vexel.crew.bounded_process import ProcessEnded
from vexel.crew.planner import Planner
from vexel.disk.claim import Claim, Taken, claim
from vexel.disk.disk_errors import disk_trouble
from vexel.disk.finished import finished
from vexel.output.bounded.media_orders import ReelOrder, Work
from vexel.output.footage import Footage, footage_of_frames
from vexel.output.handover import prove_handover, write_handover
from vexel.output.proving.receipt import Receipt
from vexel.output.reading.picture_file import DamagedFrame
from vexel.output.sequence import lay_frames
from vexel.store.documents.reels import spelled_reel
from vexel.store.frame_states import READY, UNDER_WAY
from vexel.store.project import Project
from vexel.store.tables import OutputRow
from vexel.store.takes import shot_of
from vexel.web.events import Events
from vexel.web.jobs.media_pool import MediaPool
from vexel.web.jobs.output_names import check_pass, names_of, own_folder, takes_all_passes, told_apart
from vexel.web.jobs.run_handover import handed_of_run
from vexel.web.schemas.news import OutputChanged, RunChanged

FILES_KEPT = (*UNDER_WAY, "done")
"""States of a file that is there, or will be."""
log = logging.getLogger("vexel")


class OutputQueue:
    """Takes orders for files, and carries them out in order."""

    def __init__(self, project: Project, events: Events, planner: Planner, media: MediaPool) -> None:
        self._project = project
        self._media = media
        self._planner = planner
        self._events = events
        self._closing = False
        self._called_off: set[int] = set()
        self._unheld: dict[str, Claim] = {}
        self._claims: dict[int, Claim] = {}
        self._linked: set[int] = set()
        self.reel_order: Callable[[Reel], ReelOrder] | None = None
        self.steps: dict[int, tuple[int, int, float]] = {}
        self._orders: queue.Queue[tuple[int, ...] | None] = queue.Queue()
        threading.Thread(target=self._serve, daemon=True).start()

    def compile(self, run_id: int, recipe: str, camera_pass: int = 0, folder: str = "", links: bool = False) -> int:
        """Order a file of one camera pass of a run's take, or its frames in a folder; the file's id.

        Parameters
        ----------
        folder : str
            Where the recipe makes a folder: an absolute path; empty is one among the project's outputs.
        links : bool
            Hard links in that folder in place of copies.
        """
        made = self._project.recipes.named(recipe)
        row = self._project.ledger.run(run_id)
        shot = shot_of(row)
        check_pass(shot, run_id, camera_pass)
        of = (
            ""
            if len(shot.camera_passes) == 1 or takes_all_passes(made)
            else ".".join(["", *shot.camera_passes[camera_pass]])
        )
        stem = f"{slug(shot.title)}.run{run_id}{'.rough' if row.rough else ''}{of}{told_apart(made)}"
        if made.is_folder and folder and not takes_all_passes(made):
            name = own_folder(folder)
            self._unheld[name] = claim(Path(name))
            output_id = self._add(run_id, made, name, camera_pass)
        elif takes_all_passes(made):
            # Frames as they were made are laid beside those that are there: nothing is replaced, and nothing is new.
            name = own_folder(folder) if folder else f"{stem}{made.suffix}"
            output_id = self._add(run_id, made, name, camera_pass)
        else:
            taken = self._claimed(self._project.files, versions(stem, made.suffix))
            output_id = self._add(run_id, made, taken, camera_pass)
        self._linked.update([output_id] if links else [])
        self._put([output_id], run_id)
        return output_id

    def dispatch(
        self, run_id: int, camera_passes: Sequence[int], recipes: Sequence[Recipe], folder: str, names: str
    ) -> list[int]:
        """Order files of several camera passes by several recipes, under names that no file has; their ids.

        Parameters
        ----------
        folder : str
            An absolute path; empty is the project's outputs.
        names : str
            Pattern of the names below the folder; empty for each recipe's own.
        """
        if not recipes or not camera_passes:
            raise Mistake("choose at least one recipe and one camera pass")
        row = self._project.ledger.run(run_id)
        shot = shot_of(row)
        place = Path(own_folder(folder)) if folder else self._project.files
        several = len(shot.camera_passes) > 1
        ids: list[int] = []
        for camera_pass in camera_passes:
            check_pass(shot, run_id, camera_pass)
            of = shot.camera_passes[camera_pass] if several else None
            batch = []
            for recipe in recipes:
                if recipe.codec == "handover" and camera_pass != camera_passes[0]:
                    continue
                values = {
                    "title": shot.title,
                    "camera": of.camera if of and recipe.codec != "handover" else "",
                    "pass": of.render_pass if of and recipe.codec != "handover" else "",
                    "recipe": recipe.name,
                }
                file = self._claimed(place, file_names(names or recipe.names, values, recipe.suffix))
                ids.append(self._add(run_id, recipe, file, camera_pass, ids[0] if ids else 0))
                if len(ids) == 1:
                    # Also a file alone is of one camera pass, where it is ordered from here.
                    self._project.outputs.set(ids[0], batch=ids[0])
                if recipe.codec == "handover":
                    self._put([ids[-1]], run_id)
                else:
                    batch.append(ids[-1])
            self._put(batch, run_id)
        return ids

    def dispatch_reel(self, reel_id: str, reel: Reel, recipes: Sequence[Recipe], folder: str, names: str) -> list[int]:
        """Order files of a reel as it is now, by several recipes, under names that no file has; their ids."""
        place = Path(own_folder(folder)) if folder else self._project.files
        ids: list[int] = []
        for recipe in recipes:
            values = {"title": reel.title, "camera": "", "pass": "", "recipe": recipe.name}
            file = self._claimed(place, file_names(names or recipe.names, values, recipe.suffix))
            document, batch = recipe.model_dump_json(exclude_defaults=True), ids[0] if ids else 0
            kept = spelled_reel(reel)
            add = partial(self._project.outputs.add_of_reel, reel_id, kept, recipe.name, file, document, batch)
            ids.append(self._held(file, add))
        self._put(ids, 0)
        return ids

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
        shot = shot_of(ledger.run(run_id))
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

    def footage(self, run_id: int, camera_pass: int) -> Footage:
        """The finished frames of one camera pass of a run; those that are missing are held."""
        shot = shot_of(self._project.ledger.run(run_id))
        numbers: dict[int, int] = {}
        keys = {}
        for row in self._project.ledger.rows(run_id, READY):
            index = shot.picture_index(row.number)
            if index.camera_pass == camera_pass:
                keys[index.frame], numbers[index.frame] = row.key, row.number
        frames, suffix = self._project.ledger.frames, shot.picture.suffix
        ready = {frame: frames.path(key, suffix) for frame, key in keys.items()}
        known = {frames.path(key, suffix): file for key, file in frames.known(sorted(set(keys.values()))).items()}
        footage = footage_of_frames(ready, shot.clock.exact, "this take", hold=True).of_shot(shot, camera_pass)
        of_key = {frames.path(key, suffix): key for key in keys.values()}
        return replace(
            footage,
            known=known,
            set_aside=lambda file: frames.set_aside([of_key[file]], suffix),
            names=names_of(shot, numbers, len(footage.files)),
        )

    def own_files(self, run_id: int) -> list[Path]:
        """Files that were made of a run in the project; a folder of a person's own is theirs."""
        places = [self._project.files / file.file for file in self._project.outputs.of(run_id)]
        inside = [place for place in places if self._project.files in place.parents]
        return [file for place in inside for file in (place.iterdir() if place.is_dir() else [place]) if file.is_file()]

    def remove_files(self, run_id: int) -> None:
        """Delete the files that were made of a run in the project.

        Raises
        ------
        Mistake
            While one is made.
        """
        if any(file.state in UNDER_WAY for file in self._project.outputs.of(run_id)):
            raise Mistake(f"a file of run {run_id} is being made: stop it first")
        for place in self.own_files(run_id):
            place.unlink(missing_ok=True)
            if place.parent != self._project.files:
                with suppress(OSError):
                    place.parent.rmdir()

    def order_what_is_due(self, run_id: int, makes: str) -> None:
        """Order what a run was to end in, unless it is there from an earlier sitting."""
        shot = shot_of(self._project.ledger.run(run_id))
        camera_passes = 1 if takes_all_passes(RECIPES[makes]) else len(shot.camera_passes)
        there = {
            (file.recipe, file.camera_pass) for file in self._project.outputs.of(run_id) if file.state in FILES_KEPT
        }
        for camera_pass in range(camera_passes):
            if (makes, camera_pass) not in there:
                self.compile(run_id, makes, camera_pass)

    def fit(self, output_id: int, which: int) -> int:
        """Order a file anew in one of the ways that would about fit; the new file's id."""
        row = self._project.outputs.get(output_id)
        fits = json.loads(row.fits or "[]")
        if not 0 <= which < len(fits):
            raise Mistake(f"file {output_id} has no such way to fit")
        document = json.loads(row.document)
        for part, values in fits[which][1].items():
            document[part] = {**document.get(part, {}), **values}
        recipe = read_recipe(json.dumps(document))
        place = Path(row.file)
        folder = str(place.parent) if place.is_absolute() else ""
        if row.reel:
            (made,) = self.dispatch_reel(row.reel, read_reel(row.reel_document), [recipe], folder, "")
        else:
            (made,) = self.dispatch(row.run, [row.camera_pass], [recipe], folder, "")
        return made

    def stop(self, output_id: int) -> None:
        """Stop a file that waits or is made."""
        if self._project.outputs.get(output_id).state in UNDER_WAY:
            self._called_off.add(output_id)

    def close(self) -> None:
        """End all work."""
        self._closing = True
        self._orders.put(None)

    def recipe_of(self, row: OutputRow) -> Recipe:
        """The recipe of a file, as it was when it was ordered."""
        return read_recipe(row.document) if row.document else RECIPES[row.recipe]

    def _add(self, run_id: int, recipe: Recipe, file: str, camera_pass: int, batch: int = 0) -> int:
        document, add = recipe.model_dump_json(exclude_defaults=True), self._project.outputs.add
        return self._held(file, lambda: add(run_id, recipe.name, file, camera_pass, document, batch))

    def _claimed(self, place: Path, names: Iterable[str]) -> str:
        """Take the first of some names in a folder that no file, order or older row has.

        Returns
        -------
        str
            As rows tell it: relative to the project's files, or absolute.
        """
        inside = place == self._project.files
        for name in names:
            file = name if inside else str(place / name)
            if self._project.outputs.knows(file):
                continue
            with suppress(Taken):
                self._unheld[file] = claim(place / name)
                return file
        raise Mistake(f"{place} has no free name for this file: choose other names")

    def _held(self, file: str, add: Callable[[], int]) -> int:
        """Add a row, which keeps the claim of its name until its file has ended; its id."""
        taken = self._unheld.pop(file, None)
        try:
            output_id = add()
        except BaseException:
            if taken:
                taken.release()
            raise
        if taken:
            self._claims[output_id] = taken
        return output_id

    def _release(self, output_id: int) -> None:
        if taken := self._claims.pop(output_id, None):
            taken.release()

    def _put(self, ids: Sequence[int], run_id: int) -> None:
        if not ids:
            return
        self._orders.put(tuple(ids))
        for output_id in ids:
            self._events.send(OutputChanged(id=output_id, run=run_id))

    def _serve(self) -> None:
        while (order := self._orders.get()) is not None:
            try:
                self._carry_out(order)
            except Exception:
                log.exception("files %s could not be made", order)

    def _stopped(self, output_id: int) -> bool:
        return self._closing or output_id in self._called_off

    def _carry_out(self, order: tuple[int, ...]) -> None:
        rows = [self._project.outputs.get(output_id) for output_id in order]
        begun = time.monotonic()
        made: Mapping[int, Receipt | Exception]
        try:
            for row in rows:
                self._project.outputs.set(row.id, state="running")
            made = self._made(rows, lambda row, done, of: self._tell(row, done, of, begun))
        except Exception as error:
            made = {row.id: error for row in rows}
        for row in rows:
            try:
                self._keep(row, made[row.id])
            finally:
                self._release(row.id)

    def _keep(self, row: OutputRow, made: "Receipt | Exception") -> None:
        """Write down how a file ended."""
        if isinstance(made, Receipt):
            place = self._project.files / row.file
            known = vars(finished(place)) if place.is_file() else {}
            values = {"state": "done", "receipt": json.dumps(made.document()), "message": "", **known}
        elif isinstance(made, DamagedFrame):
            self._events.send(RunChanged(id=row.run))
            cure = f"Resume run {row.run}" if row.run else "Resume the run of that take"
            values = {"state": "failed", "message": f"{made}. {cure}, then compile again."}
        elif isinstance(made, Stopped):
            values = {"state": "stopped", "message": str(made)}
        elif isinstance(made, VexelError):
            fits = json.dumps(made.fits) if made.fits else ""
            values = {"state": "failed", "message": str(made), "fits": fits}
        else:
            log.error("file %s could not be compiled", row.id, exc_info=made)
            trouble = disk_trouble(made, self._project.files)
            said = trouble or f"Vexel itself broke down ({type(made).__name__}: {made})."
            values = {"state": "failed", "message": said}
        self.steps.pop(row.id, None)
        self._project.outputs.end(row.id, **values)
        self._events.send(OutputChanged(id=row.id, run=row.run))

    def _tell(self, row: OutputRow, done: int, count: int, begun: float) -> None:
        before = self.steps.get(row.id, (0, 0, 0.0))
        self.steps[row.id] = (done, count, done / max(time.monotonic() - begun, 1e-6))
        # Fifty pieces of news a file are enough for a bar, however many frames it has.
        if done == count or done * 50 // count != before[0] * 50 // count:
            self._events.send(OutputChanged(id=row.id, run=row.run))

    def _made(
        self, rows: Sequence[OutputRow], on_progress: Callable[[OutputRow, int, int], None]
    ) -> Mapping[int, "Receipt | Exception"]:
        """The files that were ordered, or the folder of frames."""
        first, recipes = rows[0], [self.recipe_of(row) for row in rows]
        if first.reel:
            assert self.reel_order is not None
            reel = read_reel(first.reel_document)
            return self._compiled(rows, recipes, self.reel_order(reel), reel.title, on_progress)
        if len(rows) == 1 and takes_all_passes(recipes[0]) and not first.batch:
            return {first.id: self._laid(first, on_progress)}
        if recipes[0].codec == "handover":
            return {first.id: self._handed_over(first, on_progress)}
        footage = self.footage(first.run, first.camera_pass)
        return self._compiled(rows, recipes, footage, footage.title, on_progress)

    def _compiled(
        self,
        rows: Sequence[OutputRow],
        recipes: Sequence[Recipe],
        work: Work,
        title: str,
        on_progress: Callable[[OutputRow, int, int], None],
    ) -> Mapping[int, "Receipt | Exception"]:
        """Compile files of frames in a media process; what a recipe cannot take is refused for that file alone."""
        orders = [(recipe, self._project.files / row.file) for recipe, row in zip(recipes, rows, strict=True)]
        try:
            with self._media.apart(*{file.parent for _, file in orders}) as process:
                made = process.compile(
                    work,
                    orders,
                    title or orders[0][1].name,
                    lambda order, done, of: on_progress(rows[order], done, of),
                    lambda order: self._stopped(rows[order].id),
                )
        except ProcessEnded:
            raise Stopped("Compiling was stopped; no file was left.") from None
        none = Failure("no receipt was written: compile it again")
        return {row.id: one.receipt or one.error or none for row, one in zip(rows, made, strict=True)}

    def _handed_over(self, row: OutputRow, on_progress: Callable[[OutputRow, int, int], None]) -> Receipt:
        """A run's take with its shot, source and checksums, in a ZIP."""
        frames = dict(self.named_frames(row.run, deep=True))
        place = self._project.files / row.file

        def step(done: int) -> None:
            if self._stopped(row.id):
                raise Stopped("Stopped; no file was left.")
            on_progress(row, done, len(frames))

        write_handover(handed_of_run(self._project, self._planner, row.run, frames), place, step)
        return prove_handover(place, row.recipe, self._project.ledger.run(row.run).count)

    def _laid(self, row: OutputRow, on_progress: Callable[[OutputRow, int, int], None]) -> Receipt:
        """All frames of a run, of every camera and pass, in a folder, which may hold some of them already."""
        frames, planned = self.named_frames(row.run, deep=True), self._project.ledger.run(row.run).count

        def step(done: int) -> None:
            if self._stopped(row.id):
                raise Stopped(f"Stopped after {done:,} of {counted(len(frames), 'frame')}: order it again to go on.")
            on_progress(row, done, len(frames))

        place = self._project.files / row.file
        return lay_frames(frames, place, row.recipe, planned, step, row.id in self._linked)
