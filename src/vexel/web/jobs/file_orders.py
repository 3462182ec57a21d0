"""Orders of files: of takes and of reels, by recipes, under names that no file has."""

import json
import os
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager, suppress
from functools import partial
from itertools import chain
from pathlib import Path

from vexel.core.errors import Mistake
from vexel.core.recipes.recipe import Recipe, read_recipe
from vexel.core.recipes.shipped import RECIPES
from vexel.core.reel.reel_spec import Reel, read_reel
from vexel.disk.claim import Claim, Taken, claim, is_claimed
from vexel.disk.finished import finished
from vexel.store.documents.reels import spelled_reel
from vexel.store.frame_states import UNDER_WAY
from vexel.store.outputs import OutputStore, trouble_of
from vexel.store.project import Project
from vexel.store.tables import OutputRow
from vexel.store.takes import shot_of
from vexel.web.jobs.file_making import FileMaking
from vexel.web.jobs.job import Ending, Job, JobKey
from vexel.web.jobs.jobs import Jobs
from vexel.web.jobs.output_names import (
    WantedFile,
    check_pass,
    files_of_reel,
    files_of_take,
    own_folder,
    take_name,
    takes_all_passes,
)
from vexel.web.jobs.take_files import files_at, remove_files

FILES_KEPT = (*UNDER_WAY, "done")
"""States of a file that is there, or will be."""


class FileRecord:
    """Files in the project's database, and the claims of their names until they have ended."""

    def __init__(self, outputs: OutputStore, folder: Path) -> None:
        self._outputs, self._folder = outputs, folder
        self.claims: dict[int, Claim] = {}

    def under_way(self, job: Job) -> None:
        """See `Record`."""
        self._outputs.set(int(job.key.name), state=job.state)

    def ended(self, job: Job, ending: Ending) -> None:
        """See `Record`."""
        output_id, values = int(job.key.name), dict(ending.values)
        try:
            place = self._folder / self._outputs.get(output_id).file
            if ending.state == "done" and place.is_file():
                values |= vars(finished(place))
            if "fits" in values:
                values["fits"] = json.dumps(values["fits"])
        finally:
            # Before the end is recorded: a client that reads it finds nothing but the file. The row keeps the name.
            if taken := self.claims.pop(output_id, None):
                taken.release()
        self._outputs.end(output_id, state=ending.state, message=ending.sentence, **values)


class FileOrders:
    """Takes orders for files."""

    def __init__(self, project: Project, jobs: Jobs, record: FileRecord, making: FileMaking) -> None:
        self._project = project
        self._jobs = jobs
        self._record = record
        self._making = making
        self._unheld: dict[str, Claim] = {}

    def compile(self, run_id: int, recipe: str, camera_pass: int = 0, folder: str = "", links: bool = False) -> int:
        """Order a file of one camera pass of a run's take, or its frames in a folder; the file's id.

        Parameters
        ----------
        folder : str
            Where the recipe makes a folder: an absolute path; empty is one among the project's outputs.
        links : bool
            Hard links in that folder in place of copies.
        """
        with self._jobs.using(JobKey("run", run_id)):
            return self._compile(run_id, self._project.recipes.named(recipe), camera_pass, folder, links)

    def _compile(self, run_id: int, made: Recipe, camera_pass: int, folder: str, links: bool) -> int:
        row = self._project.ledger.run(run_id)
        shot = shot_of(row)
        check_pass(shot, run_id, camera_pass)
        (wanted,) = files_of_take(shot, take_name(row), [camera_pass], [made], together=True)
        if takes_all_passes(made):
            # Unchanged frames are copied beside existing ones: nothing is replaced, and nothing is new.
            name = own_folder(folder) if folder else next(wanted.names)
        elif made.is_folder and folder:
            name = own_folder(folder)
            self._unheld[name] = claim(Path(name))
        else:
            name = self._claimed(self._project.files, wanted.names)
        output_id = self._add(run_id, made, name, camera_pass)
        self._making.linked.update([output_id] if links else [])
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
        place = Path(own_folder(folder)) if folder else self._project.files
        with self._jobs.using(JobKey("run", run_id)):
            return self._dispatch(run_id, place, self._files_of_take(run_id, camera_passes, recipes, names))

    def _files_of_take(
        self, run_id: int, camera_passes: Sequence[int], recipes: Sequence[Recipe], names: str
    ) -> list[WantedFile]:
        row = self._project.ledger.run(run_id)
        shot = shot_of(row)
        for camera_pass in camera_passes:
            check_pass(shot, run_id, camera_pass)
        return list(files_of_take(shot, take_name(row), camera_passes, recipes, names, row.variant))

    def _dispatch(self, run_id: int, place: Path, wanted: Sequence[WantedFile]) -> list[int]:
        """Order files, of which those of one camera pass are made together."""
        ids: list[int] = []
        with self._all_or_none(run_id) as together:
            batches: dict[int, list[int]] = {}
            handed: list[int] = []
            for one in wanted:
                file = self._claimed(place, one.names)
                ids.append(self._add(run_id, one.recipe, file, one.camera_pass, ids[0] if ids else 0))
                if one.recipe.codec == "handover":
                    # Last, so that it holds the other files of the order.
                    handed.append(ids[-1])
                    continue
                if one.camera_pass not in batches:
                    together.append(batches.setdefault(one.camera_pass, []))
                batches[one.camera_pass].append(ids[-1])
            together += [[output_id] for output_id in handed]
            # Also a file alone is of one camera pass, where it is ordered from here.
            self._project.outputs.set(ids[0], batch=ids[0])
        return ids

    def dispatch_reel(
        self, reel_id: str, reels: Sequence[Reel], recipes: Sequence[Recipe], folder: str, names: str
    ) -> list[int]:
        """Order files of the current reel by several recipes, under free names; their ids.

        Parameters
        ----------
        reels : sequence of Reel
            The reel, once for each format; files of one format are made together.
        """
        if not reels:
            raise Mistake("choose at least one size of the reel")
        place = Path(own_folder(folder)) if folder else self._project.files
        ids: list[int] = []
        with self._all_or_none(0) as together:
            for reel in reels:
                kept = spelled_reel(reel)
                together.append([])
                for one in files_of_reel(reel, recipes, names):
                    file = self._claimed(place, one.names)
                    document, batch = one.recipe.model_dump_json(exclude_defaults=True), ids[0] if ids else 0
                    add = partial(
                        self._project.outputs.add_of_reel, reel_id, kept, one.recipe.name, file, document, batch
                    )
                    ids.append(self._held(file, add))
                    together[-1].append(ids[-1])
        return ids

    def names_of_take(
        self, run_id: int, camera_passes: Sequence[int], recipes: Sequence[Recipe], folder: str, names: str
    ) -> list[str]:
        """The names that the files of an order would get now; see `dispatch`."""
        return self._free_names(folder, self._files_of_take(run_id, camera_passes, recipes, names))

    def names_of_reel(self, reels: Sequence[Reel], recipes: Sequence[Recipe], folder: str, names: str) -> list[str]:
        """The names that the files of a reel would get now; see `dispatch_reel`."""
        wanted = chain.from_iterable(files_of_reel(reel, recipes, names) for reel in reels)
        return self._free_names(folder, wanted)

    def _free_names(self, folder: str, wanted: Iterable[WantedFile]) -> list[str]:
        place = Path(own_folder(folder)) if folder else self._project.files
        found: list[str] = []
        for one in wanted:
            free = (name for name in one.names if name not in found and self._is_free(place, name))
            found.append(next(free, ""))
        return found

    def _is_free(self, place: Path, name: str) -> bool:
        file = name if place == self._project.files else str(place / name)
        path = place / name
        taken = self._project.outputs.knows(file) or is_claimed(path)
        return not taken and (not os.path.lexists(path) or (path.is_dir() and not any(path.iterdir())))

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
        """Order a file again with one of the settings that fit its limit; the new file's id."""
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
            (made,) = self.dispatch_reel(row.reel, [read_reel(row.reel_document)], [recipe], folder, "")
        else:
            (made,) = self.dispatch(row.run, [row.camera_pass], [recipe], folder, "")
        return made

    def deletes(self, row: OutputRow, trouble: str) -> bool:
        """Whether a file goes with its entry in the list.

        A file that has changed since it was made, another folder than the project's, and a folder that another entry
        has are left where they are.

        Parameters
        ----------
        trouble : str
            What is wrong with the file; see `vexel.store.outputs.trouble_of`.
        """
        place = self._project.files / row.file
        if row.state != "done" or trouble:
            return False
        return not place.is_dir() or (self._project.files in place.parents and not self._project.outputs.sharing(row))

    def remove(self, output_id: int) -> None:
        """Delete a file that was made, and its entry in the list; see `deletes`.

        Raises
        ------
        Mistake
            While it is being made.
        """
        row = self._project.outputs.get(output_id)
        if row.state in UNDER_WAY:
            raise Mistake(f"{Path(row.file).name} is being made: stop it first")
        place = self._project.files / row.file
        if self.deletes(row, trouble_of(row, place)):
            remove_files(self._project, files_at(place))
        self._project.outputs.remove(output_id)

    def _add(self, run_id: int, recipe: Recipe, file: str, camera_pass: int, batch: int = 0) -> int:
        document, add = recipe.model_dump_json(exclude_defaults=True), self._project.outputs.add
        return self._held(file, lambda: add(run_id, recipe.name, file, camera_pass, document, batch))

    def _claimed(self, place: Path, names: Iterable[str]) -> str:
        """Take the first of some names in a folder that no file, order or older row has.

        Returns
        -------
        str
            As the database records it: relative to the project's files, or absolute.
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
            self._record.claims[output_id] = taken
        return output_id

    @contextmanager
    def _all_or_none(self, run_id: int) -> Iterator[list[list[int]]]:
        """Order groups of files that the block collects. If the block fails, none of them is made."""
        together: list[list[int]] = []
        try:
            yield together
        except Exception as error:
            for output_id in chain(*together):
                self._record.ended(Job(JobKey("file", output_id)), Ending("failed", str(error)))
            raise
        for ids in together:
            self._put(ids, run_id)

    def _put(self, ids: Sequence[int], run_id: int) -> None:
        of = JobKey("run", run_id) if run_id else None
        self._jobs.order("files", [Job(JobKey("file", output_id), of) for output_id in ids], self._making.carry_out)
