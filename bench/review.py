"""(aa) Figures of 1,000 frames at 1080p, against a plain loop of Pillow and NumPy; and two takes of equal frames."""

import json
import os
import time
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from bench.common import few, folder, tell, vexel
from vexel.core.document.shot import read_shot
from vexel.disk.finished import finished
from vexel.imaging.image_bytes import encoded_png
from vexel.output.reviewing.measure import measured, reviewed
from vexel.store.folder_take import FolderTake
from vexel.store.frame_states import FrameState

FRAMES, PLAIN, SIZE = few(12, 1000), few(12, 24), few((96, 54), (1920, 1080))
SECONDS, TIMES, DIFF_SECONDS = 60.0, 3.0, few(99.0, 2.0)
LUMA = np.array([0.2126, 0.7152, 0.0722])


def laid(place: Path) -> None:
    """Pictures with soft shapes and little noise, each under several numbers."""
    wide, high = SIZE
    y, x = np.mgrid[:high, :wide] / high
    random, different = np.random.default_rng(3), min(FRAMES, 40)
    for n in range(FRAMES):
        file = place / f"a.{n:04d}.png"
        if n < different:
            shade = np.stack([np.sin(7 * x + n / 6), np.cos(5 * y - n / 9), np.sin(4 * (x + y))], axis=-1)
            noise = random.normal(0, 0.6, (high, wide, 1))
            file.write_bytes(encoded_png(np.clip(120 + 90 * shade + noise, 0, 255).astype(np.uint8)))
        else:
            os.link(place / f"a.{n % different:04d}.png", file)


def plain(files: list[Path]) -> list[tuple[float, float, float]]:
    """Brightness, sharpness and step, as one writes it first."""
    before: NDArray[np.float64] | None = None
    rows = []
    for file in files:
        pixels = np.asarray(Image.open(file), float)
        light = pixels @ LUMA
        sharp = (4 * light[1:-1, 1:-1] - light[:-2, 1:-1] - light[2:, 1:-1] - light[1:-1, :-2] - light[1:-1, 2:]).std()
        extremes = [pixels.min(axis=(0, 1)), pixels.max(axis=(0, 1)), (light == 0).mean(), (light >= 254.5).mean()]
        step = 0.0 if before is None else float(np.abs(pixels - before).mean())
        changed = 0.0 if before is None else float((pixels != before).any(axis=2).mean())
        assert extremes and changed >= 0
        rows.append((float(light.mean()), float(sharp), step))
        before = pixels
    return rows


def two_takes(place: Path, found_files: tuple[Path, ...]) -> None:
    """The command that compares takes, on equal frames."""
    picture = {"width": SIZE[0], "height": SIZE[1], "samples": 1}
    document = {"title": "Twice", "source": {"kind": "object", "file": "ball.ply"}, "picture": picture}
    shot = read_shot(json.dumps(document | {"clock": {"rate": "24", "frames": len(found_files)}}))
    for name in ("one", "two"):
        take = FolderTake(place / name, shot)
        take.enter(resume=False, fresh=False)
        states = []
        for number, source in enumerate(found_files):
            file = take.path(number, f"{number:064x}")
            os.link(source, file)
            entry = finished(file)
            states.append(
                FrameState(number, f"{number:064x}", "made", 0.1, entry.bytes, "", entry.digest, entry.written)
            )
        take.record(states)
        take.save()
    begun = time.perf_counter()
    vexel("diff", place / "one", place / "two")
    seconds = time.perf_counter() - begun
    tell(
        f"diff of {len(found_files):,} equal frames", f"{seconds:.2f} s", f"{DIFF_SECONDS:g} s", seconds <= DIFF_SECONDS
    )


def main() -> None:
    """Both sides; they agree where both look."""
    with folder() as place:
        laid(place)
        footage, _ = reviewed(place)
        begun = time.perf_counter()
        found = measured(footage)
        seconds = time.perf_counter() - begun
        begun = time.perf_counter()
        rows = plain(list(footage.files[:PLAIN]))
        each = (time.perf_counter() - begun) / PLAIN
        np.testing.assert_allclose([255 * one.mean for one in found.frames[:PLAIN]], [row[0] for row in rows], atol=0.5)
        steps = [255 * one.mean for one in found.steps[1:PLAIN]]
        np.testing.assert_allclose(steps, [row[2] for row in rows[1:]], atol=0.01)
        tell(f"figures of {FRAMES:,} frames", f"{seconds:.1f} s", f"{SECONDS:g} s", seconds <= SECONDS)
        two_takes(place, found_files=footage.files[: few(4, 1000)])
        ratio = each * FRAMES / seconds
        tell("plain loop / figures", f"{ratio:.2f}", f"{TIMES:g}", ratio >= TIMES)


if __name__ == "__main__":
    main()
