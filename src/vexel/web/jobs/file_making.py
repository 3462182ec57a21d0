"""Files of takes and reels are made: those that were ordered together read their frames once."""

import json
from collections.abc import Callable, Sequence

from vexel.core.errors import Failure, Stopped
from vexel.core.recipes.recipe import Recipe
from vexel.core.reel.reel_spec import Reel, read_reel
from vexel.core.wording import counted
from vexel.output.bounded.media_orders import ReelOrder, Work
from vexel.output.compiling.sequence import lay_frames
from vexel.output.exporting.handover import prove_handover, write_handover
from vexel.output.job.receipt import Receipt
from vexel.output.reading.picture_file import DamagedFrame
from vexel.store.project import Project
from vexel.store.tables import OutputRow
from vexel.web.events import Events
from vexel.web.jobs.job import Ending, Job
from vexel.web.jobs.jobs import Jobs
from vexel.web.jobs.media_pool import MediaPool
from vexel.web.jobs.output_names import recipe_of, takes_all_passes
from vexel.web.jobs.run_handover import handed_of_run
from vexel.web.jobs.take_files import named_frames, take_footage
from vexel.web.schemas.news import JobChanged
from vexel.workers.planner import Planner


class FileMaking:
    """Carries out orders of files.

    Attributes
    ----------
    linked : set of int
        Folders of frames that are made of hard links.
    reel_order : callable
        A reel with its media, for a media process.
    """

    def __init__(self, project: Project, jobs: Jobs, events: Events, planner: Planner, media: MediaPool) -> None:
        self._project, self._jobs, self._events = project, jobs, events
        self._planner, self._media = planner, media
        self.linked: set[int] = set()
        self.reel_order: Callable[[Reel], ReelOrder] | None = None

    def carry_out(self, jobs: Sequence[Job]) -> list[Ending | Exception]:
        """Make the files of an order; how each ended."""
        rows = [self._project.outputs.get(int(job.key.name)) for job in jobs]
        try:
            made = self._made(jobs, rows)
        except DamagedFrame:
            # A frame was set aside: the run that shows it has changed.
            self._events.send(JobChanged(job="run", id=rows[0].run, run=rows[0].run))
            raise
        return [
            Ending("done", values={"receipt": json.dumps(one.document())}) if isinstance(one, Receipt) else one
            for one in made
        ]

    def _made(self, jobs: Sequence[Job], rows: Sequence[OutputRow]) -> Sequence[Receipt | Exception]:
        first, recipes = rows[0], [recipe_of(row) for row in rows]
        if first.reel:
            assert self.reel_order is not None
            reel = read_reel(first.reel_document)
            return self._compiled(jobs, rows, recipes, self.reel_order(reel), reel.title)
        if len(rows) == 1 and takes_all_passes(recipes[0]) and not first.batch:
            return [self._laid(jobs[0], first)]
        if recipes[0].codec == "handover":
            return [self._handed_over(jobs[0], first)]
        footage = take_footage(self._project, first.run, first.camera_pass)
        return self._compiled(jobs, rows, recipes, footage, footage.title)

    def _compiled(
        self, jobs: Sequence[Job], rows: Sequence[OutputRow], recipes: Sequence[Recipe], work: Work, title: str
    ) -> list[Receipt | Exception]:
        """Compile files of frames in a media process; what a recipe cannot take is refused for that file alone."""
        orders = [(recipe, self._project.files / row.file) for recipe, row in zip(recipes, rows, strict=True)]
        with self._media.apart(*{file.parent for _, file in orders}) as process:
            made = process.compile(
                work,
                orders,
                title or orders[0][1].name,
                lambda order, done, of: self._jobs.steps(jobs[order], done, of),
                lambda order: jobs[order].stop.asked,
            )
        none = Failure("no receipt was written: compile it again")
        return [one.receipt or one.error or none for one in made]

    def _handed_over(self, job: Job, row: OutputRow) -> Receipt:
        """A run's take with its shot, source and checksums, in a ZIP."""
        frames = dict(named_frames(self._project, row.run, deep=True))
        place = self._project.files / row.file

        def step(done: int) -> None:
            if job.stop.asked:
                raise Stopped("Stopped; no file was left.")
            self._jobs.steps(job, done, len(frames))

        with_files = recipe_of(row).made_files
        handed = handed_of_run(self._project, self._planner, row.run, frames, made_files=with_files)
        write_handover(handed, place, step)
        planned = self._project.ledger.run(row.run).count
        return prove_handover(place, row.recipe, planned, len(handed.made), handed.left_out)

    def _laid(self, job: Job, row: OutputRow) -> Receipt:
        """All frames of a run, of every camera and pass, in a folder, which may hold some of them already."""
        frames = named_frames(self._project, row.run, deep=True)

        def step(done: int) -> None:
            if job.stop.asked:
                raise Stopped(f"Stopped after {done:,} of {counted(len(frames), 'frame')}: order it again to continue.")
            self._jobs.steps(job, done, len(frames))

        place, planned = self._project.files / row.file, self._project.ledger.run(row.run).count
        return lay_frames(frames, place, row.recipe, planned, step, row.id in self.linked)
