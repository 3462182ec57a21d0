"""The hand-over of a run: its shot and source as of its start, and its frames with their ledger."""

from collections.abc import Mapping
from pathlib import Path

from vexel.core.errors import Mistake
from vexel.core.evaluate.source_facts import PlanInputs
from vexel.disk.finished import Finished
from vexel.interchange.camera_file import camera_file_texts
from vexel.output.exporting.handover import Handed
from vexel.sources.files import source_files
from vexel.store.folder_take import ledger_document
from vexel.store.frame_states import READY, FrameState
from vexel.store.project import Project
from vexel.store.takes import shot_of
from vexel.workers.planner import Planner


def handed_of_run(project: Project, planner: Planner, run_id: int, frames: Mapping[str, Path]) -> Handed:
    """Collect it.

    Parameters
    ----------
    frames : mapping of str to Path
        The run's finished frames by their names.

    Raises
    ------
    Mistake
        When the source that the frames were made of is not there any more.
    """
    row = project.ledger.run(run_id)
    shot = shot_of(row)
    prepared = planner.again(shot, PlanInputs.loads(row.plan)) if row.plan else None
    if prepared is None:
        raise Mistake(
            f"the copy of {shot.source.file} from which run {run_id} was made is gone or of an older Vexel: "
            "capture the shot again, which takes no time for unchanged frames"
        )
    rows = project.ledger.rows(run_id)
    known = project.ledger.frames.known(sorted({one.key for one in rows if one.state in READY}))
    states = [
        FrameState(one.number, one.key, one.state, one.seconds, error=one.error, **vars(known.get(one.key, Finished())))
        for one in rows
    ]
    plan = prepared.plan
    ledger = ledger_document(shot, states, plan.depth_ranges(), plan=plan.digest)
    at = prepared.at
    sources = source_files(at.kind, at.file, at.options).all_of(at.kind)
    outside = {one.name: one.copy for one in at.outside}
    return Handed(shot, at.file.name, sources, outside, prepared.at.backdrop, ledger, frames, camera_file_texts(plan))
