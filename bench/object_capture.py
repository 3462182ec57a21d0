"""(a) Capture of an object turning, against a plain single-process PyVista script.

Both make 48 frames at 1080p of the same 179,000 triangles from the same
camera, and write PNG files. The plain script is
what one writes by hand: a plotter, its screenshot, one frame after the other.
It is timed twice: with the same pictures (four jittered renders a frame, their
mean written, and our own shader for the light), and in the plotter's own way: its
light kit and its anti-aliasing.

The plain script is not single-core: Mesa uses several threads, so that two
processes win only what one leaves idle. A bound by the number of cores means
little, then; the processor seconds of a frame in a warm stage, all threads
together, are printed as well.
"""

import json
import os
import sys
import time
from pathlib import Path
from statistics import median

import numpy as np

from bench.common import difference, ends, few, folder, object_shot, plain, tell, timed, vexel
from bench.one_stage import frame_seconds

FRAMES = few(3, 48)
ROUNDS = few(1, 3)
SAMPLES = 4
CORES = os.cpu_count() or 1
WIDTH, HEIGHT = few((320, 180), (1920, 1080))
WAYS = {"same": ("the same pictures", 0.5), "own": ("the plotter's own light and anti-aliasing", 60)}
"""Names, and by how much the pictures may differ: with the plotter's light they only have to show the same ball."""


def by_hand(mesh_file: str, out: str, way: str) -> None:
    """The plain script."""
    from PIL import Image

    from bench.plain_scene import PlainScene
    from vexel.core.camera.sample_positions import sample_offsets

    scene = PlainScene(Path(mesh_file), WIDTH, HEIGHT, own_light=way == "own")
    offsets = [(float(x), float(y)) for x, y in sample_offsets(SAMPLES)] if way == "same" else [(0.0, 0.0)]
    for frame in range(FRAMES):
        looks = [scene.look(360 * frame / FRAMES, offset).astype(np.float32) for offset in offsets]
        Image.fromarray(np.rint(np.mean(looks, axis=0)).astype(np.uint8)).save(Path(out) / f"{frame:04d}.png")


def main() -> None:
    """Time both and print the ratio."""
    with folder() as place:
        shot = object_shot(place, FRAMES, width=WIDTH, height=HEIGHT)
        times: dict[str, list[float]] = {"same": [], "own": [], "ours": []}
        for _ in range(ROUNDS):
            # In turn, since the machine's speed drifts.
            for way in WAYS:
                (place / way).mkdir(exist_ok=True)
                times[way].append(timed(*plain("object_capture", place / "ball.ply", place / way, way)))
            times["ours"].append(vexel("capture", shot, "--to", place / "take", "--fresh"))
        figures = {way: median(taken) for way, taken in times.items()}
        ours = figures["ours"]
        for way, (name, most) in WAYS.items():
            pairs = [(place / way / f"{n:04d}.png", place / f"take/ball.shaded.{n:04d}.png") for n in ends(FRAMES)]
            differ, ratio = difference(pairs, most), figures[way] / ours
            tell(
                f"object capture, {FRAMES} frames {HEIGHT}p, against a plain script with {name}",
                f"{figures[way]:.1f} s / {ours:.1f} s = {ratio:.2f} times as fast, "
                f"pictures differ by {differ:.2f} of 255 in the mean",
                "1.5 times",
                ratio >= 1.5,
            )
        document = json.loads(shot.read_text())
        warm = median(frame_seconds(document, place / "ball.ply", few(2, 13), time.process_time)[1:])
        tell(
            "a frame of it in a warm stage",
            f"{warm:.2f} s of processor time, so at most {CORES / warm:.2f} frames a second on {CORES} cores; "
            f"the whole capture made {FRAMES / ours:.2f}, start included",
            "none",
            True,
        )


if __name__ == "__main__":
    by_hand(*sys.argv[2:]) if sys.argv[1:2] == ["plain"] else main()
