"""Media of a project's reels: its runs, its shots, and files beside the reels."""

import threading
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from vexel.core.document.shot import Shot
from vexel.core.errors import Failure, Mistake
from vexel.core.reel.media import MediaRef
from vexel.core.reel.true_frames import TrueFrames
from vexel.disk.named_place import named_place
from vexel.output.footage import Footage
from vexel.output.reel.library import FolderLibrary
from vexel.output.reel.media import AnewMedia, FootageMedia, Media, PlannedMedia, shown_pass, shows_the_same
from vexel.store.frame_states import READY
from vexel.store.project import Project
from vexel.store.tables import RunRow
from vexel.store.takes import shot_of

RUN = "run:"
MOST_KEPT = 64
"""Media that stay open."""


class ProjectLibrary:
    """See `vexel.output.reel.library.Library`.

    Parameters
    ----------
    project : Project
    footage : callable
        The frames of one camera pass of a run.
    """

    def __init__(self, project: Project, footage: Callable[[int, int], Footage]) -> None:
        self._project = project
        self._footage = footage
        self._beside = FolderLibrary(project.reels.folder)
        self._open: dict[tuple[MediaRef, object], Media] = {}
        self._turn = threading.Lock()

    def open(self, ref: MediaRef, rate: str) -> Media:
        """See `Library.open`."""
        if ref.kind == "take" and ref.place.startswith(RUN):
            return self._of_run(ref, self._run(ref.place))
        shot_id = self.shot_of(ref)
        if ref.kind == "shot" and shot_id:
            now = self._project.shots.shot(shot_id)
            newest = self._newest(shot_id, now)
            if newest is None:
                shown_pass(now, ref)
                return PlannedMedia.of(now, ref.place)
            return self._of_run(ref, newest)
        place = named_place(self._project.reels.folder, ref.place)
        mark = place.stat().st_mtime_ns if place.exists() else rate
        return self._kept((ref, (rate, mark)), lambda: self._beside.open(ref, rate))

    def anew(self, ref: MediaRef, frames: TrueFrames) -> Media | None:
        """See `Library.anew`."""
        for row in self._project.ledger.runs(self.shot_of(ref)):
            shot = shot_of(row)
            if row.rough or shot.clock.exact.motion != frames.motion:
                continue
            camera_pass = shot.camera_passes.index(shown_pass(shot, ref))
            ready = {one.number for one in self._project.ledger.rows(row.id, READY)}
            if {shot.index_of(number, camera_pass).picture for number in frames.numbers} <= ready:
                return AnewMedia(self._footage(row.id, camera_pass))
        return None

    def shot_of(self, ref: MediaRef) -> str:
        """The shot of media, by its name in the project; empty where they are of none."""
        if ref.kind == "take" and ref.place.startswith(RUN):
            return self._run(ref.place).shot_id
        if ref.kind != "shot":
            return ""
        place = named_place(self._project.reels.folder, ref.place)
        shots = self._project.shots
        return place.stem if place.parent == shots.folder.resolve() and place.stem in shots.ids() else ""

    def _run(self, place: str) -> RunRow:
        number = place.removeprefix(RUN)
        if not (number.isascii() and number.isdecimal() and len(number) < 20):
            raise Mistake(f"{place[:80]} is not a run: write it as run:3")
        return self._project.ledger.run(int(number))

    def _newest(self, shot_id: str, now: Shot) -> RunRow | None:
        """The newest whole take of a shot; one of other instants of its motion is another matter."""
        for row in self._project.ledger.runs(shot_id):
            if row.rough or row.state != "done":
                continue
            made = shot_of(row)
            if row.count == made.pictures and made.clock.retimed_from == now.clock.retimed_from:
                return row
        return None

    def _of_run(self, ref: MediaRef, row: RunRow) -> Media:
        shot = shot_of(row)
        camera_pass = shot.camera_passes.index(shown_pass(shot, ref))

        def opened() -> Media:
            footage = self._footage(row.id, camera_pass)
            if footage.held or footage.count < shot.clock.exact.frames:
                raise Failure(f"run {row.id} of {shot.title} is not whole: resume it")
            return FootageMedia.of(footage, shot)

        media = self._kept((ref, row.id), opened)
        assert isinstance(media, FootageMedia)
        return replace(media, facts=replace(media.facts, stale=self._is_stale(row, shot)))

    def _is_stale(self, row: RunRow, made: Shot) -> bool:
        if row.shot_id not in self._project.shots.ids():
            return False
        now = self._project.shots.shot(row.shot_id)
        return not shows_the_same(now.rough() if row.rough else now, made)

    def _kept(self, key: tuple[MediaRef, object], make: Callable[[], Media]) -> Media:
        with self._turn:
            kept = self._open.get(key)
        if kept is None:
            # Two that want the same at once open it twice, which is sooner than waiting for what others want.
            kept = make()
            with self._turn:
                self._open[key] = kept
                while len(self._open) > MOST_KEPT:
                    self._open.pop(next(iter(self._open)))
        return kept


def place_of_shot(project: Project, shot_id: str) -> Path:
    """The path of a shot as reels of the project say it."""
    return Path("..") / project.shots.folder.name / f"{shot_id}.json"
