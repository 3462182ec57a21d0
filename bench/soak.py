"""Hours of ordinary work on one server, and what it holds on to meanwhile.

    python -m bench.soak [MINUTES] [SEED]

Shots and reels are edited, looked at, captured, compiled and deleted, by turns. Every ten seconds the memory, file
descriptors, threads, processes, temporary files and unfinished files of the server are counted. None may grow: the
median of the last quarter is compared with that of the second (in the first, caches fill). Every output must pass its
verification, and no call may answer with an error of the server.
"""

import json
import random
import statistics
import sys
import tempfile
import time
from collections import Counter
from contextlib import suppress
from pathlib import Path
from typing import Any

import psutil
from tests.helpers import Server, write_shot

MINUTES = float(sys.argv[1]) if len(sys.argv) > 1 and __name__ == "__main__" else 120.0
SEED = int(sys.argv[2]) if len(sys.argv) > 2 and __name__ == "__main__" else 28
CODE = """@model
def thing(size=dial(1.5, 1, 3), instant=None):
    return pv.Cone(height=size + float(instant.phase))
"""
ALLOWED = {
    "memory MB": (1.08, 25), "memory of all processes MB": (1.15, 60), "descriptors": (1.0, 4), "threads": (1.0, 2),
    "processes": (1.0, 1), "temporary files": (1.0, 4), "unfinished files": (1.0, 0), "database MB": (1.5, 1),
}  # fmt: skip
"""How far each count may grow: a factor, and what is added."""
EVERY = 10.0


def growth(samples: list[dict[str, float]]) -> list[str]:
    """What grew: the counts whose median in the last quarter is above that of the second by more than is allowed."""
    quarter = max(1, len(samples) // 4)
    grown = []
    for name, (factor, more) in ALLOWED.items():
        before = statistics.median(sample[name] for sample in samples[quarter : 2 * quarter])
        after = statistics.median(sample[name] for sample in samples[-quarter:])
        if after > before * factor + more:
            grown.append(f"{name}: {before:.1f} in the second quarter, {after:.1f} in the last")
    return grown


def sample(process: psutil.Process, temporary: Path, home: Path) -> dict[str, float]:
    """Count what a server holds now."""
    resident = 0
    for one in (children := process.children(recursive=True)):
        with suppress(psutil.NoSuchProcess):
            resident += one.memory_info().rss
    own = process.memory_info().rss
    return {
        "memory MB": own / 1e6, "memory of all processes MB": (own + resident) / 1e6,
        "descriptors": process.num_fds(), "threads": process.num_threads(), "processes": len(children),
        "temporary files": sum(1 for _ in temporary.rglob("*")),
        "unfinished files": sum(1 for path in home.rglob(".*") if path.name.endswith((".part", ".claim"))),
        "database MB": sum(path.stat().st_size for path in home.glob("vexel.db*")) / 1e6,
    }  # fmt: skip


class Refused(AssertionError):
    """A call of ordinary work that the server did not carry out."""


class Work:
    """The rounds of work, and what went wrong in them."""

    def __init__(self, server: Server, seed: int) -> None:
        self.server, self.chance = server, random.Random(seed)
        self.wrong: Counter[str] = Counter()
        self.done: Counter[str] = Counter()

    def ask(self, address: str, body: Any = None, method: str = "") -> Any:
        """One call, which must succeed."""
        status, told = self.server.ask(address, body, method)
        self.done["calls"] += 1
        if status >= 400:
            raise Refused(f"{status} {method or 'GET/POST'} {address}: {str(told)[:200]}")
        return told

    def over(self, run: int) -> dict[str, Any]:
        """The run, once nothing of it is waiting or running."""
        going = ("queued", "running")
        return self.server.wait_for_run(
            run, lambda r: r["state"] not in going and all(o["state"] not in going for o in r["outputs"]), 600
        )

    def verified(self, outputs: list[dict[str, Any]]) -> None:
        """Note the outputs that are not there, or whose verification failed."""
        for output in outputs:
            self.done["files"] += 1
            if output["state"] != "done" or not output["receipt"]["holds"]:
                self.wrong[f"output {output['recipe']} is {output['state']}: {output.get('trouble')}"] += 1

    def shot(self) -> int:
        """Edit a shot, look at it, undo one edit, capture and compile it; the run."""
        pick = self.chance.choice
        for patch in (
            {"source": {"dials": {"size": round(self.chance.uniform(1, 3), 3)}}},
            {"clock": {"frames": pick([6, 9, 12])}},
            {"picture": {"background": pick(["#102030", "#c0c0c0", "#806040"])}},
        ):  # fmt: skip
            self.ask("/api/shots/shot", {"patch": patch, "what": "x"}, "PATCH")
            self.ask("/api/shots/shot")
            self.server.ask("/api/shots/shot/view?frame=3&width=160&height=90")
        self.ask("/api/shots/shot/undo", {})
        run = int(self.ask("/api/shots/shot/runs", {"to_file": True})["id"])
        self.verified(self.over(run)["outputs"])
        for frame in range(3):
            self.ask(f"/api/runs/{run}/frames/{frame}.png")
        self.ask(f"/api/runs/{run}/outputs", {"recipe": pick(["gif", "h264", "apng"])})
        self.verified(self.over(run)["outputs"])
        self.done["runs"] += 1
        return run

    def reel(self, runs: list[int]) -> None:
        """Edit a reel of runs, look at it, dispatch it, and remove it."""
        item = [{"kind": "take", "take": f"run:{run}", "repeat": self.chance.choice([1, 2])} for run in runs]
        items = [item[0], {"kind": "title", "text": "Hall", "frames": 6}, *item[1:]]
        if len(items) > 2:
            items[1]["transition"] = {"kind": "cross-dissolve", "frames": 2}
        address = f"/api/reels/{self.ask('/api/reels', {'title': 'Hall'})['id']}"
        self.ask(address, {"patch": {"items": items}, "what": "x"}, "PATCH")
        for frame in (0, 2, 7):
            self.ask(f"{address}/picture?frame={frame}&width=320")
        self.ask(f"{address}/looks")
        recipe = {"name": "h264", "container": "mp4", "codec": "h264"}
        made = self.ask(f"{address}/dispatch", {"recipes": [recipe], "camera_passes": [0], "names": "{title}"})
        ids = [output["id"] for output in made.get("outputs", [])]
        end = time.monotonic() + 600
        while ids and time.monotonic() < end:
            # Not by the list, which grows: files of reels stay.
            rows = [self.ask(f"/api/outputs/{output}") for output in ids]
            if all(row["state"] not in ("queued", "running") for row in rows):
                self.verified(rows)
                break
            time.sleep(0.2)
        self.ask(address, None, "DELETE")
        self.done["reels"] += 1


def main() -> None:
    """Work for the time that is named, and print what grew."""
    with tempfile.TemporaryDirectory(prefix="soak-") as folder:
        temporary, home = Path(folder) / "tmp", Path(folder) / "home"
        temporary.mkdir()
        (home / "shots").mkdir(parents=True)
        write_shot(home / "shots", CODE, frames=6)
        server = Server(None, home, python=sys.executable, TMPDIR=str(temporary))
        work, process = Work(server, SEED), psutil.Process(server.process.pid)
        samples: list[dict[str, float]] = []
        begun = last = time.monotonic()
        runs: list[int] = []
        try:
            while time.monotonic() - begun < MINUTES * 60:
                try:
                    runs.append(work.shot())
                    work.reel(runs[-2:])
                    while len(runs) > 3:
                        work.ask(f"/api/runs/{runs.pop(0)}", None, "DELETE")
                except AssertionError as error:
                    work.wrong[str(error)] += 1
                # Counted between rounds alone, so that what a capture needs for a moment does not hide what stays.
                if time.monotonic() - last > EVERY:
                    last = time.monotonic()
                    samples.append(sample(process, temporary, home))
                    if len(samples) % 30 == 1:
                        print(f"{(last - begun) / 60:.0f} min: {json.dumps(samples[-1])}", flush=True)
        finally:
            server.end()
        grown = growth(samples) if len(samples) >= 8 else []
    print(f"{MINUTES:.0f} minutes, {len(samples)} samples; {dict(work.done)}")
    for name in ALLOWED:
        each = [one[name] for one in samples]
        print(f"  {name}: {min(each):.1f} to {max(each):.1f}, at the end {each[-1]:.1f}")
    for line in [*grown, *(f"{count} × {text}" for text, count in work.wrong.most_common())]:
        print(f"WRONG {line}")
    raise SystemExit(1 if grown or work.wrong else 0)


if __name__ == "__main__":
    main()
