"""(k) A path of 100,000 frames along 50 keys: path, framing and findings; panoramas of 4096 × 2048 an eye; a scan."""

import time
from pathlib import Path
from typing import Literal

import numpy as np

from bench.common import few, folder, mesh, tell
from bench.one_stage import frame_seconds
from vexel.core.camera.framing import Sphere
from vexel.core.checks.camera_findings import camera_findings
from vexel.core.document.shot import read_shot_document
from vexel.core.evaluate.frame_spec import SourceIdentity
from vexel.core.evaluate.plan import make_plan
from vexel.core.evaluate.source_facts import PlanInputs, SourceFacts, Subject

PATH_SECONDS, PANORAMA_SECONDS, SPLAT_SECONDS = 0.25, 3.0, 1.5
SPLATS = few(5_000, 500_000)
PANORAMA = few(512, 4096)


def path() -> None:
    """From the document to findings; the best of five, since the machine is shared."""
    turns = np.linspace(0, 6 * np.pi, 50)
    places = np.stack([6 * np.cos(turns), 6 * np.sin(turns), np.linspace(-1, 4, 50)], axis=1)
    keys = [{"position": [round(float(v), 4) for v in place]} for place in places]
    document = {
        "title": "Flight",
        "source": {"kind": "object", "file": "ball.ply"},
        "clock": {"rate": "60", "frames": 100_000, "span": "ends"},
        "camera": {"rig": {"kind": "path", "keys": keys}},
    }
    shot = read_shot_document(document)
    inputs = PlanInputs("e", SourceIdentity("object", "ball.ply", "d"), SourceFacts(), Subject(Sphere((0, 0, 0), 1)))
    took = []
    for _ in range(5):
        begun = time.perf_counter()
        plan = make_plan(shot, inputs)
        middle = time.perf_counter()
        camera_findings(plan)
        took.append((time.perf_counter() - begun, middle - begun))
    assert plan.sampled.path is not None
    flown = plan.sampled.path.positions
    astray = max(float(np.linalg.norm(flown - place, axis=1).min()) for place in places)
    steps = np.linalg.norm(np.diff(flown, axis=0), axis=1)
    assert len(flown) == 100_000 and astray <= steps.max(), f"the path misses a key by {astray:.4f}"
    whole, path = min(took)
    figure = f"{whole * 1000:.0f} ms, of which the path {path * 1000:.0f} ms"
    budget = f"{PATH_SECONDS * 1000:.0f} ms"
    tell("path of 100,000 frames along 50 keys", figure, budget, whole <= PATH_SECONDS)


def panorama(eyes: Literal["one", "top-bottom"]) -> None:
    """A whole sphere from beside the ball, one sample, without the first frame's preparations."""
    height = PANORAMA // 2 if eyes == "one" else PANORAMA
    with folder() as place:
        mesh().save(place / "ball.ply")
        document = {
            "title": "Sphere",
            "source": {"kind": "object", "file": "ball.ply"},
            "clock": {"rate": "30", "frames": 6},
            "camera": {
                "lens": {"projection": "panorama", "eyes": eyes},
                "rig": {"kind": "path", "keys": [{"position": [x, -1.2, 0]} for x in (-0.3, 0.3)]},
            },
            "picture": {"width": PANORAMA, "height": height, "samples": 1},
        }
        took = frame_seconds(document, place / "ball.ply", few(2, 6))
        figure = f"{np.median(took[1:]):.2f} s a frame, PNG included; the first {took[0]:.2f} s"
        budget = PANORAMA_SECONDS * height / 2048
        what = f"panorama {PANORAMA} × {height}, eyes: {eyes}, 179,000 triangles"
        tell(what, figure, f"{budget:g} s", bool(np.median(took[1:]) <= budget))


def scan_file(place: Path) -> Path:
    """A made-up scan: flakes on a bumpy ball, with colours of the first two degrees."""
    rng = np.random.default_rng(1)
    names = [*"xyz", *(f"f_dc_{n}" for n in range(3)), *(f"f_rest_{n}" for n in range(9)), "opacity"]
    names += [*(f"scale_{n}" for n in range(3)), *(f"rot_{n}" for n in range(4))]
    table = np.zeros(SPLATS, [(name, "<f4") for name in names])
    ways = rng.normal(size=(SPLATS, 3))
    ways /= np.linalg.norm(ways, axis=1)[:, None]
    for axis, values in zip("xyz", (ways * (1 + 0.05 * np.sin(8 * ways[:, :1]))).T, strict=True):
        table[axis] = values
    for n in range(3):
        table[f"f_dc_{n}"], table[f"scale_{n}"] = ways[:, n], np.log(rng.uniform(0.001, 0.006, SPLATS))
        table[f"f_rest_{3 * n}"] = 0.2
    for n in range(4):
        table[f"rot_{n}"] = rng.normal(size=SPLATS)
    table["opacity"] = rng.normal(1, 1, SPLATS)
    told = ["ply", "format binary_little_endian 1.0", f"element vertex {SPLATS}"]
    file = place / "scan.ply"
    file.write_bytes(
        "\n".join([*told, *(f"property float {n}" for n in names), "end_header\n"]).encode() + table.tobytes()
    )
    return file


def splats() -> None:
    """A turntable round the scan, each frame sorted anew."""
    with folder() as place:
        file = scan_file(place)
        document = {
            "title": "Scan",
            "source": {"kind": "object", "file": "scan.ply"},
            "clock": {"rate": "30", "frames": 8},
            "picture": {"width": 1920, "height": 1080, "samples": 1},
        }
        took = frame_seconds(document, file, few(2, 8))
        figure = f"{np.median(took[1:]):.2f} s a frame, PNG included; the first {took[0]:.2f} s"
        holds = bool(np.median(took[1:]) <= SPLAT_SECONDS)
        tell(f"{SPLATS:,} splats, 1920 × 1080", figure, f"{SPLAT_SECONDS:g} s", holds)


def main() -> None:
    """All of them."""
    path()
    panorama("one")
    panorama("top-bottom")
    splats()


if __name__ == "__main__":
    main()
