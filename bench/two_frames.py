"""(x) A capture of two frames of a large mesh, starting included: with one worker, against two.

Most of it is starting: imports, the fork server, reading the mesh. Two workers read it twice. The outermost points of
the mesh, which every plan needs, are measured against its convex hull.
"""

import time

import numpy as np
import pyvista as pv
from scipy.spatial import ConvexHull

from bench.common import difference, few, folder, object_shot, tell, vexel
from vexel.stage.subject_bounds import _outermost

WIDTH, HEIGHT = few((320, 180), (1920, 1080))
ROUNDS = few(1, 3)
SECONDS = 2.5
"""Of the default, on a quiet machine."""


def main() -> None:
    """Capture in turn, compare the pictures, print the medians."""
    with folder() as place:
        shot = object_shot(place, 2, width=WIDTH, height=HEIGHT)
        taken: dict[str, list[float]] = {"default": [], "two": []}
        for _ in range(ROUNDS):
            taken["default"].append(vexel("capture", shot, "--to", place / "default", "--fresh"))
            taken["two"].append(vexel("capture", shot, "--to", place / "two", "--fresh", "--workers", "2"))
        names = [f"ball.shaded.{n:04d}.png" for n in range(2)]
        differ = difference([(place / "default" / name, place / "two" / name) for name in names], 0.0)
        one, two = (float(np.median(taken[way])) for way in ("default", "two"))
        figure = f"{one:.1f} s / {two:.1f} s = {one / two:.2f}, pictures differ by {differ:.2f} of 255"
        tell(f"capture of two frames {HEIGHT}p of a mesh, by default against two workers", figure, f"{SECONDS} s",
             one <= SECONDS)  # fmt: skip
        points = np.asarray(pv.read(place / "ball.ply").points, dtype=np.float64)
    begun = time.perf_counter()
    kept = _outermost(points)
    quick = time.perf_counter() - begun
    begun = time.perf_counter()
    corners = ConvexHull(points).vertices
    whole = time.perf_counter() - begun
    assert set(kept) <= set(corners), "an outermost point is no corner of the hull"
    tell(
        "its outermost points, against its convex hull",
        f"{whole:.2f} s / {quick:.2f} s = {whole / quick:.1f} times",
        "none",
        True,
    )


if __name__ == "__main__":
    main()
