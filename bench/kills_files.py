"""Kills commands and the server while they make or import files, and compares the files with a calm run.

    python -m bench.kills_files [KILLS] [SEED]

By command: compile, reel, make, hand-over, unpack. In the server: a dispatch of a run, one of a reel, and an upload.
After a kill a name has no file or the whole file; the same order, given again, makes the same bytes; no row is left as
running, and nothing unfinished is left behind. Migrations are cut off by tests/store/test_migrations.py.
"""

import hashlib
import json
import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
import zipfile
from collections import Counter
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from tests.helpers import Server, write_shot

from bench.kills import _stages, _until

KILLS = int(sys.argv[1]) if len(sys.argv) > 1 else 100
SEED = int(sys.argv[2]) if len(sys.argv) > 2 else 28
CODE = "@model\ndef thing(instant=None):\n    return pv.Cone(height=1 + float(instant.phase))\n"
RECIPES = [
    {"name": "h264", "container": "mp4", "codec": "h264"}, {"name": "gif", "container": "gif", "codec": "gif"},
    {"name": "png", "container": "folder", "codec": "png"},
    {"name": "handover", "container": "zip", "codec": "handover"},
]  # fmt: skip
OVER = ("done", "failed", "stopped")


class Place:
    """A project with a shot, its take, a reel and a hand-over of it, from which each round gets a copy."""

    def __init__(self, root: Path) -> None:
        self.root, self.home, self.temporary = root, root / "home", root / "tmp"
        self.temporary.mkdir(parents=True, exist_ok=True)

    def build(self) -> None:
        """Make all that the orders start from."""
        (self.home / "shots").mkdir(parents=True)
        write_shot(self.home / "shots", CODE, frames=8)
        self.call("capture", "shots/shot.json", "--to", "reels/takes/shot", "--trust")
        item = {"kind": "shot", "shot": "../shots/shot.json", "transition": {"kind": "cross-dissolve", "frames": 2}}
        reel = {
            "title": "Hall",
            "width": 96,
            "height": 64,
            "items": [item, {"kind": "title", "text": "Hall", "frames": 6}],
        }
        (self.home / "reels/hall.json").write_text(json.dumps(reel))
        self.call("handover", "shots/shot.json", "--take", "reels/takes/shot", "-o", "start.zip", "--trust")
        server = self.serve()
        _, run = server.ask("/api/shots/shot/runs", {})
        server.wait_for_run(run["id"], lambda r: r["state"] == "done")
        server.end()

    def call(self, *words: str) -> subprocess.CompletedProcess[str]:
        """A command, to its end."""
        return subprocess.run(
            self.words(*words), cwd=self.home, env=self.environment, text=True, check=True, capture_output=True
        )

    @staticmethod
    def words(*words: str) -> list[str]:
        """A command line."""
        return [sys.executable, "-m", "vexel", *words]

    @property
    def environment(self) -> dict[str, str]:
        """With the temporary folders and the user folder of this place."""
        return os.environ | {"TMPDIR": str(self.temporary), "XDG_STATE_HOME": str(self.root / "state")}

    def serve(self) -> Server:
        """A server of the project."""
        return Server(None, self.home, python=sys.executable, TMPDIR=str(self.temporary))

    def content(self, *names: str) -> dict[str, str]:
        """Digests of files, and of all files of folders; a ZIP's by what is in it."""
        found = {}
        for name in names:
            path = self.home / name
            for file in sorted(path.rglob("*")) if path.is_dir() else [path]:
                # A project's identity is drawn by lot.
                if file.is_file() and file.name != ".project":
                    found[str(file.relative_to(self.home))] = _digest(file)
        return found

    def left(self) -> list[str]:
        """What is unfinished."""
        ended = (".part", ".claim", ".upload")
        parts = [path for path in self.home.rglob(".*") if path.name.endswith(ended)]
        return [str(path) for path in (*parts, *self.temporary.glob("vexel-*"))]


def _digest(file: Path) -> str:
    if zipfile.is_zipfile(file):
        with zipfile.ZipFile(file) as archive:
            # Its ledger holds the seconds of each frame, which differ.
            entries = [
                (name, archive.read(name)) for name in sorted(archive.namelist()) if name.endswith((".png", ".py"))
            ]
        return hashlib.sha256(repr(entries).encode()).hexdigest()
    return hashlib.sha256(file.read_bytes()).hexdigest()


COMMANDS: dict[str, tuple[tuple[str, ...], str]] = {
    "compile": (("compile", "reels/takes/shot", "-o", "a.mp4"), "a.mp4"),
    "compile gif": (("compile", "reels/takes/shot", "-o", "a.gif"), "a.gif"),
    "compile folder": (("compile", "reels/takes/shot", "-o", "stills/", "--recipe", "png"), "stills"),
    "reel": (("reel", "reels/hall.json", "-o", "hall.mp4", "--trust"), "hall.mp4"),
    "make": (("make", "shots/shot.json", "-o", "made.mp4", "--trust"), "made.mp4"),
    "handover": (
        ("handover", "shots/shot.json", "--take", "reels/takes/shot", "-o", "hand.zip", "--trust"),
        "hand.zip",
    ),
    "unpack": (("unpack", "start.zip", "--to", "unpacked"), "unpacked"),
}


def command(place: Place, name: str, calm: dict[str, str], wait: float) -> str:
    """Kill a command, and give it again."""
    words, result = COMMANDS[name]
    process = subprocess.Popen(
        place.words(*words), cwd=place.home, env=place.environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
    )
    with suppress(subprocess.TimeoutExpired):
        process.wait(wait)
    ended = process.poll() is not None
    process.send_signal(signal.SIGKILL)
    process.wait()
    _until(lambda: not _stages(place.temporary))
    there = place.content(result)
    assert there in ({}, calm), f"a part of it is there: {sorted(there)} of {sorted(calm)}"
    if not there:
        again = (*words, "--take", "take") if name == "make" and (place.home / "take").exists() else words
        place.call(*again)
    assert place.content(result) == calm, "the same order made something else"
    if name != "unpack" and not ended:
        # The next file of that folder sweeps what a killed process has left.
        place.call("compile", "reels/takes/shot", "-o", "sweep.gif", "--overwrite")
    return "over" if ended else "at work"


def dispatch(place: Place, name: str, calm: dict[str, str], wait: float) -> str:
    """Kill the server while it makes files of a run or of a reel, and order them again."""
    server = place.serve()
    address = "/api/runs/1/dispatch" if name == "dispatch" else "/api/reels/hall/dispatch"
    recipes = RECIPES if name == "dispatch" else RECIPES[:3]
    order = {"recipes": recipes, "camera_passes": [0], "names": "{title}.{recipe}"}
    if name != "dispatch":
        item = {"kind": "take", "take": "run:1", "transition": {"kind": "cross-dissolve", "frames": 2}}
        server.ask("/api/reels/hall", {"patch": {"items": [item, item]}, "what": "x"}, "PATCH")
        del order["camera_passes"]
    _, made = server.ask(address, order)
    time.sleep(wait)
    server.kill()
    _until(lambda: not _stages(place.temporary))
    server = place.serve()
    rows = server.ask("/api/outputs")[1]["outputs"]
    assert len(rows) == len(made["outputs"]) and all(row["state"] in OVER for row in rows), rows
    ended = all(row["state"] == "done" for row in rows)
    order["names"] = "again/{title}.{recipe}"
    server.ask(address, order)
    _until(lambda: all(row["state"] in OVER for row in server.ask("/api/outputs")[1]["outputs"]), 120)
    again = [row for row in server.ask("/api/outputs")[1]["outputs"] if row["id"] not in {one["id"] for one in rows}]
    assert all(row["state"] == "done" and row["receipt"]["holds"] for row in again), again
    server.end()
    found = place.content("outputs/again")
    assert found == calm or not calm, f"{sorted(found)} is not {sorted(calm)}"
    for row in rows:
        path = Path(row["path"])
        # One that is there and not verified yet, as its row says, is whole too.
        if row["state"] == "done" or path.exists():
            one = place.content(str(path.relative_to(place.home)))
            twins = {name.replace("outputs/again/", "outputs/"): digest for name, digest in found.items()}
            assert all(twins[name] == digest for name, digest in one.items()), f"{path.name} is another one"
    return "over" if ended else "at work"


def upload(place: Place, name: str, calm: dict[str, str], wait: float) -> str:
    """Kill the server while files come in."""
    files = []
    for n in range(6):
        files.append(place.root / f"mesh{n}.obj")
        files[-1].write_text("\n".join(["v 0 0 0", "v 1 0 0", "v 0 1 0", *["f 1 2 3"] * 60_000]))
    server = place.serve()
    sending = threading.Thread(target=lambda: suppress_all(lambda: [server.send("/api/sources", [f]) for f in files]))
    sending.start()
    time.sleep(wait)
    server.kill()
    sending.join(60)
    _until(lambda: not _stages(place.temporary))
    server = place.serve()
    shots = server.ask("/api/shots")[1]["shots"]
    assert not [shot for shot in shots if shot.get("error")], shots
    kept = list((place.home / "sources").rglob("mesh*.obj"))
    assert all(_digest(file) == _digest(files[0]) for file in kept), "a part of a file was kept"
    server.end()
    return f"{min(len(kept), 6)} of 6 there"


def suppress_all(act: Callable[[], object]) -> None:
    """Do something whose server may go away meanwhile."""
    with suppress(Exception):
        act()


JOBS: dict[str, Callable[[Place, str, dict[str, str], float], str]] = {
    **dict.fromkeys(COMMANDS, command), "dispatch": dispatch, "dispatch of a reel": dispatch, "upload": upload,
}  # fmt: skip


def main() -> None:
    """Kill, order again and compare."""
    random.seed(SEED)
    counts: Counter[str] = Counter()
    wrong = 0
    with tempfile.TemporaryDirectory(prefix="kills-files-") as folder:
        start = Place(Path(folder) / "start")
        start.build()
        calm: dict[str, dict[str, str]] = {}
        lasts: dict[str, float] = {}
        for name in JOBS:
            place = _copied(start, Path(folder) / f"calm-{len(calm)}")
            begun = time.monotonic()
            if name in COMMANDS:
                place.call(*COMMANDS[name][0])
                calm[name] = place.content(COMMANDS[name][1])
                assert calm[name], name
            elif name != "upload":
                dispatch(place, name, {}, 20)
                calm[name] = place.content("outputs/again")
            else:
                calm[name] = {}
            lasts[name] = time.monotonic() - begun if name in COMMANDS else 3.0
        for number in range(KILLS):
            name = random.choice(list(JOBS))
            place = _copied(start, Path(folder) / str(number))
            try:
                how = JOBS[name](place, name, calm[name], random.uniform(0.05, lasts[name]))
                # The next start sweeps what killed processes have left among the temporary files.
                place.serve().end()
                left = place.left()
                assert not left, f"left behind: {left}"
                counts[f"{name} {how}"] += 1
            except Exception as error:  # noqa: BLE001 (any failure is a finding of this round)
                wrong += 1
                print(f"WRONG kill {number}, {name}: {type(error).__name__}: {str(error)[:600]}", flush=True)
            shutil.rmtree(place.root, ignore_errors=True)
            if (number + 1) % 10 == 0:
                print(f"{number + 1} kills, {wrong} wrong", flush=True)
    print(f"{KILLS} kills: " + ", ".join(f"{count} × {what}" for what, count in sorted(counts.items())))
    raise SystemExit(1 if wrong else 0)


def _copied(start: Place, root: Path) -> Place:
    shutil.copytree(start.root, root)
    return Place(root)


if __name__ == "__main__":
    main()
