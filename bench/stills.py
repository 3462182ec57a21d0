"""(i) Recognising a sequence of 10,000 pictures."""

import shutil
import time
from statistics import median

import cv2
import numpy as np

from bench.common import few, folder, tell
from vexel.sources.kinds.stills import StillsFolder

COUNT = few(200, 10_000)


def main() -> None:
    """Time the whole recognition, headers included."""
    with folder() as place:
        cv2.imwrite(str(place / "one.png"), np.zeros((90, 160, 3), np.uint8))
        for number in range(COUNT):
            shutil.copyfile(place / "one.png", place / f"s.{number:05d}.png")
        taken = []
        for _ in range(3):
            begun = time.perf_counter()
            facts = StillsFolder(place / "s.00042.png", "24").facts
            taken.append(time.perf_counter() - begun)
        assert facts.source_frames is not None and facts.source_frames.count == COUNT
        tell(f"stills, {COUNT:,} files recognised", f"{median(taken):.2f} s", "1 s", median(taken) <= 1)


if __name__ == "__main__":
    main()
