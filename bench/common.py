"""What the measuring scripts share."""

import compileall
import json
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import TypeVar

import cv2
import numpy as np
import pyvista as pv
from numpy.typing import NDArray

T = TypeVar("T")

FEW = bool(os.environ.get("VEXEL_BENCH_FEW"))
"""Whether only that the scripts run and both sides make the right thing is looked at, with a few frames."""
ROOT = Path(__file__).parents[1]


def few(little: T, much: T) -> T:
    """A size for a quick look, and for measuring."""
    return little if FEW else much


SIDE = few(120, 300)
"""A sphere of this resolution has about 179,000 triangles."""


@contextmanager
def folder() -> Iterator[Path]:
    """A folder that is gone afterwards, though opening a source made it the current one."""
    here = Path.cwd()
    with tempfile.TemporaryDirectory(prefix="vexel-bench-") as place:
        try:
            yield Path(place)
        finally:
            os.chdir(here)


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
    """Seconds of a whole process; what it says is passed on where it fails."""
    begun = time.perf_counter()
    done = subprocess.run(
        [str(c) for c in command], capture_output=True, text=True, env=os.environ | environment, cwd=ROOT, check=False
    )
    if done.returncode:
        raise SystemExit(f"{' '.join(map(str, command))} failed:\n{done.stderr}{done.stdout}")
    return time.perf_counter() - begun


def vexel(*arguments: object) -> float:
    """Seconds of the command line as a process; for a quick look it runs in this one, which has all loaded."""
    if not FEW:
        # As at installation; where Python is told to keep no byte code, every start would compile all modules anew.
        compileall.compile_dir(ROOT / "src", quiet=1)
        return timed(sys.executable, "-m", "vexel", *arguments)
    from tests.helpers import vexel as in_process

    done = in_process(*arguments)
    assert done.returncode == 0, done.stderr
    return 1.0


def plain(script: str, *arguments: object) -> list[object]:
    """The other side of a script, as a process."""
    return [sys.executable, "-m", f"bench.{script}", "plain", *arguments]


def picture(file: Path) -> NDArray[np.float64]:
    """RGB of a picture, in codes of 255."""
    read = cv2.imread(str(file), cv2.IMREAD_COLOR_RGB)
    assert read is not None, f"{file.name} is not a picture"
    codes: NDArray[np.float64] = read.astype(np.float64)
    return codes


def drawn(codes: NDArray[np.float64]) -> bool:
    """Whether there is anything to see: an empty picture has one colour."""
    return float(codes.std()) > 2


def difference(pairs: Sequence[tuple[Path, Path]], most: float) -> float:
    """Mean difference of pictures that both sides made, in codes of 255.

    Raises
    ------
    AssertionError
        When one is empty, or they differ by more than `most`: then a ratio of their times says nothing.
    """
    found = []
    for one, other in pairs:
        a, b = picture(one), picture(other)
        assert a.shape == b.shape, f"{one.name} is {a.shape}, {other.name} is {b.shape}"
        assert drawn(a) and drawn(b), f"{one.name} or {other.name} is empty"
        found.append(float(np.abs(a - b).mean()))
    assert max(found) <= most, f"the two sides made other pictures: they differ by {max(found):.2f} of 255"
    return float(np.mean(found))


def ratio_of(times: Sequence[tuple[float, float]]) -> tuple[float, float, float]:
    """Seconds of both sides and their ratio, of the round in the middle: each round is of one time of the machine."""
    by_ratio = sorted(times, key=lambda pair: pair[0] / pair[1])
    theirs, ours = by_ratio[len(times) // 2]
    return theirs, ours, theirs / ours


def ends(count: int) -> tuple[int, int, int]:
    """First, middle and last of so many frames."""
    return 0, count // 2, count - 1


def tell(what: str, figure: str, budget: str, holds: bool) -> None:
    """Print one line of figures; those of a quick look are held against no budget."""
    said = "not judged by a few frames" if FEW else "holds" if holds else "MISSED"
    print(f"{what}: {figure} (budget {budget}) {said}", flush=True)
