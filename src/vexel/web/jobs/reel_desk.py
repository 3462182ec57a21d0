"""Reels that are open: worked out with their media, kept while nothing of them changes."""

import threading
from pathlib import Path

import cv2

from vexel.core.document.shot import edited
from vexel.core.edits.true_motion import true_motion
from vexel.core.errors import Mistake
from vexel.core.reel.media import MediaRef
from vexel.core.reel.reel_spec import Reel
from vexel.core.reel.true_frames import TrueFrames
from vexel.output.footage import chosen_pass
from vexel.output.reel.media import PlannedMedia
from vexel.output.reel.reel_footage import OpenReel, ReelFootage, footage_of_reel, open_reel, still_of
from vexel.stage.png import encoded_png
from vexel.store.frame_states import UNDER_WAY
from vexel.store.project import Project
from vexel.web.jobs.job_queue import JobQueue
from vexel.web.jobs.output_queue import OutputQueue
from vexel.web.jobs.project_library import ProjectLibrary

KEPT = 8
_QUALITY = 88


class ReelDesk:
    """Opens reels, shows their frames, and orders what they lack."""

    def __init__(self, project: Project, outputs: OutputQueue, jobs: JobQueue) -> None:
        self._project = project
        self._jobs = jobs
        self._library = ProjectLibrary(project, outputs.footage)
        self._open: dict[str, tuple[object, OpenReel]] = {}
        self._turn = threading.Lock()
        outputs.reel_footage = self.footage

    def open(self, reel: Reel) -> OpenReel:
        """A reel with its media, as they are now."""
        key = reel.model_dump_json()
        runs = tuple((run.id, run.state) for run in self._project.ledger.runs())
        shots = tuple((file.name, file.stat().st_mtime_ns) for file in self._project.shots.folder.glob("*.json"))
        mark = (runs, shots)
        with self._turn:
            kept = self._open.get(key)
            if kept is None or kept[0] != mark:
                kept = (mark, open_reel(reel, self._library, self.folder))
                self._open[key] = kept
                while len(self._open) > KEPT:
                    self._open.pop(next(iter(self._open)))
            return kept[1]

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
        pixels = still_of(opened, number, long_side)
        if pixels.shape[2] == 4:
            return encoded_png(pixels)
        return bytes(cv2.imencode(".jpg", pixels, [cv2.IMWRITE_JPEG_QUALITY, _QUALITY])[1])

    def to_capture(self, reel: Reel) -> dict[MediaRef, int]:
        """Frames that a reel still lacks and that can be captured, by their media."""
        opened = self.open(reel)
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
        under_way = {run.shot_id: run.id for run in self._project.ledger.runs() if run.state in UNDER_WAY}
        for ref in (*opened.lacking(), *(r for r, media in opened.media.items() if isinstance(media, PlannedMedia))):
            if run := under_way.get(self._library.shot_of(ref)):
                raise Mistake(f"run {run} of the same shot is under way: wait until it ends, then see what is lacking")
        planned = [ref for ref, media in opened.media.items() if isinstance(media, PlannedMedia)]
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
        camera_pass = anew.camera_passes.index(chosen_pass(anew, ref.camera, ref.render_pass))
        numbers = [anew.index_of(number, camera_pass).picture for number in frames.numbers]
        return self._jobs.capture_some(shot_id, anew, numbers)
