"""(z) Resuming a run whose 20,000 frames are there, in a project and in a folder: nothing is made."""

import json
import time
from pathlib import Path

from bench.common import few, folder, mesh, tell
from vexel.core.document.shot import read_shot
from vexel.disk.finished import finished
from vexel.disk.room import Room
from vexel.store.folder_take import FolderTake
from vexel.store.frame_states import READY, FrameState
from vexel.store.project import Project
from vexel.workers.bounds.limits import capture_limits
from vexel.workers.planner import NothingKept, OpenGate, Planner, Prepared
from vexel.workers.run import Run, RunOptions, Take
from vexel.workers.stage_process import StageProcess
from vexel.workers.stop import Stop

FRAMES, BUDGET = few(50, 20_000), 5.0


def laid(take: Take, prepared: Prepared) -> None:
    """Files for all frames, which are noted as made."""
    states = []
    for number in range(FRAMES):
        key = prepared.plan.picture_spec(number).key
        place = take.path(number, key)
        place.parent.mkdir(parents=True, exist_ok=True)
        place.write_bytes(key.encode())
        file = finished(place)
        states.append(FrameState(number, key, "made", 0.1, file.bytes, "", file.digest, file.written))
    take.record(states)


def resumed(take: Take, prepared: Prepared, known: dict[int, str]) -> float:
    """Seconds of a run that finds all frames."""
    begun = time.perf_counter()
    run = Run(prepared, range(FRAMES), take, Stop(), Room(Path("/"), 0), RunOptions(known_keys=known))
    outcome = run.go(lambda: (_ for _ in ()).throw(AssertionError("a frame was to be made")))
    assert outcome.kept == FRAMES, outcome
    return time.perf_counter() - begun


def main() -> None:
    """Both kinds of takes."""
    with folder() as place:
        mesh().save(place / "ball.ply")
        source, size = {"kind": "object", "file": "ball.ply"}, {"width": 96, "height": 64, "samples": 1}
        document = {"title": "Long", "source": source, "clock": {"rate": "24", "frames": FRAMES}, "picture": size}
        shot, stage = read_shot(json.dumps(document)), StageProcess(capture_limits())
        prepared = Planner(place / "copies", stage, NothingKept(), OpenGate()).prepare(shot, place)
        stage.end()
        project = Project(place / "home")
        run = project.ledger.begin("long", shot.model_dump(mode="json"), range(FRAMES))
        laid(project.ledger.take(run), prepared)
        known = {row.number: row.key for row in project.ledger.rows(run) if row.state in READY}
        seconds = resumed(project.ledger.take(run), prepared, known)
        tell(f"resume of {FRAMES:,} kept frames, project", f"{seconds:.2f} s", f"{BUDGET:g} s", seconds <= BUDGET)
        take = FolderTake(place / "take", shot)
        take.enter(resume=False, fresh=False)
        take.plan = prepared.plan.digest
        laid(take, prepared)
        take.save()
        begun = time.perf_counter()
        again = FolderTake(place / "take", shot)
        again.enter(resume=True, fresh=False)
        again.plan = prepared.plan.digest
        again.keep_plan(lambda n: prepared.plan.picture_spec(n).key, range(FRAMES))
        resumed(again, prepared, again.known_keys)
        again.save()
        seconds = time.perf_counter() - begun
        tell(f"resume of {FRAMES:,} kept frames, folder", f"{seconds:.2f} s", f"{BUDGET:g} s", seconds <= BUDGET)


if __name__ == "__main__":
    main()
