"""Sequences of operations in any order, with right and hostile values, of a running server.

    python -m bench.sequences [CALLS] [SEED]

Shots and reels are made, edited, undone, removed and put back; runs are ordered, stopped, resumed and deleted; files
are made of them under names that clash. No answer may be an error of the server, no list may be lost, and a file that
was finished stays as it was, to the byte, until its run is deleted.
"""

import hashlib
import random
import sys
import tempfile
from collections import Counter
from pathlib import Path
from typing import Any

from tests.helpers import Server, write_shot

CALLS = int(sys.argv[1]) if len(sys.argv) > 1 else 20_000
SEED = int(sys.argv[2]) if len(sys.argv) > 2 else 28
LISTS = ("shots", "reels", "runs", "outputs", "recipes", "consent")
CODE = "@model\ndef thing(instant=None):\n    return pv.Cone(height=1 + float(instant.phase))\n"
TEXTS = (
    "Hall",
    "",
    "x" * 300,
    "../../x",
    "\0",
    "run:1",
    "run:99999999999999999999",
    "é" * 100,
    "a\n\n00:00 --> b",
    "%s%n",
)
NUMBERS = (0, 1, 2, 5, -1, 1e308, 1e-308, 2**63, 0.5)
RECIPES = ("gif", "h264", "zip", "png", "chapters", "handover")


class Sequences:
    """The calls, and what is known of what they made."""

    def __init__(self, server: Server, home: Path) -> None:
        self.server, self.home = server, home
        self.chance = random.Random(SEED)
        self.finished: dict[Path, tuple[int, str]] = {}
        self.wrong: Counter[str] = Counter()
        self.statuses: Counter[int] = Counter()

    def ask(self, address: str, body: Any = None, method: str | None = None) -> Any:
        """One call; an answer that must not be is noted."""
        status, told = self.server.ask(address, body, method) if method else self.server.ask(address, body)
        self.statuses[status] += 1
        if status >= 500 and status != 507:
            self.wrong[f"{status} {method or 'GET/POST'} {address.split('?', maxsplit=1)[0]}: {str(told)[:150]}"] += 1
        return told if isinstance(told, dict) else {}

    def of(self, kind: str) -> dict[str, Any] | None:
        """One of the lines of a list, by chance."""
        lines = self.ask(f"/api/{kind}").get(kind, [])
        return self.chance.choice(lines) if lines else None

    def item(self) -> dict[str, Any]:
        """An item of a reel."""
        pick, run = self.chance.choice, self.of("runs")
        return pick([
            {"kind": "take", "take": f"run:{run['id'] if run else 1}", "last": pick([None, 1, 2**63])},
            {"kind": "shot", "shot": f"../shots/{pick(['shot', *TEXTS])}.json"},
            {"kind": "gap", "frames": pick(NUMBERS)},
            {"kind": "title", "text": pick(TEXTS), "frames": 3},
            {"kind": "reel", "reel": f"{pick(['hall', *TEXTS])}.json"},
            {"kind": "clip", "file": pick(TEXTS)}, {"kind": "stills", "file": pick(TEXTS), "rate": "12"},
        ])  # fmt: skip

    def step(self) -> None:
        """One operation."""
        pick = self.chance.choice
        shot, reel, run, output = (self.of(kind) for kind in ("shots", "reels", "runs", "outputs"))
        recipes = [{"name": name} | DOCUMENTS[name] for name in self.chance.sample(RECIPES, 2)]
        order = {"recipes": recipes, "camera_passes": [0], "names": pick(["", "{title}", "same", *TEXTS])}
        acts: list[tuple[str, Any, str | None]] = [
            ("/api/reels", {"title": pick(TEXTS[:4])}, None), ("/api/shots", {"demo": pick(["tide-week", ""])}, None),
        ]  # fmt: skip
        if shot:
            address = f"/api/shots/{shot['id']}"
            patch = pick([
                {"title": pick(TEXTS)}, {"clock": {"frames": pick(NUMBERS), "seconds": None}},
                {"clock": {"speed": pick(NUMBERS)}}, {"picture": {"width": pick(NUMBERS)}},
                {"source": {"file": pick(TEXTS)}}, {"clock": {"rate": pick(TEXTS)}},
            ])  # fmt: skip
            acts += [(address, {"patch": patch, "what": "x"}, "PATCH"), (f"{address}/undo", {}, None)]
            acts += [(f"{address}/redo", {}, None), (f"{address}/copies", {}, None), (address, None, "DELETE")]
            acts += [("/api/shots/shot/runs", {"to_file": pick([True, False])}, None)] * 3
        if reel:
            address = f"/api/reels/{reel['id']}"
            items = pick(
                [[self.item() for _ in range(pick([0, 1, 3]))], {"insert": {"0": [self.item()]}}, {"remove": [0]}]
            )
            acts += [(address, {"patch": {"items": items}, "what": "x"}, "PATCH"), (f"{address}/undo", {}, None)] * 2
            acts += [(f"{address}/dispatch", order, None), (f"{address}/captures", {}, None), (address, None, "DELETE")]
            acts += [
                (f"{address}/picture?frame={pick([0, 1, 10**8])}", None, None),
                (f"{address}/list?ending=otio", None, None),
            ]
        if run:
            address = f"/api/runs/{run['id']}"
            acts += [(f"{address}/stop", {}, None), (f"{address}/resume", {}, None), (f"{address}/check", {}, None)]
            acts += [
                (f"{address}/dispatch", order, None),
                (f"{address}/outputs", {"recipe": pick(RECIPES[:3])}, None),
            ] * 2
        if output:
            acts += [(f"/api/outputs/{output['id']}/stop", {}, None), (f"/api/outputs/{output['id']}/file", None, None)]
        self.ask(*pick(acts))

    def look(self) -> None:
        """Hold the finished files against what they were, and see that every list is there."""
        for row in self.ask("/api/outputs").get("outputs", []):
            path = Path(row["path"])
            if row["state"] == "done" and path.is_file():
                self.finished.setdefault(path, (row["id"], _digest(path)))
        for path, (output, digest) in self.finished.items():
            if not path.is_file() or _digest(path) != digest:
                self.wrong[f"finished file {path.name} of {output} is gone or another one"] += 1
        for name in LISTS:
            self.ask(f"/api/{name}")


DOCUMENTS: dict[str, dict[str, Any]] = {
    "gif": {"container": "gif", "codec": "gif"}, "h264": {"container": "mp4", "codec": "h264"},
    "zip": {"container": "zip", "codec": "as-made"}, "png": {"container": "folder", "codec": "png"},
    "chapters": {"container": "vtt", "codec": "chapters"}, "handover": {"container": "zip", "codec": "handover"},
}  # fmt: skip


def _digest(path: Path) -> str:
    return hashlib.sha256(path.read_bytes()).hexdigest()


def main() -> None:
    """Make the calls and print what was found."""
    with tempfile.TemporaryDirectory(prefix="vexel-sequences-") as place:
        home = Path(place) / "home"
        (home / "shots").mkdir(parents=True)
        write_shot(home / "shots", CODE, frames=3)
        server = Server(None, home, python=sys.executable)
        made = Sequences(server, home)
        try:
            while made.statuses.total() < CALLS:
                for _ in range(10):
                    made.step()
                    if not (home / "shots/shot.json").exists():
                        write_shot(home / "shots", CODE, frames=3)
                made.look()
        finally:
            server.end()
        left = [path.name for path in home.rglob("*") if path.name.endswith((".part", ".claim"))]
    print(
        f"{made.statuses.total():,} calls: {dict(sorted(made.statuses.items()))}; {len(made.finished)} files finished"
    )
    print(f"left behind: {left}" if left else "nothing left behind")
    for wrong, count in made.wrong.most_common():
        print(f"  {count} × {wrong}")
    raise SystemExit(1 if made.wrong or left else 0)


if __name__ == "__main__":
    main()
