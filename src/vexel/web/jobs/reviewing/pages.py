"""Review pages: a film of what is reviewed in a page with its notes, and notes that come back with the page."""

import json
from collections.abc import Sequence
from pathlib import Path

from vexel.core.errors import Failure, Missing, Mistake
from vexel.core.recipes.recipe import Recipe, Size
from vexel.core.recipes.shipped import RECIPES
from vexel.core.wording import slug
from vexel.output.bounded.media_orders import Work
from vexel.output.exporting.review_page import PageNote, ReviewPage, page_of, said_findings
from vexel.store.project import Project
from vexel.store.tables import NoteRow
from vexel.web.jobs.job import Ending, Job, JobKey
from vexel.web.jobs.jobs import Jobs
from vexel.web.jobs.media_pool import MediaPool
from vexel.web.jobs.reviewing.measuring import Measuring
from vexel.web.jobs.reviewing.subjects import Subject

PLAYED = {".mp4": "video/mp4", ".webm": "video/webm"}
"""Files that every browser plays: they are put into the page unchanged."""
LONG_SIDE = 1280
DIGITS = 4
"""Of brightness on a page."""


class ReviewPages:
    """Makes pages of reviews, and merges the notes of those that come back."""

    def __init__(self, project: Project, jobs: Jobs, media: MediaPool, measuring: Measuring) -> None:
        self._project, self._jobs, self._media, self._measuring = project, jobs, media, measuring
        self._folder = project.home / "pages"

    def begin(self, subject: Subject) -> None:
        """Make the film of a page, unless it is there or already queued or running.

        Raises
        ------
        Mistake
            When no film can be made of it.
        """
        if subject.is_data:
            raise Mistake("this pass holds numbers: make a review page of another pass")
        if subject.file is not None and subject.file.suffix.lower() not in PLAYED:
            raise Mistake(f"browsers do not play {subject.file.suffix} files: make a review page of its take")
        if subject.file is None and not self._film(subject).is_file():
            self._jobs.order("files", [Job(_key(subject))], lambda jobs: self._carry_out(jobs, subject))

    def newest(self, subject: Subject) -> Job | None:
        """The newest making of a page's film since the server was started."""
        return self._jobs.find(_key(subject))

    def is_ready(self, subject: Subject) -> bool:
        """Whether the page can be had."""
        return self._film(subject).is_file()

    def page(self, subject: Subject) -> tuple[str, bytes]:
        """The name and the content of a page, with all notes of now.

        Raises
        ------
        Missing
            When its film has not been made.
        """
        film = self._film(subject)
        if not film.is_file():
            raise Missing(f"the film of {subject.title} is not made yet: order its review page first")
        found = None if subject.is_data or subject.first else self._measuring.reviewed(subject)
        name = f"{slug(subject.title)}.review.html"
        page = ReviewPage(
            title=subject.title,
            file=name,
            content=subject.content,
            camera_pass=subject.camera_pass,
            count=subject.count,
            first=subject.first,
            fps=float(subject.rate),
            curve=[] if found is None else [round(frame.mean, DIGITS) for frame in found.measured.frames],
            findings=[]
            if found is None
            else said_findings([(one.finding.what, one.finding.cost) for one in found.seen]),
            notes=[
                _page_note(row) for row in self._project.notes.of(subject.id) if row.camera_pass == subject.camera_pass
            ],
        )
        return name, page_of(page, film.read_bytes(), PLAYED.get(film.suffix.lower(), "video/mp4"))

    def merge(self, subject: Subject, page: ReviewPage) -> tuple[int, int]:
        """Take over the notes of a page; how many are new, and how many were closed or opened there.

        Raises
        ------
        Mistake
            When the page is of other frames.
        """
        if page.content != subject.content:
            raise Mistake(
                f"the page is of other frames ({page.title}, {page.count:,} frames): open what it was made of, "
                "and import it there"
            )
        outside = [note for note in page.notes if not note.first <= note.last < subject.count]
        if outside:
            raise Mistake(f"a note of the page is on frame {outside[0].last}, which {subject.title} does not have")
        known = {row.uid: row for row in self._project.notes.of(subject.id)}
        new = changed = 0
        for note in page.notes:
            row = known.get(note.uid)
            if row is None:
                mark = note.mark.model_dump_json() if note.mark else ""
                values = note.model_dump(include={"uid", "first", "last", "text", "author", "is_open"})
                created = {"created": note.created} if note.created else {}
                new += self._project.notes.merge(
                    subject=subject.id, camera_pass=subject.camera_pass, mark=mark, **values, **created
                )
            elif row.is_open != note.is_open and note.changed:
                self._project.notes.change(row.id, is_open=note.is_open)
                changed += 1
        return new, changed

    def _film(self, subject: Subject) -> Path:
        return subject.file if subject.file is not None else self._folder / f"{subject.content}.mp4"

    def _carry_out(self, jobs: Sequence[Job], subject: Subject) -> list[Ending | Exception]:
        (job,) = jobs
        work: Work | None = (
            subject.footage if subject.footage is not None else subject.held[1] if subject.held else None
        )
        assert work is not None
        self._folder.mkdir(exist_ok=True)
        with self._media.apart(self._folder) as process:
            (made,) = process.compile(
                work,
                [(film_recipe(subject), self._film(subject))],
                subject.title,
                lambda _, done, count: self._jobs.steps(job, done, count),
                lambda _: job.stop.asked,
            )
        if made.error is not None:
            return [made.error]
        if made.receipt is None or not made.receipt.holds:
            self._film(subject).unlink(missing_ok=True)
            return [Failure("the film of the page is not what was planned: make the page again")]
        return [Ending("done")]


def film_recipe(subject: Subject) -> Recipe:
    """How the film of a page is made: small, and with a key frame each second, so that steps are quick."""
    size = Size(long_side=LONG_SIDE) if max(subject.width, subject.height) > LONG_SIDE else Size()
    timing = RECIPES["h264-small"].timing.model_copy(update={"missing": "hold", "repeats": 1})
    changes = {"size": size, "timing": timing, "key_seconds": 1.0, "origin": "digest"}
    return RECIPES["h264-small"].model_copy(update=changes)


def _key(subject: Subject) -> JobKey:
    return JobKey("figures", f"page:{subject.id}:{subject.camera_pass}")


def _page_note(row: NoteRow) -> PageNote:
    value = {"mark": json.loads(row.mark) if row.mark else None}
    names = ("uid", "camera_pass", "first", "last", "text", "author", "created", "is_open")
    return PageNote.model_validate(value | {name: getattr(row, name) for name in names})
