"""Server ready after start, memory idle; timing and preflight of a 100,000-frame shot."""

import json
import time
from dataclasses import asdict
from pathlib import Path

import numpy as np
from tests.helpers import shot_document

from bench.browser import serving
from bench.common import folder, tell
from vexel.core.checks.preflight import preflight
from vexel.core.checks.shot_timing import shot_timing
from vexel.core.document.shot import read_shot
from vexel.core.evaluate.lane_sampling import lane_tracks

EASES = ("ease", "linear", "smooth", "spring", "cubic-bezier(0.2, -0.3, 0.8, 1.2)")


def main() -> None:
    """Print the figures."""
    with folder() as place:
        begun = time.perf_counter()
        with serving(place / "home") as server:
            ready = time.perf_counter() - begun
            pages = int(Path(f"/proc/{server.process.pid}/statm").read_text().split()[1])
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
    said = asdict(shot_timing(shot.clock, shot.orbit, shot.camera))
    computed = time.perf_counter() - begun
    begun = time.perf_counter()
    preflight(shot)
    checked = time.perf_counter() - begun
    begun = time.perf_counter()
    tracks = lane_tracks(shot, shot.clock.exact.phases())
    driven = time.perf_counter() - begun
    assert said["motion"] == 100_000, "the shot has another length"
    for drive, values in tracks.items():
        # All keys lie within 0 and 2; a spring goes a little beyond.
        assert len(values) == 100_000 and np.ptp(values) > 1.5 and values[0] == 0, f"{drive} does not run"
    tell("20 lanes of a 100,000-frame shot", f"{driven * 1000:.1f} ms", "50 ms", driven <= 0.05)
    tell("timing of a 100,000-frame shot", f"{computed * 1000:.1f} ms", "50 ms", computed <= 0.05)
    tell("preflight of a 100,000-frame shot", f"{checked * 1000:.1f} ms", "250 ms", checked <= 0.25)


if __name__ == "__main__":
    main()
