"""Kills the server, the command line and stages at random instants, and holds what comes of it against a calm run.

    python -m bench.kills [KILLS] [SEED]

After each kill the work is resumed: every frame must have the bytes that an
undisturbed run gave it, the file must hold its receipt, and nothing may be
left behind, neither unfinished files nor folders of killed processes.
"""

import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

import psutil
from tests.helpers import Server, vexel_process, write_shot

KILLS = int(sys.argv[1]) if len(sys.argv) > 1 else 100
SEED = int(sys.argv[2]) if len(sys.argv) > 2 else 20_261_126
FRAMES = 12
CODE = """import time
@model
def thing(instant=None):
    time.sleep(0.08)
    return pv.Cone(height=1 + float(instant.phase))
"""
TARGETS = ("server", "stage", "command line")
PHASES = ("preparing", "frames", "compiling")
SECONDS = 0.6
"""A kill comes within so many seconds after its phase has begun."""


class Round:
    """One kill, in a place of its own."""

    def __init__(self, place: Path, expected: list[bytes]) -> None:
        self.place, self.expected = place, expected
        self.temporary = place / "tmp"
        self.temporary.mkdir(parents=True)
        self.home = place / "home"
        (self.home / "shots").mkdir(parents=True)
        write_shot(self.home / "shots", CODE, frames=FRAMES)

    def serve(self) -> Server:
        """A server whose temporary folders are this round's."""
        return Server(None, self.home, python=sys.executable, TMPDIR=str(self.temporary))

    def server(self, wanted: str, wait: float) -> str:
        """Kill the server."""
        server = self.serve()
        _, run = server.ask("/api/shots/shot/runs", {"to_file": True})
        phase = _reached(lambda: _phase(server, run["id"]), wanted, wait)
        server.kill()
        _until(lambda: not _stages(self.temporary))
        server = self.serve()
        self.finish(server, run["id"])
        return phase

    def stage(self, wanted: str, wait: float) -> str:
        """Kill one of the processes that run a person's code."""
        server = self.serve()
        _, run = server.ask("/api/shots/shot/runs", {"to_file": True})
        phase = _reached(lambda: _phase(server, run["id"]), wanted, wait)
        stages = _stages(self.temporary)
        if stages:
            random.choice(stages).kill()
        server.wait_for_run(run["id"], lambda r: r["state"] not in ("queued", "running"))
        self.finish(server, run["id"])
        return phase if stages else f"{phase}, no stage"

    def command_line(self, wanted: str, wait: float) -> str:
        """Kill a capture into a folder."""
        to = self.place / "take"
        order = [sys.executable, "-m", "vexel", "capture", str(self.home / "shots/shot.json"), "--to", str(to)]
        environment = os.environ | {"TMPDIR": str(self.temporary)}
        process = subprocess.Popen(order, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)

        def phase_now() -> str:
            if process.poll() is not None:
                return "over"
            return "frames" if any(to.glob("trial*.png")) else "preparing"

        phase = _reached(phase_now, wanted, wait)
        process.kill()
        process.wait()
        _until(lambda: not _stages(self.temporary))
        told = vexel_process(*order[3:], "--resume", TMPDIR=str(self.temporary))
        assert told.returncode == 0, told.stderr
        _same([file.read_bytes() for file in sorted(to.glob("trial*.png"))], self.expected)
        self.swept(to)
        return phase

    def finish(self, server: Server, run_id: int) -> None:
        """Resume until all is there, and hold it against the calm run."""
        for _ in range(4):
            run = server.wait_for_run(run_id, lambda r: r["state"] not in ("queued", "running"))
            if run["state"] == "done":
                break
            server.ask(f"/api/runs/{run_id}/resume", {})
        assert run["state"] == "done", run
        _same([server.ask(f"/api/runs/{run_id}/frames/{n}.png")[1] for n in range(FRAMES)], self.expected)
        server.wait_for_run(run_id, lambda r: all(o["state"] not in ("queued", "running") for o in r["outputs"]))
        outputs = server.ask(f"/api/runs/{run_id}")[1]["outputs"]
        if not any(output["state"] == "done" for output in outputs):
            server.ask(f"/api/runs/{run_id}/outputs", {"recipe": "h264"})
            run = server.wait_for_run(run_id, lambda r: any(o["state"] == "done" for o in r["outputs"]))
            outputs = run["outputs"]
        done = next(output for output in outputs if output["state"] == "done")
        assert done["receipt"]["holds"] and not done["trouble"], done
        server.end()
        self.swept(self.home)

    def swept(self, folder: Path) -> None:
        """Nothing unfinished is left."""
        left = [*folder.rglob(".*.part"), *self.temporary.glob("vexel-*")]
        assert not left, left


def _reached(phase_now: Callable[[], str], wanted: str, wait: float) -> str:
    """Wait until a phase has begun, and so long in it; the phase that it is then."""
    order = (*PHASES, "over")
    while order.index(phase_now()) < order.index(wanted):
        time.sleep(0.01)
    time.sleep(wait)
    return phase_now()


def _phase(server: Server, run_id: int) -> str:
    run = server.ask(f"/api/runs/{run_id}")[1]
    if run["state"] == "done":
        states = {output["state"] for output in run["outputs"]}
        return "over" if states == {"done"} else "compiling"
    return "frames" if run["made"] else "preparing"


def _stages(temporary: Path) -> list[psutil.Process]:
    found = []
    for process in psutil.process_iter(["cmdline"]):
        # A stage is a fork, known by the file that it writes to; see `vexel.workers.answering.run`.
        if "vexel.workers.fork_server_main" in (process.info["cmdline"] or []):
            with suppress(psutil.NoSuchProcess):
                if any(Path(file.path).is_relative_to(temporary) for file in process.open_files()):
                    found.append(process)
    return found


def _until(happened: Callable[[], bool], seconds: float = 20) -> None:
    end = time.monotonic() + seconds
    while not happened():
        assert time.monotonic() < end, "processes are left"
        time.sleep(0.05)


def _same(found: list[bytes], expected: list[bytes]) -> None:
    assert found == expected, f"{sum(a != b for a, b in zip(found, expected, strict=False))} of {len(found)} differ"


def main() -> None:
    """Kill, resume and compare."""
    random.seed(SEED)
    counts: Counter[str] = Counter()
    wrong = 0
    with tempfile.TemporaryDirectory(prefix="kills-") as folder:
        calm = Round(Path(folder) / "calm", [])
        server = calm.serve()
        _, run = server.ask("/api/shots/shot/runs", {})
        server.wait_for_run(run["id"], lambda r: r["state"] == "done")
        expected = [server.ask(f"/api/runs/{run['id']}/frames/{n}.png")[1] for n in range(FRAMES)]
        server.end()
        begun = time.monotonic()
        for number in range(KILLS):
            what, wanted = random.choice(TARGETS), random.choice(PHASES)
            wait = random.uniform(0, SECONDS)
            place = Path(folder) / str(number)
            try:
                here = Round(place, expected)
                phase = getattr(here, what.replace(" ", "_"))(wanted, wait)
                counts[f"{what} while {phase}"] += 1
            except Exception as error:  # noqa: BLE001 (any failure is a finding of this round)
                wrong += 1
                print(f"WRONG kill {number}, {what} while {wanted}: {type(error).__name__}: {error}", flush=True)
            shutil.rmtree(place, ignore_errors=True)
            if (number + 1) % 10 == 0:
                print(f"{number + 1} kills, {wrong} wrong", flush=True)
    print(
        f"{KILLS} kills in {time.monotonic() - begun:.0f} s: "
        + ", ".join(f"{n} × {what}" for what, n in counts.most_common())
    )
    print(f"{wrong} wrong; all others ended with the bytes of an undisturbed run, and left nothing behind")
    sys.exit(1 if wrong else 0)


if __name__ == "__main__":
    main()
