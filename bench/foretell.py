"""(x) What a probe foretells, against what comes: time, bytes and file size of the demo's shots and ten others."""

import json
import subprocess
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np

from bench.common import few, folder, mesh, tell, vexel
from vexel.core.recipes.frame_size import even_sides
from vexel.core.recipes.shipped import RECIPES
from vexel.demo import lay_out

FRAMES, SIZE = few(6, 120), few((64, 36), (960, 540))
SHARE, WIDEST = 0.9, 2.0
HEAD = "import numpy as np\nimport pyvista as pv\nfrom vexel.author import *\n"
GROWING = """@model
def tube(turns=dial(1, low=0.2, high=12)):
    t = np.linspace(0, turns, int(60 * turns) + 4)
    line = np.stack([np.cos(6.283 * t), np.sin(6.283 * t), t / 4], axis=1)
    return pv.lines_from_points(line).tube(radius=0.1, n_sides=40)
"""
SLOW = """@model
def cube(turn=dial(0, low=0, high=1)):
    import time
    time.sleep(0.15 + 0.3 * turn)
    return pv.Cube().rotate_z(90 * turn)
"""
NOISE = """@sketch
def noise(size, phase):
    rng = np.random.default_rng(int(phase * 1e6))
    coarse = rng.integers(0, 255, (size[1] // 4, size[0] // 4, 3), dtype=np.uint8)
    return coarse.repeat(4, 0).repeat(4, 1)
"""
FIGURE = """import matplotlib.pyplot as plt

@sketch
def wave(phase):
    made, axes = plt.subplots(figsize=(9.6, 5.4), dpi=100)
    x = np.linspace(0, 20, 4000)
    axes.plot(x, np.sin(x + 6.28 * phase) + 0.3 * np.sin(7 * x - 12.57 * phase))
    return made
"""
GAME = """@simulation(step=1 / 24)
class Life:
    def start(self):
        return {"cells": np.random.default_rng(4).random((360, 640)) < 0.3}

    def advance(self, state):
        cells = state["cells"]
        near = sum(np.roll(cells.astype(np.int8), by, (0, 1)) for by in
                   [(a, b) for a in (-1, 0, 1) for b in (-1, 0, 1) if a or b])
        state["cells"] = (near == 3) | (cells & (near == 2))

    def show(self, state):
        return (state["cells"] * 255).astype(np.uint8)
"""
PAGE = """<!doctype html><body style="margin:0;background:#123"><svg viewBox="0 0 160 90" width="100%" height="100%">
<g><circle r="9" cx="30" cy="45" fill="#fc6"/><animateTransform attributeName="transform" type="translate"
values="0 0;100 0;0 0" dur="5s" repeatCount="indefinite"/></g></svg>
"""


@dataclass(frozen=True)
class Case:
    """A shot on disk, and the name under which it is listed."""

    name: str
    file: Path


def others(place: Path) -> Iterator[Case]:
    """Ten shots of all kinds that are not the demo's."""
    ball, texts = mesh(), {"tube.py": GROWING, "cube.py": SLOW, "noise.py": NOISE, "wave.py": FIGURE, "life.py": GAME}
    ball.save(place / "ball.ply")
    for name, text in texts.items():
        (place / name).write_text(HEAD + text)
    (place / "sun.html").write_text(PAGE)
    pictures(place)
    up = {"keys": [[0, 1], [1, 10]]}
    lane = [{"drive": "dial:turns", **up}]
    turn = [{"drive": "dial:turn", "keys": [[0, 0], [1, 1]]}]
    sides = {"passes": ["shaded", "depth"], "format": "png16"}
    yield _shot(place, "growing tube", {"kind": "model", "file": "tube.py"}, lanes=lane, recipe="h265")
    yield _shot(place, "slow cube", {"kind": "model", "file": "cube.py"}, lanes=turn)
    yield _shot(place, "noise", {"kind": "sketch", "file": "noise.py"})
    yield _shot(place, "figure", {"kind": "sketch", "file": "wave.py"}, recipe="gif-640")
    yield _shot(place, "game", {"kind": "simulation", "file": "life.py"})
    yield _shot(place, "page", {"kind": "page", "file": "sun.html"}, recipe="vp9")
    yield _shot(place, "ball", {"kind": "object", "file": "ball.ply"}, picture={"samples": 4})
    yield _shot(place, "two passes", {"kind": "object", "file": "ball.ply"}, picture=sides, recipe="ffv1")
    yield _shot(place, "stills", {"kind": "stills", "file": "s.0000.jpg", "rate": "24"}, recipe="av1")
    yield _shot(place, "clip", {"kind": "clip", "file": "c.mp4"}, recipe="prores-422-hq")


def pictures(place: Path) -> None:
    """Stills and a clip: a gradient with dots that move."""
    with av.open(str(place / "c.mp4"), "w") as clip:
        stream = clip.add_stream("libx264", rate=24)
        stream.width, stream.height, stream.pix_fmt = 320, 180, "yuv420p"
        dots = np.random.default_rng(1).random((40, 2))
        for n in range(FRAMES):
            picture = np.tile(np.linspace(0, 200, 320, dtype=np.uint8), (180, 1))[..., None].repeat(3, 2)
            for x, y in dots:
                cv2.circle(picture, (int((x + n / 200) % 1 * 320), int(y * 180)), 6, (30, 200, 240), -1)
            cv2.imwrite(str(place / f"s.{n:04d}.jpg"), picture)
            clip.mux(stream.encode(av.VideoFrame.from_ndarray(picture, "bgr24")))
        clip.mux(stream.encode())


def _shot(place: Path, name: str, source: dict[str, Any], **parts: Any) -> Case:
    size = {"width": SIZE[0], "height": SIZE[1], "samples": 1}
    document = {
        "title": name,
        "source": source,
        "clock": {"rate": "24", "frames": FRAMES, "span": "ends"},
        "picture": size | parts.pop("picture", {}),
    }
    file = place / f"{name.replace(' ', '-')}.json"
    file.write_text(json.dumps(document | parts))
    return Case(name, file)


def demo(place: Path) -> Iterator[Case]:
    """All shots of the demo."""
    lay_out(place / "home")
    for file in sorted((place / "home/shots").glob("*.json")):
        # Whole, they take an hour: a third as wide and high they differ as much in what each frame costs.
        document = json.loads(file.read_text())
        picture = document["picture"]
        width, height = even_sides(picture.get("width", 1920) // 3, picture.get("height", 1080) // 3)
        picture |= {"width": width, "height": height, "samples": min(picture.get("samples", 4), 2)}
        file.write_text(json.dumps(document))
        yield Case(file.stem, file)


def outcome(case: Case, place: Path) -> dict[str, tuple[float, float, float]]:
    """Low end, high end and what came, of each figure that was foretold."""
    take = place / f"take-{case.name.replace(' ', '-')}"
    vexel("plan", case.file, "--probe", "--to", take)
    ledger = json.loads((take / "take.json").read_text())
    said, before = ledger["foretold"], sum(file.stat().st_size for file in take.iterdir())
    # The time of a run, as the server counts it too: without loading the command itself.
    done = subprocess.run(
        [sys.executable, "-m", "vexel", "capture", str(case.file), "--to", str(take), "--resume"],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    seconds = float(done.stdout.rpartition(" in ")[2].removesuffix(" s\n"))
    came = {"seconds": seconds, "bytes": sum(file.stat().st_size for file in take.iterdir()) - before}
    if said["file_bytes"]:
        recipe = RECIPES[ledger["shot"]["recipe"]]
        came["file_bytes"] = 0.0
        for camera_pass in dict.fromkeys(row.get("camera_pass", "") for row in ledger["frames"]):
            film = place / f"film{recipe.suffix}"
            chosen = _chosen(camera_pass, ledger["shot"])
            vexel("compile", take, "-o", film, "--recipe", recipe.name, "--overwrite", *chosen)
            came["file_bytes"] += film.stat().st_size
    return {name: (said[name]["low"], said[name]["high"], value) for name, value in came.items() if said[name]}


def _chosen(label: str, shot: dict[str, Any]) -> list[str]:
    if not label:
        return []
    *camera, render_pass = label.split(", ")
    return [*(["--camera", camera[0]] if camera else []), "--pass", render_pass]


def main() -> None:
    """Probe, capture and compile each; a range that misses, or is too wide, is listed."""
    named = sys.argv[1:] if __name__ == "__main__" else []
    held: dict[str, list[bool]] = {}
    with folder() as place:
        for case in [*others(place), *few([], list(demo(place)))]:
            if named and case.name not in named:
                continue
            for figure, (low, high, came) in outcome(case, place).items():
                assert high <= WIDEST * low + 1e-6, (case.name, figure, low, high)
                inside = low <= came <= high
                held.setdefault(figure, []).append(inside)
                sign = "" if inside else "  MISSED"
                print(f"{case.name:16} {figure:10} {low:14,.1f} {high:14,.1f} {came:14,.1f}{sign}", flush=True)
    for figure, hits in held.items():
        share = sum(hits) / len(hits)
        tell(f"foretold {figure} of {len(hits)} shots in its range", f"{share:.2f}", f"{SHARE}", share >= SHARE)


if __name__ == "__main__":
    main()
