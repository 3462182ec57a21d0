"""Processor time of the lists of a large project: 500 shots, 300 runs with a file each, and 100 reels."""

import json
import time
from pathlib import Path

from bench.common import few, folder, tell
from vexel.demo import lay_out
from vexel.store.consent import Consent
from vexel.store.project import Project
from vexel.web.app import create_app
from vexel.web.guard import Guard
from vexel.web.services import Services

PORT = 8137
HOST = {"Host": f"127.0.0.1:{PORT}"}
ROUNDS = few(1, 5)
SHOTS, RUNS, REELS = few(30, 500), few(5, 300), few(5, 100)
FRAMES = few(2, 360)
BUDGET_MS = 200


def filled(home: Path, shots: int, runs: int, reels: int) -> Services:
    """A project with so many of each."""
    lay_out(home)
    (home / "reels").mkdir()
    document = json.loads((home / "shots/tide-week.json").read_text())
    for n in range(shots - len(list((home / "shots").glob("*.json")))):
        (home / f"shots/shot-{n:04d}.json").write_text(json.dumps(document | {"title": f"Tide {n}"}))
    project = Project(home)
    shot = project.shots.shot("tide-week")
    for n in range(runs):
        run = project.ledger.begin(f"shot-{n:04d}", shot.model_dump(mode="json"), range(FRAMES))
        project.ledger.set(run, state="done")
        output = project.outputs.add(run, "h264", f"tide.run{run}.mp4")
        (home / f"outputs/tide.run{run}.mp4").write_bytes(b"film")
        project.outputs.set(output, state="done", bytes=4)
    for n in range(reels):
        items = [{"kind": "gap", "frames": 24}, {"kind": "shot", "shot": "../shots/tide-week.json"}] * 4
        (home / f"reels/reel-{n:04d}.json").write_text(json.dumps({"title": f"Reel {n}", "items": items}))
    return Services(project, 1, Consent(project.home, trusted=True))


def main() -> None:
    """The middle of some rounds, the first and slower one aside."""
    with folder() as place:
        home = place / "home"
        services, guard = filled(home, SHOTS, RUNS, REELS), Guard("secret", PORT)
        client = create_app(services, guard).test_client()
        client.set_cookie(guard.cookie, "secret", domain="127.0.0.1")
        try:
            for name, count in (("shots", SHOTS), ("runs", RUNS), ("reels", REELS), ("outputs", RUNS)):
                took = []
                for _ in range(ROUNDS + 1):
                    begun = time.process_time()
                    lines = client.get(f"/api/{name}", headers=HOST).json[name]  # type: ignore[index]
                    took.append(1000 * (time.process_time() - begun))
                    assert len(lines) == count, f"{len(lines)} {name}"
                    assert not any(line.get("error") for line in lines), lines[0]
                middle = sorted(took[1:])[ROUNDS // 2]
                figure = f"{middle:.0f} ms of processor time ({took[0]:.0f} the first time)"
                tell(f"list of {count} {name}", figure, f"{BUDGET_MS} ms", middle <= BUDGET_MS)
        finally:
            services.close()


if __name__ == "__main__":
    main()
