"""Media of a project's reels: its runs, its shots, and files beside the reels; they are read in media processes."""

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from vexel.core.document.shot import Shot
from vexel.core.errors import Failure, Mistake
from vexel.core.reel.media import MediaRef
from vexel.core.reel.true_frames import TrueFrames
from vexel.core.sweep.variants import Variant, variant_shot, variants
from vexel.disk.changed import changed_at
from vexel.disk.named_place import named_place
from vexel.output.bounded.media_orders import GivenMedia, KnownMedia
from vexel.output.footage.footage import Footage
from vexel.output.reel.kept_media import MOST_KEPT, KeptMedia
from vexel.output.reel.media import Media, PlannedMedia, TrueFramesMedia, shown_pass, shows_the_same
from vexel.store.frame_states import READY
from vexel.store.project import Project
from vexel.store.tables import RunRow
from vexel.store.takes import shot_of
from vexel.web.jobs.media_pool import MediaPool

RUN = "run:"


class ProjectLibrary:
    """See `vexel.output.reel.library.Library`.

    Parameters
    ----------
    project : Project
    footage : callable
        The frames of one camera pass of a run.
    media : MediaPool
    """

    def __init__(self, project: Project, footage: Callable[[int, int], Footage], media: MediaPool) -> None:
        self._project = project
        self._footage = footage
        self._media = media
        self._kept = KeptMedia()
        self._given: dict[tuple[MediaRef, int], GivenMedia] = {}

    def open(self, ref: MediaRef, rate: str) -> Media:
        """See `Library.open`."""
        given = self.given(ref)
        if given is not None and given.footage is None:
            return PlannedMedia.of(Shot.model_validate_json(given.shot), given.name)
        folder = self._project.reels.folder
        if given is not None:
            assert given.footage is not None
            mark: object = given.footage.files
        else:
            mark = rate, changed_at(named_place(folder, ref.place))

        def asked() -> Media:
            with self._media.asked() as process:
                return process.known(folder, ref, rate, given)

        known = self._kept.of((ref, mark), asked)
        assert isinstance(known, KnownMedia)
        if given is None or given.stale == known.facts.stale:
            # The same facts, by which a plan knows that nothing of an item has changed.
            return known
        return replace(known, facts=replace(known.facts, stale=given.stale))

    def given(self, ref: MediaRef) -> GivenMedia | None:
        """What the project knows of media; None where they are files by their paths.

        Raises
        ------
        Mistake, Failure
            When there is no such run, or its take is not complete.
        """
        if ref.kind == "take" and ref.place.startswith(RUN):
            return self._of_run(ref, self._run(ref.place))
        shot_id = self.shot_of(ref)
        if ref.kind != "shot" or not shot_id:
            return None
        now = self._project.shots.shot(shot_id)
        newest = self._newest(shot_id, now)
        if newest is None:
            shown_pass(now, ref)
            return GivenMedia(shot=now.model_dump_json(), name=ref.place)
        return self._of_run(ref, newest)

    def true_frames(self, ref: MediaRef, frames: TrueFrames) -> Media | None:
        """See `Library.true_frames`."""
        for row in self._project.ledger.runs(self.shot_of(ref)):
            shot = shot_of(row)
            if row.draft or row.variant or shot.clock.exact.motion != frames.motion:
                continue
            camera_pass = shot.camera_passes.index(shown_pass(shot, ref))
            ready = {one.number for one in self._project.ledger.rows(row.id, READY)}
            if {shot.index_of(number, camera_pass).picture for number in frames.numbers} <= ready:
                return TrueFramesMedia(self._footage(row.id, camera_pass))
        return None

    def shot_of(self, ref: MediaRef) -> str:
        """The shot of media, by its name in the project; empty where they are of none."""
        if ref.kind == "take" and ref.place.startswith(RUN):
            return self._run(ref.place).shot_id
        if ref.kind != "shot":
            return ""
        place = named_place(self._project.reels.folder, ref.place)
        shots = self._project.shots
        return place.stem if place.parent == shots.folder.resolve() and shots.has(place.stem) else ""

    def _run(self, place: str) -> RunRow:
        number = place.removeprefix(RUN)
        if not (number.isascii() and number.isdecimal() and len(number) < 20):
            raise Mistake(f"{place[:80]} is not a run: write it as run:3")
        return self._project.ledger.run(int(number))

    def _newest(self, shot_id: str, now: Shot) -> RunRow | None:
        """The newest whole take of a shot; one of other instants of its motion is another matter."""
        for row in self._project.ledger.runs(shot_id):
            if row.draft or row.variant or row.state != "done":
                continue
            made = shot_of(row)
            if row.count == made.pictures and made.clock.retimed_from == now.clock.retimed_from:
                return row
        return None

    def _of_run(self, ref: MediaRef, row: RunRow) -> GivenMedia:
        shot = shot_of(row)
        given = self._given.get((ref, row.id))
        if given is None:
            footage = self._footage(row.id, shot.camera_passes.index(shown_pass(shot, ref)))
            if footage.held or footage.count < shot.clock.exact.frames:
                raise Failure(f"run {row.id} of {shot.title} is not whole: resume it")
            given = self._given[ref, row.id] = GivenMedia(footage, shot.model_dump_json())
            while len(self._given) > MOST_KEPT:
                self._given.pop(next(iter(self._given)), None)
        return replace(given, stale=self._is_stale(row, shot))

    def _is_stale(self, row: RunRow, made: Shot) -> bool:
        if not self._project.shots.has(row.shot_id):
            return False
        now = shot_as_run(self._project.shots.shot(row.shot_id), row)
        return now is None or not shows_the_same(now, made)


def shot_as_run(shot: Shot, row: RunRow) -> Shot | None:
    """A shot as a run of its kind captures it, as a draft or a variant; None where it has no such variant."""
    if row.variant:
        variant = next((one for one in _variants(shot) if one.name == row.variant), None)
        if variant is None:
            return None
        shot = variant_shot(shot, variant)
    return shot.draft() if row.draft else shot


def _variants(shot: Shot) -> list[Variant]:
    try:
        return variants(shot.sweep) if shot.sweep is not None else []
    except Mistake:
        return []


def place_of_shot(project: Project, shot_id: str) -> Path:
    """The path of a shot, in the form that reels of the project use."""
    return Path("..") / project.shots.folder.name / f"{shot_id}.json"
