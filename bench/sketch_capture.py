"""(g) Capture of a matplotlib sketch, 300 frames at 1080p, against a plain savefig loop."""

import json
import sys
from pathlib import Path

from bench.common import difference, ends, few, folder, plain, tell, timed, vexel

FRAMES = few(4, 300)
DRAWING = """import numpy as np
import matplotlib.pyplot as plt


def figure(phase):
    made, axes = plt.subplots(figsize=(19.2, 10.8), dpi=100)
    x = np.linspace(0, 20, 4000)
    axes.plot(x, np.sin(x + 6.28 * phase) + 0.3 * np.sin(7 * x - 12.57 * phase))
    axes.set_ylim(-1.5, 1.5)
    return made
"""
SKETCH = (
    DRAWING
    + """

from vexel.author import sketch


@sketch
def wave(phase):
    return figure(phase)
"""
)


def by_hand(place: str) -> None:
    """The plain loop."""
    sys.path.insert(0, place)
    import matplotlib

    matplotlib.use("Agg")
    from drawing import figure
    from matplotlib import pyplot

    for frame in range(FRAMES):
        made = figure(frame / FRAMES)
        made.savefig(Path(place) / f"{frame:04d}.png")
        pyplot.close(made)


def main() -> None:
    """Time both and print the ratio."""
    with folder() as place:
        (place / "drawing.py").write_text(DRAWING)
        (place / "wave.py").write_text(SKETCH)
        document = {
            "title": "Wave",
            "source": {"kind": "sketch", "file": "wave.py"},
            "clock": {"rate": "30", "frames": FRAMES},
            "picture": {"width": 1920, "height": 1080},
        }
        (place / "wave.json").write_text(json.dumps(document))
        theirs = timed(*plain("sketch_capture", place))
        ours = vexel("capture", place / "wave.json", "--to", place / "take")
        pairs = [(place / f"{n:04d}.png", place / f"take/wave.shaded.{n:04d}.png") for n in ends(FRAMES)]
        differ, ratio = difference(pairs, 0.01), theirs / ours
        figure = f"{theirs:.1f} s / {ours:.1f} s = {ratio:.2f} times as fast, pictures differ by {differ:.2f} of 255"
        tell(f"sketch, matplotlib, {FRAMES} frames 1080p, against a savefig loop", figure, "1.6", ratio >= 1.6)


if __name__ == "__main__":
    by_hand(*sys.argv[2:]) if sys.argv[1:2] == ["plain"] else main()
