"""What the measuring scripts share."""

import json
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
import pyvista as pv

SIDE = 300
"""A sphere of this resolution has about 179,000 triangles."""


@contextmanager
def folder() -> Iterator[Path]:
    """A folder that is gone afterwards."""
    with tempfile.TemporaryDirectory(prefix="vexel-bench-") as place:
        yield Path(place)


def mesh() -> pv.PolyData:
    """A bumpy ball of about 179,000 triangles."""
    ball = pv.Sphere(theta_resolution=SIDE, phi_resolution=SIDE)
    ball.points *= 1 + 0.03 * np.sin(ball.points[:, :1] * 40)
    ball.clear_data()
    return ball


def object_shot(place: Path, frames: int, **picture: int) -> Path:
    """A shot that turns once round the ball."""
    mesh().save(place / "ball.ply")
    document = {
        "title": "Ball",
        "source": {"kind": "object", "file": "ball.ply"},
        "clock": {"rate": "24", "frames": frames},
        "picture": {"width": 1920, "height": 1080, "samples": 4, "background": "#2b2f33"} | picture,
    }
    file = place / "ball.json"
    file.write_text(json.dumps(document))
    return file


def timed(*command: object, **environment: str) -> float:
    """Seconds of a whole process."""
    begun = time.perf_counter()
    subprocess.run([str(c) for c in command], check=True, capture_output=True, env=os.environ | environment)
    return time.perf_counter() - begun


def vexel(*arguments: object) -> list[object]:
    """The command line as a process."""
    return [sys.executable, "-m", "vexel.cli", *arguments]


def tell(what: str, figure: str, budget: str, holds: bool) -> None:
    """Print one line of figures."""
    print(f"{what}: {figure} (budget {budget}) {'holds' if holds else 'MISSED'}", flush=True)
