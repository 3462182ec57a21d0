"""Starting a stage until its first picture, as a fork against a process that loads everything itself."""

import subprocess
import sys
import time
from pathlib import Path

from tests.helpers import write_shot

from bench.common import ROOT, few, folder, tell
from vexel.core.document.shot import read_shot
from vexel.workers.bounds.limits import Limits
from vexel.workers.code_gate import gate_of
from vexel.workers.planner import NothingKept, Planner
from vexel.workers.stage_process import StageProcess

ROUNDS = few(1, 5)


def first_picture(shot_file: Path, copies: Path) -> tuple[float, bytes]:
    """Seconds until a new stage has made frame 0, and its bytes."""
    begun = time.perf_counter()
    stage = StageProcess(Limits(60, 2000))
    try:
        planner = Planner(copies, stage, NothingKept(), gate_of([shot_file], True))
        prepared = planner.prepare(read_shot(shot_file.read_text()), shot_file.parent)
        data = stage.view(prepared.at, prepared.plan.frame_spec(0))
        return time.perf_counter() - begun, data
    finally:
        stage.close()


def main() -> None:
    """Alternate a process that begins from nothing, and forks, and print the ratio of the best of each."""
    with folder() as place:
        shot = write_shot(place)
        alone, forked = [], []
        first_picture(shot, place / "copies")
        for _ in range(ROUNDS):
            order = map(str, [sys.executable, "-m", "bench.stage_start", shot, place / "copies", place / "alone.png"])
            alone.append(float(subprocess.run([*order], check=True, capture_output=True, text=True, cwd=ROOT).stdout))
            seconds, data = first_picture(shot, place / "copies")
            assert data == (place / "alone.png").read_bytes(), "they made different pictures"
            forked.append(seconds)
    ratio = min(alone) / min(forked)
    figure = f"{min(alone):.2f} s / {min(forked):.2f} s = {ratio:.1f} times as fast"
    tell("a stage's first picture, loaded from nothing against forked", figure, "3 times", ratio >= 3)


if __name__ == "__main__":
    if len(sys.argv) > 1:
        taken, picture = first_picture(Path(sys.argv[1]), Path(sys.argv[2]))
        Path(sys.argv[3]).write_bytes(picture)
        print(taken)
    else:
        main()
