"""Reels that are open: worked out with their media, kept while nothing of them changes."""

import threading
from collections.abc import Hashable, Iterable
from concurrent.futures import Future
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from vexel.core.document.shot import edited
from vexel.core.edits.true_motion import true_motion
from vexel.core.errors import Mistake
from vexel.core.finding import Finding
from vexel.core.reel.beats import beats_of
from vexel.core.reel.item_spec import AnyItem, PlayedSpec, ShotItem, TakeItem, replaced
from vexel.core.reel.media import MediaRef
from vexel.core.reel.reel_spec import Reel
from vexel.core.reel.true_frames import TrueFrames
from vexel.disk.named_place import named_place
from vexel.output.pictures import Pixels
from vexel.output.reel.draw import fitted_into
from vexel.output.reel.look_through import picture_findings
from vexel.output.reel.media import PlannedMedia, shown_pass
from vexel.output.reel.open_reel import OpenReel, open_reel, still_of
from vexel.output.reel.reel_footage import ReelFootage, footage_of_reel
from vexel.output.writers.sound import decoded
from vexel.sources.pictures.codes import to_bytes
from vexel.stage.image_bytes import encoded_image, encoded_png
from vexel.store.frame_states import UNDER_WAY
from vexel.store.project import Project
from vexel.web.jobs.job_queue import JobQueue
from vexel.web.jobs.output_queue import OutputQueue
from vexel.web.jobs.project_library import ProjectLibrary, place_of_shot

KEPT = 8
BEAT = "beat"
_QUALITY = 88


class ReelDesk:
    """Opens reels, shows their frames, and orders what they lack."""

    def __init__(self, project: Project, outputs: OutputQueue, jobs: JobQueue) -> None:
        self._project = project
        self._jobs = jobs
        self._library = ProjectLibrary(project, outputs.footage)
        self._open: dict[int, tuple[object, Future[OpenReel], Reel]] = {}
        self._places: dict[str, list[str]] = {}
        self._within: dict[int, list[str]] = {}
        self._turn = threading.Lock()
        self._looking: dict[str, object] = {}
        self._looked: dict[int, tuple[OpenReel, list[Finding], str]] = {}
        outputs.reel_footage = self.footage

    def world(self) -> Hashable:
        """What changes with each run and each shot, which any reel may show; files that reels name are asked apart."""
        shots = sorted((file.name, _changed(file)) for file in self._project.shots.folder.glob("*.json"))
        return hash((self._project.ledger.states(), *shots))

    def open(self, reel: Reel, world: Hashable = None) -> OpenReel:
        """A reel with its current media.

        Parameters
        ----------
        world : hashable, optional
            See `world`; asked for once where several reels are opened.
        """
        key = id(reel)
        world = self.world() if world is None else world
        within = self._within.get(key, ())
        mark = (world, self._stamps(reel.places()), self._stamps(within))
        with self._turn:
            kept = self._open.get(key)
            mine = None if kept is not None and kept[0] == mark else Future[OpenReel]()
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
                opened = open_reel(reel, self._library, self.folder)
                self._within[key] = [str(file) for file in opened.reels]
                if within != self._within[key]:
                    # Reels within reels are known only now: from here on their files are part of the mark.
                    with self._turn:
                        whole = (world, self._stamps(reel.places()), self._stamps(self._within[key]))
                        if self._open.get(key) is kept:
                            self._open[key] = (whole, mine, reel)
                mine.set_result(opened)
            except BaseException as error:
                mine.set_exception(error)
                with self._turn:
                    if self._open.get(key) is kept:
                        del self._open[key]
        return kept[1].result()

    def stamp(self, reel_id: str) -> Hashable:
        """Changes when a file that the reel names changes; new each time for a reel that is not known to open."""
        places = self._places.get(reel_id)
        return object() if places is None else self._stamps(places)

    def note(self, reel_id: str, opened: OpenReel | None) -> None:
        """Remember which files a reel names, with the reels within it; `None` where it cannot be opened."""
        if opened is None:
            self._places.pop(reel_id, None)
        else:
            self._places[reel_id] = [*opened.plan.reel.places(), *map(str, opened.reels)]

    def _stamps(self, places: Iterable[str]) -> Hashable:
        return tuple((place, _changed(self.folder / place)) for place in places)

    @property
    def folder(self) -> Path:
        """That paths in reels are relative to."""
        return self._project.reels.folder

    def footage(self, reel: Reel) -> ReelFootage:
        """A reel to compile."""
        return footage_of_reel(self.open(reel))

    def picture(self, reel: Reel, number: int, long_side: int) -> bytes:
        """A frame as JPEG, or as PNG where it has transparency."""
        opened = self.open(reel)
        if not 0 <= number < opened.plan.frames:
            raise Mistake(f"{reel.title} has frames 0 to {opened.plan.frames - 1:,}, not {number:,}")
        return _as_file(still_of(opened, number, long_side))

    def look_through(self, reel_id: str, reel: Reel) -> tuple[list[Finding], str]:
        """What only its pictures tell, and what was not looked at; ends early where the reel is edited meanwhile."""
        opened = self.open(reel)
        if id(opened) not in self._looked:
            ticket = self._looking[reel_id] = object()
            found = picture_findings(opened, stopped=lambda: self._looking.get(reel_id) is not ticket)
            if self._looking.get(reel_id) is not ticket:
                return [], ""
            self._looked = {id(opened): (opened, *found)}
        return self._looked[id(opened)][1:]

    def item_picture(self, reel: Reel, item: int, frame: int, long_side: int) -> bytes:
        """A frame of what an item plays, by its number there."""
        opened = self.open(reel)
        played = reel.items[item] if item < len(reel.items) else None
        media = opened.media.get(played.ref) if isinstance(played, PlayedSpec) else None
        if media is None:
            raise Mistake(f"item {item} of {reel.title} plays no frames that are there")
        if not 0 <= frame < media.facts.frames:
            raise Mistake(f"{opened.plan.names[item]} has frames 0 to {media.facts.frames - 1:,}, not {frame:,}")
        pixels = media.picture(frame)
        scale = min(long_side / max(pixels.shape[:2]), 1)
        size = (max(round(pixels.shape[1] * scale), 1), max(round(pixels.shape[0] * scale), 1))
        return _as_file(fitted_into(pixels, *size, "contain"))

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
            When none is outdated, or one is under way.
        """
        outdated = self.to_renew(self.open(reel))
        if not outdated:
            raise Mistake(f"no take of {reel.title} is older than its shot")
        self._refuse_busy(outdated)
        runs = [self._jobs.capture(shot) for shot in dict.fromkeys(self._library.shot_of(ref) for ref in outdated)]

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
        seconds = (beat - sound.first + sound.at for beat in beats_of(decoded(named_place(self.folder, sound.file))))
        beats = {round(at * rate) for at in seconds if at >= sound.at}
        within = [frame for frame in sorted(beats) if frame < frames]
        if not within:
            raise Mistake(f"{Path(sound.file).name} has no even pulse: put markers by hand, frame by frame")
        kept = [marker.model_dump() for marker in reel.markers if not marker.found]
        found = kept + [{"frame": frame, "name": BEAT, "found": True} for frame in within]
        return sorted(found, key=lambda marker: int(marker["frame"]))

    def _refuse_busy(self, refs: Iterable[MediaRef]) -> None:
        under_way = {run.shot_id: run.id for run in self._project.ledger.runs() if run.state in UNDER_WAY}
        for ref in refs:
            if run := under_way.get(self._library.shot_of(ref)):
                raise Mistake(f"run {run} of the same shot is under way: wait until it ends, then see what is lacking")

    def to_capture(self, opened: OpenReel) -> dict[MediaRef, int]:
        """Frames that a reel still lacks and that can be captured, by their media."""
        shots = {ref: media.facts.frames for ref, media in opened.media.items() if isinstance(media, PlannedMedia)}
        return shots | {ref: len(frames.numbers) for ref, frames in opened.lacking().items() if ref not in shots}

    def capture(self, reel: Reel) -> list[int]:
        """Order runs of what a reel lacks; their ids.

        Raises
        ------
        Mistake
            When nothing is lacking, or a shot cannot be captured so.
        """
        opened = self.open(reel)
        planned = [ref for ref, media in opened.media.items() if isinstance(media, PlannedMedia)]
        self._refuse_busy([*opened.lacking(), *planned])
        # Passes and cameras of one shot come from one run.
        runs = [self._jobs.capture(shot) for shot in dict.fromkeys(self._library.shot_of(ref) for ref in planned)]
        lacking = {ref: frames for ref, frames in opened.lacking().items() if ref not in planned}
        runs += [self._instants(ref, frames) for ref, frames in lacking.items()]
        if not runs:
            raise Mistake(f"{reel.title} lacks no frames")
        return runs

    def _instants(self, ref: MediaRef, frames: TrueFrames) -> int:
        shot_id = self._library.shot_of(ref)
        shot = self._project.shots.shot(shot_id)
        anew = edited(shot, true_motion(shot, frames.motion, frames.numbers))
        camera_pass = anew.camera_passes.index(shown_pass(anew, ref))
        numbers = [anew.index_of(number, camera_pass).picture for number in frames.numbers]
        return self._jobs.capture_some(shot_id, anew, numbers)


def _changed(file: Path) -> int:
    """When a file was changed; 0 where there is none."""
    try:
        return file.stat().st_mtime_ns
    except (OSError, RuntimeError, ValueError):
        return 0


def _as_file(pixels: Pixels) -> bytes:
    """As JPEG, or as PNG where it has transparency."""
    pixels = to_bytes(pixels) if pixels.dtype == np.uint16 else pixels
    if pixels.shape[2] == 4:
        return encoded_png(pixels)
    return encoded_image(".jpg", pixels, [cv2.IMWRITE_JPEG_QUALITY, _QUALITY])
