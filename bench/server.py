"""Server ready after start, memory idle; reckoning and preflight of a 100,000-frame shot."""

import json
import sys
import time
from dataclasses import asdict
from pathlib import Path

from common import folder, tell

sys.path.insert(0, str(Path(__file__).parents[1]))
from tests.helpers import Server, shot_document

from vexel.core.checks.preflight import preflight
from vexel.core.checks.reckoning import reckon
from vexel.core.document.shot import read_shot
from vexel.core.evaluate.lane_sampling import lane_tracks

EASES = ("ease", "linear", "smooth", "spring", "cubic-bezier(0.2, -0.3, 0.8, 1.2)")


def main() -> None:
    """Print the figures."""
    with folder() as place:
        begun = time.perf_counter()
        server = Server(None, place / "home", python=sys.executable)
        ready = time.perf_counter() - begun
        pages = int(Path(f"/proc/{server.process.pid}/statm").read_text().split()[1])
        server.end()
    memory = pages * 4096 / 1e6
    tell("server ready after start", f"{ready:.1f} s", "3 s", ready <= 3)
    tell("server memory idle", f"{memory:.0f} MB", "300 MB", memory <= 300)

    lanes = [
        {"drive": f"dial:d{n}", "keys": [[0, 0], [0.3, 2], [0.7, 0.5], [1, 1]], "ease": EASES[n % len(EASES)]}
        for n in range(20)
    ]
    document = shot_document({"kind": "model", "file": "a.py"}, frames=100_000, lanes=lanes)
    text = json.dumps(document)
    begun = time.perf_counter()
    shot = read_shot(text)
    asdict(reckon(shot.clock, shot.camera.rig))
    reckoned = time.perf_counter() - begun
    begun = time.perf_counter()
    preflight(shot)
    checked = time.perf_counter() - begun
    begun = time.perf_counter()
    lane_tracks(shot, shot.clock.exact.phases())
    driven = time.perf_counter() - begun
    tell("20 lanes of a 100,000-frame shot", f"{driven * 1000:.1f} ms", "50 ms", driven <= 0.05)
    tell("reckoning of a 100,000-frame shot", f"{reckoned * 1000:.1f} ms", "50 ms", reckoned <= 0.05)
    tell("preflight of a 100,000-frame shot", f"{checked * 1000:.1f} ms", "250 ms", checked <= 0.25)


if __name__ == "__main__":
    main()
