"""What the blueprints share: the project, the viewfinder's stage, the job queue and the events."""

import threading
from typing import Any

from cachetools import LRUCache
from flask import current_app

from vexel.core.document.shot import Shot, edited
from vexel.core.errors import VexelError
from vexel.core.evaluate.plan import Plan, make_plan
from vexel.core.evaluate.source_facts import SourceFacts
from vexel.disk.named_place import named_place
from vexel.disk.write import write_whole
from vexel.sources.files import source_files
from vexel.store.consent import Consent
from vexel.store.documents.shots import spelled
from vexel.store.project import Project
from vexel.store.storage.folder_sizes import FolderSizes
from vexel.web.events import Events
from vexel.web.jobs.checks import Checks
from vexel.web.jobs.file_making import FileMaking
from vexel.web.jobs.file_orders import FileOrders, FileRecord
from vexel.web.jobs.frames.captures import Captures, RunRecord
from vexel.web.jobs.frames.forecast import Forecast
from vexel.web.jobs.frames.frame_workers import FrameWorkers
from vexel.web.jobs.frames.on_end import OnEnd
from vexel.web.jobs.frames.probes import Probes
from vexel.web.jobs.frames.proofs import Proofs
from vexel.web.jobs.frames.sweeps import Sweeps
from vexel.web.jobs.job import JobKind, Record
from vexel.web.jobs.jobs import Jobs
from vexel.web.jobs.media_pool import MediaPool
from vexel.web.jobs.reel_service import ReelService
from vexel.web.jobs.reviewing.measuring import Measuring
from vexel.web.jobs.reviewing.pages import ReviewPages
from vexel.web.jobs.reviewing.pairs import Pairs
from vexel.web.jobs.reviewing.reviewable import Reviewable
from vexel.web.jobs.reviewing.subjects import Subjects
from vexel.web.line_cache import KeptLines
from vexel.web.reel_bodies import ReelBodies
from vexel.web.schemas.reels import ReelLine
from vexel.web.schemas.shots import ShotLine
from vexel.workers.bounds.limits import view_limits
from vexel.workers.bounds.project_reach import reach_in
from vexel.workers.code_gate import Code, CodeGate, code_of_shot
from vexel.workers.planner import Planner, Prepared
from vexel.workers.stage_process import StageProcess

KEPT_PLANS = 16


class Services:
    """A project with all that works on it."""

    def __init__(self, project: Project, cores: int, consent: Consent) -> None:
        self.project = project
        self.consent = consent
        self.gate = CodeGate(consent)
        self.events = Events()
        # One thread more than cores, since the renderer's own thread waits for the others.
        self.stage = StageProcess(view_limits(), cores + 1, reach_in(project))
        self.planner = Planner(project.copies, self.stage, project.facts, self.gate)
        self.media = MediaPool(project.home)
        project.ledger.interrupt_all()
        files = FileRecord(project.outputs, project.files)
        self.on_end = OnEnd(project.home, self.gate, project.ledger.add_message)
        records: dict[JobKind, Record] = {"run": RunRecord(project.ledger, self.on_end), "file": files}
        self.jobs = Jobs(self.events.send, project.home, records)
        making = FileMaking(project, self.jobs, self.events, self.planner, self.media)
        self.files = FileOrders(project, self.jobs, files, making)
        self.forecast = Forecast(project)
        workers = FrameWorkers(project, self.gate)
        self.captures = Captures(project, self.jobs, workers, self.forecast, self._after_capture, self.on_end)
        self.sweeps = Sweeps(project, self.captures)
        self.probes = Probes(project, self.jobs, workers, self.forecast, self.media)
        self.reels = ReelService(project, self.captures, self.jobs, self.media)
        making.reel_order = self.reels.order
        self.reel_bodies = ReelBodies(project, self.reels)
        self.proofs = Proofs(project, self.jobs)
        self.checks = Checks(project, self.jobs)
        self.subjects = Subjects(project, self.media, self.reels)
        self.reviewable = Reviewable(project)
        self.measuring = Measuring(project, self.jobs, self.media, self.subjects)
        self.pairs = Pairs(project, self.jobs, self.media, self.subjects, self.measuring)
        self.review_pages = ReviewPages(project, self.jobs, self.media, self.measuring)
        self.folder_sizes = FolderSizes()
        self.shot_lines: KeptLines[ShotLine] = KeptLines()
        self.reel_lines: KeptLines[ReelLine] = KeptLines()
        self._plans: LRUCache[tuple[str, str], Prepared] = LRUCache(KEPT_PLANS)
        self._lock = threading.Lock()

    def _after_capture(self, run_id: int, makes: str) -> None:
        if makes:
            self.files.order_what_is_due(run_id, makes)
        self.measuring.begin_take(run_id)

    def prepared(self, shot: Shot) -> Prepared:
        """The plan of a shot, remembered while neither shot nor source changes."""
        key = self.identity(shot)
        with self._lock:
            if key in self._plans:
                return self._plans[key]
        made = self.planner.prepare(shot, self.project.shots.folder)
        with self._lock:
            self._plans[key] = made
        return made

    def identity(self, shot: Shot) -> tuple[str, str]:
        """All that decides the frames of a shot."""
        identity, _ = self.planner.source(shot, self.project.shots.folder)
        return spelled(shot), identity.digest

    def code_of(self, shot: Shot) -> Code:
        """Files of a shot's source that would run, and the digest of their content; none where nothing runs.

        Raises
        ------
        Mistake
            When the source is not there.
        """
        return code_of_shot(shot, self.project.shots.folder)

    def source_state(self, shot: Shot) -> str:
        """The content of a shot's source file on disk, as a digest; empty where it cannot be read."""
        source = shot.source
        try:
            main = named_place(self.project.shots.folder, source.file)
            return source_files(source.kind, main, source.options()).digest
        except (VexelError, OSError):
            return ""

    def trust(self, shot: Shot) -> None:
        """Trust this shot's source, which the user imported or wrote, so that it may run."""
        files, digest = self.code_of(shot)
        if files:
            self.gate.trust([digest])

    def facts(self, shot: Shot) -> SourceFacts:
        """What the shot's source reports about itself."""
        return self.planner.facts(*self.planner.source(shot, self.project.shots.folder))

    def view(self, shot: Shot, frame: int, quick: bool, steady: Shot | None = None, camera_pass: int = 0) -> bytes:
        """A frame of a shot as PNG bytes, or JPEG for a passing look.

        The subject is that of the shot `steady`, if given: nothing is measured
        again while a key is dragged, and the camera does not follow it.
        """
        prepared = self.prepared(shot if steady is None else steady)
        plan = self.planned(shot, steady)
        return self.stage.view(prepared.at, plan.frame_spec(frame, camera_pass), quick)

    def planned(self, shot: Shot, steady: Shot | None = None) -> Plan:
        """The plan of a shot, with the subject of the shot `steady` if that is given."""
        plan = self.prepared(shot if steady is None else steady).plan
        return plan if steady is None else make_plan(shot, plan.inputs)

    def glance(self, shot: Shot, frame: int) -> bytes:
        """A small frame of a shot as PNG bytes, kept under its key for the next look at the list."""
        prepared = self.prepared(shot)
        spec = prepared.plan.frame_spec(frame)
        file = self.project.glances / f"{spec.key}.png"
        if not file.is_file():
            write_whole(file, self.stage.view(prepared.at, spec, False))
        return file.read_bytes()

    def close(self) -> None:
        """End everything that works."""
        self.events.close()
        self.jobs.close()
        self.captures.close()
        self.proofs.close()
        self.media.close()
        self.stage.close()


def patched(shot: Shot, patch: dict[str, Any]) -> Shot:
    """The shot with a merge patch applied, not saved: what a drag shows.

    Raises
    ------
    Mistake
        When the shot would be wrong with it.
    """
    return edited(shot, patch) if patch else shot


def services() -> Services:
    """The services of the running application."""
    return current_app.extensions["vexel"]  # type: ignore[no-any-return]
