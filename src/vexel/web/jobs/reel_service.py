"""Reels that are open: worked out with their media, kept while nothing of them changes."""

import threading
from collections.abc import Hashable, Iterable, Mapping, Sequence
from concurrent.futures import Future
from dataclasses import dataclass
from functools import cached_property, partial
from itertools import count
from pathlib import Path
from typing import Any, NamedTuple

from cachetools import LRUCache

from vexel.core.document.shot import edited
from vexel.core.edits.true_motion import true_motion
from vexel.core.errors import Missing, Mistake
from vexel.core.finding import Finding
from vexel.core.reel.formats import shown_in
from vexel.core.reel.item_spec import AnyItem, PlayedSpec, ShotItem, TakeItem, replaced
from vexel.core.reel.media import MediaRef
from vexel.core.reel.reel_plan import ReelPlan
from vexel.core.reel.reel_spec import Reel
from vexel.core.reel.true_frames import TrueFrames
from vexel.disk.changed import changed_at
from vexel.disk.named_place import named_place
from vexel.output.bounded.media_orders import GivenMedia, Imported, ReelOrder
from vexel.output.reel.media import PlannedMedia, TrueFramesMedia, shown_pass
from vexel.output.reel.open_reel import OpenReel, open_reel
from vexel.store.documents.reels import spelled_reel
from vexel.store.frame_states import UNDER_WAY
from vexel.store.project import Project
from vexel.web.jobs.frames.captures import Captures
from vexel.web.jobs.job import Job, JobKey
from vexel.web.jobs.jobs import Jobs
from vexel.web.jobs.media_pool import BesideReels, MediaPool
from vexel.web.jobs.project_library import RUN, ProjectLibrary, place_of_shot
from vexel.web.jobs.take_files import take_footage
from vexel.workers.bounded_process import ProcessEnded

KEPT = 8
BEAT = "beat"
PEAKS = 800
"""Parts of a sound whose loudness is shown."""


@dataclass(frozen=True)
class HeldReel:
    """A reel that is open.

    Attributes
    ----------
    opened : OpenReel
    token : int
        Identifies it in media processes.
    reel : Reel
        The document, with nested reels as references.
    library : ProjectLibrary
    """

    opened: OpenReel
    token: int
    reel: Reel
    library: ProjectLibrary

    @cached_property
    def order(self) -> ReelOrder:
        """The order for media processes, with the reason for each missing medium."""
        given: dict[MediaRef, GivenMedia] = {}
        for ref in (*self.opened.media, *self.opened.gone):
            if ref in self.opened.gone:
                given[ref] = GivenMedia(trouble=str(self.opened.gone[ref]))
            elif (of_project := self.library.given(ref)) is not None:
                given[ref] = of_project
        captured = {
            ref: media.footage for ref, media in self.opened.captured.items() if isinstance(media, TrueFramesMedia)
        }
        return ReelOrder(spelled_reel(self.reel), self.opened.folder, given, captured)


class Runs(NamedTuple):
    """Runs with their states, by their shots; and the shot of each run."""

    of_shot: Mapping[str, Sequence[tuple[int, str]]]
    shots: Mapping[int, str]


class Named(NamedTuple):
    """Files and media that a reel names."""

    places: tuple[str, ...]
    refs: tuple[MediaRef, ...]


NOTHING = Named((), ())


def within_of(opened: OpenReel) -> Named:
    """What the reels within a reel name, and those reels themselves."""
    return Named(tuple(map(str, opened.reels)), tuple(dict.fromkeys((*opened.media, *opened.gone))))


class ReelService:
    """Opens reels, shows their frames, and orders missing frames."""

    def __init__(self, project: Project, captures: Captures, jobs: Jobs, media: MediaPool) -> None:
        self._project = project
        self._captures = captures
        self._jobs = jobs
        self._media = media
        self._library = ProjectLibrary(project, partial(take_footage, project), media)
        self._beside = BesideReels(media, project.reels.folder)
        self._tokens = count(1)
        self._open: dict[int, tuple[object, Future[HeldReel], Reel]] = {}
        self._named: dict[int, tuple[Reel, Named]] = {}
        self._known: dict[str, tuple[Named, Named]] = {}
        self._within: dict[int, Named] = {}
        self._turn = threading.Lock()
        self._formats: LRUCache[tuple[int, str], tuple[Reel, Reel]] = LRUCache(KEPT)
        self._looked: dict[int, tuple[list[Finding], str]] = {}

    def runs(self) -> Runs:
        """What a reel may have to know of the runs; files that it names are asked apart."""
        runs: dict[str, list[tuple[int, str]]] = {}
        shots: dict[int, str] = {}
        for run_id, state, shot_id in self._project.ledger.states():
            runs.setdefault(shot_id, []).append((run_id, state))
            shots[run_id] = shot_id
        return Runs(runs, shots)

    def open(self, reel: Reel, runs: Runs | None = None) -> OpenReel:
        """A reel with its current media.

        Parameters
        ----------
        runs : Runs, optional
            See `runs`; asked for once where several reels are opened.
        """
        return self.held(reel, runs).opened

    def order(self, reel: Reel) -> ReelOrder:
        """A reel for a media process."""
        return self.held(reel).order

    def held(self, reel: Reel, runs: Runs | None = None) -> HeldReel:
        """A reel that is open, with its token; see `open` for errors."""
        key = id(reel)
        runs = self.runs() if runs is None else runs
        named, within = self._named_by(reel), self._within.get(key, NOTHING)
        mark = (self._stamps(named, runs), self._stamps(within, runs))
        with self._turn:
            kept = self._open.get(key)
            mine = None if kept is not None and kept[0] == mark else Future[HeldReel]()
            if mine is not None:
                # The reel stays with it, so that no other one has its identity.
                kept = self._open[key] = (mark, mine, reel)
                while len(self._open) > KEPT:
                    oldest = next(iter(self._open))
                    del self._open[oldest]
                    self._within.pop(oldest, None)
        assert kept is not None
        if mine is not None:
            # Not in turn: one reel that takes long to open is waited for by those alone who want it.
            try:
                before = self._edited_from(reel)
                opened = open_reel(reel, self._library, self.folder, beside=self._beside, before=before)
                self._within[key] = within_of(opened)
                if within != self._within[key]:
                    # Reels within reels are known only now: from here on what they name is part of the mark.
                    with self._turn:
                        whole = (self._stamps(named, runs), self._stamps(self._within[key], runs))
                        if self._open.get(key) is kept:
                            self._open[key] = (whole, mine, reel)
                mine.set_result(HeldReel(opened, next(self._tokens), reel, self._library))
            except BaseException as error:  # noqa: BLE001 (it is raised where the reel is waited for)
                mine.set_exception(error)
                with self._turn:
                    if self._open.get(key) is kept:
                        del self._open[key]
        return kept[1].result()

    def stamp(self, reel_id: str, runs: Runs) -> Hashable:
        """Changes when what the reel names changes; new each time for a reel that is not known to open."""
        known = self._known.get(reel_id)
        return object() if known is None else tuple(self._stamps(one, runs) for one in known)

    def note(self, reel_id: str, opened: OpenReel | None) -> None:
        """Remember what a reel names, with the reels within it; `None` where it cannot be opened."""
        if opened is None:
            self._known.pop(reel_id, None)
        else:
            self._known[reel_id] = self._named_by(opened.plan.reel), within_of(opened)

    def _named_by(self, reel: Reel) -> Named:
        """What a reel names itself, which takes a tenth of a second to find for 5,000 items."""
        known = self._named.get(id(reel))
        if known is None or known[0] is not reel:
            known = self._named[id(reel)] = reel, Named(tuple(reel.places()), tuple(reel.refs()))
            while len(self._named) > 2 * KEPT:
                self._named.pop(next(iter(self._named)), None)
        return known[1]

    def _edited_from(self, reel: Reel) -> ReelPlan | None:
        """The plan of the reel that an edit made this one of: most of their items are the same objects."""
        with self._turn:
            kept = [future for _, future, _ in self._open.values() if future.done() and future.exception() is None]
        for future in reversed(kept):
            plan = future.result().opened.plan
            others = plan.reel.items
            if reel.items and others and (reel.items[0] == others[0] or reel.items[-1] == others[-1]):
                return plan
        return None

    def _stamps(self, named: Named, runs: Runs) -> Hashable:
        shots = dict.fromkeys(filter(None, (self._shot_file(ref, runs) for ref in named.refs)))
        of_runs = tuple(tuple(runs.of_shot.get(Path(shot).stem, ())) for shot in shots)
        return tuple((place, changed_at(self.folder / place)) for place in (*named.places, *shots)), of_runs

    def _shot_file(self, ref: MediaRef, runs: Runs) -> str:
        """The file of the shot that media are of; empty where they are of none, or of one that is gone."""
        if ref.kind == "shot":
            return ref.place
        run = ref.place.removeprefix(RUN)
        if ref.kind != "take" or run == ref.place or not run.isdecimal():
            return ""
        shot = runs.shots.get(int(run), "")
        return str(place_of_shot(self._project, shot)) if shot else f"{run} of no shot"

    @property
    def folder(self) -> Path:
        """That paths in reels are relative to."""
        return self._project.reels.folder

    def in_format(self, reel: Reel, name: str) -> Reel:
        """A reel in one of its formats: the same object each time, so that it stays open."""
        if name == reel.format:
            return reel
        key = id(reel), name
        with self._turn:
            kept = self._formats.get(key)
        if kept is None or kept[0] is not reel:
            (shown,) = shown_in(reel, [name])
            with self._turn:
                kept = self._formats[key] = reel, shown
        return kept[1]

    def picture(self, reel: Reel, number: int, long_side: int) -> bytes:
        """A frame as JPEG, or as PNG where it has transparency."""
        held = self.held(reel)
        frames = held.opened.plan.frames
        if not 0 <= number < frames:
            raise Mistake(f"{reel.title} has frames 0 to {frames - 1:,}, not {number:,}")
        with self._media.asked(held.token) as process:
            return process.picture(held.token, held.order, reel.title, number, long_side)

    def analyse(self, reel_id: str, reel: Reel) -> tuple[list[Finding], str]:
        """What only its pictures tell, and what was not looked at; ends early where the reel is edited meanwhile."""
        held = self.held(reel)
        if (found := self._looked.get(held.token)) is not None:
            return found
        job = Job(JobKey("look", reel_id))
        try:
            with self._jobs.going(job), self._media.apart() as process, job.stop.cutting(process.cut):
                found = process.looks(held.order, reel.title)
        except ProcessEnded:
            return [], ""
        self._looked = {held.token: found}
        return found

    def item_picture(self, reel: Reel, item: int, frame: int, long_side: int) -> bytes:
        """A frame of what an item plays, by its number there."""
        held = self.held(reel)
        opened = held.opened
        played = reel.items[item] if item < len(reel.items) else None
        media = opened.media.get(played.ref) if isinstance(played, PlayedSpec) else None
        if media is None:
            raise Mistake(f"item {item} of {reel.title} plays no frames that are there")
        if not 0 <= frame < media.facts.frames:
            raise Mistake(f"{opened.plan.names[item]} has frames 0 to {media.facts.frames - 1:,}, not {frame:,}")
        if isinstance(media, PlannedMedia):
            media.picture(frame)
        with self._media.asked(held.token) as process:
            return process.item_picture(held.token, held.order, reel.title, item, frame, long_side)

    def to_renew(self, opened: OpenReel) -> dict[MediaRef, int]:
        """Frames of takes that are older than their shots."""
        media = opened.media
        return {ref: one.facts.frames for ref, one in media.items() if one.facts.stale and self._library.shot_of(ref)}

    def renew(self, reel: Reel) -> tuple[list[int], list[AnyItem]]:
        """Order new takes of shots whose takes are outdated.

        Returns
        -------
        list of int
            The runs.
        list of AnyItem
            The reel's items; those that were of one certain run are of the newest take of its shot.

        Raises
        ------
        Mistake
            When none is outdated, or one is running.
        """
        outdated = self.to_renew(self.open(reel))
        if not outdated:
            raise Mistake(f"no take of {reel.title} is older than its shot")
        self._refuse_busy(outdated)
        runs = [self._captures.capture(shot) for shot in dict.fromkeys(self._library.shot_of(ref) for ref in outdated)]

        def of_shot(item: AnyItem) -> AnyItem:
            if not isinstance(item, TakeItem) or item.ref not in outdated:
                return item
            values = item.model_dump(exclude={"kind", "take"})
            place = place_of_shot(self._project, self._library.shot_of(item.ref))
            return ShotItem(kind="shot", shot=str(place), **values)

        return runs, [replaced(item, of_shot) for item in reel.items]

    def beats(self, reel: Reel) -> list[dict[str, Any]]:
        """Markers with those at the beats of its first sound put in; those of an earlier search are gone.

        Raises
        ------
        Mistake
            When it has no sound, or that has no pulse.
        """
        if not reel.sound:
            raise Mistake(f"{reel.title} has no sound yet: add one, then find its beats")
        sound = reel.sound[0]
        rate, frames = reel.exact_rate.fps, self.open(reel).plan.frames
        with self._media.asked() as process:
            heard = process.beats(named_place(self.folder, sound.file))
        seconds = (beat - sound.first + sound.at for beat in heard)
        beats = {round(at * rate) for at in seconds if at >= sound.at}
        within = [frame for frame in sorted(beats) if frame < frames]
        if not within:
            raise Mistake(f"{Path(sound.file).name} has no even pulse: put markers by hand, frame by frame")
        kept = [marker.model_dump() for marker in reel.markers if not marker.found]
        found = kept + [{"frame": frame, "name": BEAT, "found": True} for frame in within]
        return sorted(found, key=lambda marker: int(marker["frame"]))

    def peaks(self, reel: Reel, number: int) -> tuple[float, list[float]]:
        """How long a sound's file is, in seconds, and how loud it is along its length, in `PEAKS` parts."""
        if number >= len(reel.sound):
            raise Missing(f"{reel.title} has no sound {number + 1}")
        with self._media.asked() as process:
            return process.peaks(named_place(self.folder, reel.sound[number].file), PEAKS)

    def imported(self, places: Sequence[Path]) -> Imported:
        """Items and sounds of imported files, in a fixed order."""
        job = Job(JobKey("import", next(self._tokens)))
        with self._jobs.going(job), self._media.apart() as process, job.stop.cutting(process.cut):
            return process.imported(places, self.folder)

    def _refuse_busy(self, refs: Iterable[MediaRef]) -> None:
        under_way = {run.shot_id: run.id for run in self._project.ledger.runs() if run.state in UNDER_WAY}
        for ref in refs:
            if run := under_way.get(self._library.shot_of(ref)):
                raise Mistake(f"run {run} of the same shot is running: wait until it ends, then try again")

    def to_capture(self, opened: OpenReel) -> dict[MediaRef, int]:
        """Number of missing frames of a reel that can be captured, by their media."""
        shots = {ref: media.facts.frames for ref, media in opened.media.items() if isinstance(media, PlannedMedia)}
        return shots | {ref: len(frames.numbers) for ref, frames in opened.lacking().items() if ref not in shots}

    def capture(self, reel: Reel) -> list[int]:
        """Order runs of a reel's missing frames; return their ids.

        Raises
        ------
        Mistake
            When no frame is missing, or a shot cannot be captured this way.
        """
        opened = self.open(reel)
        planned = [ref for ref, media in opened.media.items() if isinstance(media, PlannedMedia)]
        self._refuse_busy([*opened.lacking(), *planned])
        # Passes and cameras of one shot come from one run.
        runs = [self._captures.capture(shot) for shot in dict.fromkeys(self._library.shot_of(ref) for ref in planned)]
        lacking = {ref: frames for ref, frames in opened.lacking().items() if ref not in planned}
        runs += [self._instants(ref, frames) for ref, frames in lacking.items()]
        if not runs:
            raise Mistake(f"{reel.title} has no missing frames")
        return runs

    def _instants(self, ref: MediaRef, frames: TrueFrames) -> int:
        shot_id = self._library.shot_of(ref)
        shot = self._project.shots.shot(shot_id)
        changed = edited(shot, true_motion(shot, frames.motion, frames.numbers))
        camera_pass = changed.camera_passes.index(shown_pass(changed, ref))
        numbers = [changed.index_of(number, camera_pass).picture for number in frames.numbers]
        return self._captures.capture_some(shot_id, changed, numbers)
