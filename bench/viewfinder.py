"""(b) Viewfinder round trip while the camera is dragged, against a bare render and JPEG of the same scene.

The round trip goes from asking to a decoded picture in the browser. The bare
side is a plotter in this process: render, read back, encode as JPEG. They take
turns of some views, since the machine's speed drifts by half within minutes.
"""

import time
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from playwright.sync_api import Page
from tests.helpers import Server

from bench.browser import page_before, serving
from bench.common import difference, few, folder, object_shot, tell
from bench.plain_scene import PlainScene
from vexel.stage.encode import jpeg_bytes

WIDTH, HEIGHT = 960, 540
STEP_DEG = 1.7
VIEWS, TURN = few(4, 120), few(2, 12)
STYLES: dict[str, dict[str, Any]] = {
    **{
        style: {"picture": {"passes": [style]}}
        for style in few(("wire",), ("edges", "wire", "hidden-line", "clay", "depth", "normal", "matte"))
    },
    "shaded, shadow on a ground": {"picture": {"ground": True}, "light": {"shadow": 1, "stands": "world"}},
}
"""Every style but shaded, which is held against the bare render, and occlusion, which looks all round."""
RATIO, SECONDS = 1.5, 0.12

LOOP = """async ([id, degrees, more]) => {
  const took = [];
  for (const start_deg of degrees) {
    const patch = { ...more, camera: { rig: { start_deg } } };
    const begun = performance.now();
    const answer = await fetch(`/api/shots/${id}/view`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({ frame: 0, quick: true, width: 960, height: 540, patch }),
    });
    const data = await answer.blob();
    (await createImageBitmap(data)).close();
    took.push(performance.now() - begun);
  }
  return took;
}"""


class Bare:
    """The plain side."""

    def __init__(self, mesh_file: Path) -> None:
        self._scene = PlainScene(mesh_file, WIDTH, HEIGHT)

    def data(self, around_deg: float) -> bytes:
        """A view as JPEG."""
        seen = self._scene.look(around_deg)
        return jpeg_bytes(np.dstack([seen, np.full(seen.shape[:2], 255, np.uint8)]))

    def took(self, degrees: list[float]) -> list[float]:
        """Milliseconds of each view."""
        taken = []
        for around in degrees:
            begun = time.perf_counter()
            self.data(around)
            taken.append(1000 * (time.perf_counter() - begun))
        return taken


def main() -> None:
    """Drag through the views, and print medians, 95th percentiles and their ratio."""
    with folder() as place:
        shots = place / "home/shots"
        shots.mkdir(parents=True)
        object_shot(shots, 48)
        with serving(place / "home") as server, page_before(server) as page:
            page.goto(server.base + "/api/shots")
            against_bare(page, server, Bare(shots / "ball.ply"), place)
            for style, more in STYLES.items():
                asked(page, degrees(few(1, 5)), more)
                told(f"round trip, {style}", asked(page, degrees(VIEWS // 2), more))


def against_bare(page: Page, server: Server, bare: Bare, place: Path) -> None:
    """Shaded, both ways in turn, once both have shown the same."""
    body = {
        "frame": 0, "quick": True, "width": WIDTH, "height": HEIGHT,
        "patch": {"camera": {"rig": {"start_deg": 40 * STEP_DEG}}},
    }  # fmt: skip
    (place / "ours.jpg").write_bytes(server.ask("/api/shots/ball/view", body)[1])
    (place / "bare.jpg").write_bytes(bare.data(40 * STEP_DEG))
    differ = difference([(place / "ours.jpg", place / "bare.jpg")], 0.5)
    asked(page, degrees(few(1, 5)), {})
    bare.took(degrees(few(1, 5)))
    views = degrees(VIEWS)
    turns = [views[first : first + TURN] for first in range(0, VIEWS, TURN)]
    pairs = [(asked(page, turn, {}), bare.took(turn)) for turn in turns]
    ours, plain = (np.concatenate(side) for side in zip(*pairs, strict=True))
    told("round trip, shaded", ours)
    late, bare_late = np.percentile(ours, 95), np.percentile(plain, 95)
    middle = np.median(ours) / np.median(plain)
    figure = (
        f"95th percentile {late:.0f} ms / {bare_late:.0f} ms = {late / bare_late:.2f}, medians {middle:.2f}, "
        f"pictures differ by {differ:.2f} of 255"
    )
    what = "viewfinder's round trip against a bare render and JPEG of the same scene"
    tell(what, figure, f"{RATIO} times", bool(late <= RATIO * bare_late))


def degrees(count: int) -> list[float]:
    """Where a drag comes by."""
    return [n * STEP_DEG for n in range(count)]


def asked(page: Page, views: list[float], more: dict[str, Any]) -> list[float]:
    """Milliseconds of each round trip in the browser."""
    took: list[float] = page.evaluate(LOOP, ["ball", views, more])
    return took


def told(what: str, took: list[float] | NDArray[np.float64]) -> None:
    """One line of seconds."""
    middle, late = np.percentile(took, [50, 95])
    figure = f"median {middle:.0f} ms, 95th percentile {late:.0f} ms"
    line = f"viewfinder, 179,000 triangles, {WIDTH}×{HEIGHT}, {what}"
    tell(line, figure, f"{SECONDS * 1000:.0f} ms", bool(late <= SECONDS * 1000))


if __name__ == "__main__":
    main()
