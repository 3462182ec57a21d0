"""What can be reviewed in a project, and what goes with what."""

from vexel.core.wording import counted
from vexel.store.frame_states import READY
from vexel.store.project import Project
from vexel.store.tables import OutputRow, RunRow
from vexel.store.takes import shot_of
from vexel.web.jobs.reviewing.subjects import MOVING, Subject
from vexel.web.schemas.reviews import OtherBody

MOST_LISTED = 300
"""Of takes, and of files."""


class Reviewable:
    """Lists takes, files and reels."""

    def __init__(self, project: Project) -> None:
        self._project = project

    def all(self) -> list[OtherBody]:
        """Takes with finished frames and finished files, the newest first; reels; and what was dropped on Review."""
        return [*self._takes(), *self._files(), *self._reels(), *self._imports()]

    def beside(self, subject: Subject) -> list[OtherBody]:
        """What a subject can be compared with: takes of its shot first, and files that were made of it."""
        own = {(subject.kind, subject.name)}
        runs = {row.id: row.shot_id for row in self._project.ledger.runs(most=MOST_LISTED)}
        files = {str(row.id): row for row in self._file_rows()}

        def apart(other: OtherBody) -> int:
            shot = self._shot_of(other, runs, files)
            mine = subject.shot_id or self._shot_of(subject, runs, files)
            return 0 if mine and shot == mine else 1

        return sorted((one for one in self.all() if (one.kind, one.name) not in own), key=apart)

    def _shot_of(self, one: OtherBody | Subject, runs: dict[int, str], files: dict[str, OutputRow]) -> str:
        if one.kind == "take":
            return runs.get(int(one.name), "")
        if one.kind == "file" and one.name in files:
            return runs.get(files[one.name].run, "")
        return ""

    def _takes(self) -> list[OtherBody]:
        rows = self._project.ledger.runs(most=MOST_LISTED)
        counts = self._project.ledger.overview([row.id for row in rows])
        return [_take(row) for row in rows if any(state in READY for state in counts.get(row.id, {}))]

    def _file_rows(self) -> list[OutputRow]:
        return [row for row in self._project.outputs.all(MOST_LISTED) if _moves(row)]

    def _files(self) -> list[OtherBody]:
        return [
            OtherBody(kind="file", name=str(row.id), title=row.file, about="file", created=row.created, count=0)
            for row in self._file_rows()
        ]

    def _imports(self) -> list[OtherBody]:
        folder = self._project.reviewed
        names = sorted(one.name for one in folder.iterdir() if one.is_dir()) if folder.is_dir() else []
        return [OtherBody(kind="import", name=name, title=name, about="import", created="", count=0) for name in names]

    def _reels(self) -> list[OtherBody]:
        reels = self._project.reels
        return [
            OtherBody(kind="reel", name=name, title=reels.value(name).title, about="reel", created="", count=0)
            for name in reels.ids()
        ]


def _take(row: RunRow) -> OtherBody:
    shot = shot_of(row)
    draft = "draft, " if row.draft else ""
    about = f"take {row.id}, {draft}{counted(shot.clock.exact.frames, 'frame')}"
    title = f"{shot.title}, {row.variant}" if row.variant else shot.title
    return OtherBody(
        kind="take", name=str(row.id), title=title, about=about, created=row.created, count=shot.clock.exact.frames
    )


def _moves(row: OutputRow) -> bool:
    return row.state == "done" and row.file.lower().endswith(MOVING)
