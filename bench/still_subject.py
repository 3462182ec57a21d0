"""(m) A light that turns over a still subject: nothing is built anew for it.

The model writes a line whenever it is built, which does not depend on how many
frames there are. One warm stage then makes frames of
the turning light and of the turning camera in turn.
"""

import json
import os
from pathlib import Path
from typing import Any

import numpy as np

from bench.common import few, folder, tell, vexel
from bench.one_stage import frame_seconds
from vexel.workers.bounds.isolation import OFF

FRAMES = few(6, 96)
BUILDS = 4
"""To be measured, to see that it comes out the same again, and once in a worker on each core."""
MODEL = """import numpy as np
import pyvista as pv
from vexel.author import model


@model
def ball():
    with open({log!r}, "a") as log:
        log.write("built\\n")
    made = pv.Sphere(theta_resolution={side}, phi_resolution={side})
    made.points *= 1 + 0.03 * np.sin(made.points[:, :1] * 40)
    return made
"""


def document(what: str) -> dict[str, Any]:
    """A shot in which one thing turns."""
    return {
        "title": "Still",
        "source": {"kind": "model", "file": "ball.py"},
        "clock": {"rate": "24", "frames": FRAMES},
        "camera": {"rig": {"kind": "orbit", "what": what, "turns": 1}},
        "picture": {"width": 480, "height": 270, "samples": 1, "background": "#2b2f33"},
    }


def main() -> None:
    """Count what is built, and print the ratio."""
    # The model counts how often it is built, in a file.
    os.environ[OFF] = "off"
    with folder() as place:
        log = place / "built.log"
        (place / "ball.py").write_text(MODEL.format(log=str(log), side=few(40, 300)))
        (place / "light.json").write_text(json.dumps(document("light")))
        vexel("capture", place / "light.json", "--to", place / "take")
        rows = json.loads((place / "take/take.json").read_text())["frames"]
        files = {Path(place / "take" / row["file"]).read_bytes() for row in rows}
        assert len(files) == FRAMES, "the light turns, so that no two frames are the same"
        built = len(log.read_text().split())
        assert built <= BUILDS, f"{built} times it is built, and so anew for frames that show the same subject"
        tell(f"{FRAMES} frames of a turning light", f"the subject is built {built} times", f"{BUILDS} times", True)

        took = {what: frame_seconds(document(what), place / "ball.py", FRAMES)[1:] for what in ("light", "camera")}
        light, camera = (float(np.median(took[what])) for what in ("light", "camera"))
        figure = f"{light * 1000:.0f} ms / {camera * 1000:.0f} ms = {light / camera:.2f}"
        tell("a frame of a turning light, against one of a turning camera", figure, "1.2 times", light <= 1.2 * camera)


if __name__ == "__main__":
    main()
