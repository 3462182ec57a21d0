"""The hand-over of a run: its shot and source as of its start, and its frames with their ledger."""

from collections.abc import Mapping
from itertools import chain, count
from pathlib import Path

from vexel.core.errors import Mistake
from vexel.core.evaluate.source_facts import PlanInputs
from vexel.disk.finished import Finished
from vexel.interchange.camera_file import camera_file_texts
from vexel.output.exporting.handover import Handed
from vexel.sources.files import source_files
from vexel.store.folder_take import ledger_document
from vexel.store.frame_states import READY, FrameState
from vexel.store.outputs import trouble_of
from vexel.store.project import Project
from vexel.store.takes import shot_of
from vexel.web.jobs.output_names import recipe_of
from vexel.workers.planner import Planner


def handed_of_run(
    project: Project, planner: Planner, run_id: int, frames: Mapping[str, Path], *, made_files: bool = True
) -> Handed:
    """Collect it.

    Parameters
    ----------
    frames : mapping of str to Path
        The run's finished frames by their names.
    made_files : bool
        Whether the files that were made of the run are handed over too.

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
    made, left_out = _made_of(project, run_id) if made_files else ({}, ())
    return Handed(
        shot, at.file.name, sources, outside, at.backdrop, ledger, frames, camera_file_texts(plan), made, left_out
    )


def _made_of(project: Project, run_id: int) -> tuple[dict[str, Path], tuple[str, ...]]:
    """Files that were made of a run, by names of which each is there once, and why some are left out.

    Folders hold the frames that are handed over anyway, and a hand-over holds no other one.
    """
    made: dict[str, Path] = {}
    left_out = []
    for row in reversed(project.outputs.of(run_id)):
        place = project.files / row.file
        if row.state != "done" or place.is_dir() or recipe_of(row).codec == "handover":
            continue
        if trouble := trouble_of(row, place):
            left_out.append(f"{place.name}: {trouble}")
            continue
        names = chain([place.name], (f"{place.stem}-{n}{place.suffix}" for n in count(2)))
        made[next(name for name in names if name not in made)] = place
    return made, tuple(left_out)
