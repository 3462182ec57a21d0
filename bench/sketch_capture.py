"""(g) Capture of a matplotlib sketch, 300 frames at 1080p, against a plain savefig loop."""

import json
import sys
from pathlib import Path

from common import folder, tell, timed, vexel

FRAMES = 300
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


def plain(place: str) -> None:
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
        theirs = timed(sys.executable, __file__, "plain", place)
        ours = timed(*vexel("capture", place / "wave.json", "--to", place / "take"))
        ratio = theirs / ours
        figure = f"{theirs:.1f} s / {ours:.1f} s = {ratio:.2f} times as fast"
        tell("sketch, matplotlib, 300 frames 1080p, against a savefig loop", figure, "1.6", ratio >= 1.6)


if __name__ == "__main__":
    plain(*sys.argv[2:]) if sys.argv[1:2] == ["plain"] else main()
