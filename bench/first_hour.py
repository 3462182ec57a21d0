"""(l) One's own mesh to a downloaded MP4 in the browser, and the sheet of a lane with 200 keys."""

import time
from pathlib import Path

import av
import trimesh
from playwright.sync_api import Page
from tests.helpers import Server

from bench.browser import page_before, serving
from bench.common import drawn, few, folder, mesh, tell

FRAMES = few(6, 144)
OPENED = """() => new Promise((resolve) => {
  const begun = performance.now();
  const look = () => document.querySelector('[data-testid=sheet] input')
    ? requestAnimationFrame(() => resolve(performance.now() - begun)) : setTimeout(look);
  document.querySelector('[data-topic=lanes]').click();
  look();
})"""


def main() -> None:
    """Bring a mesh, drag, capture it as a draft, download; then open the lanes."""
    with folder() as place:
        ball = mesh()
        trimesh.Trimesh(ball.points, ball.regular_faces).export(place / "ball.obj")
        (place / "home/shots").mkdir(parents=True)
        with serving(place / "home") as server, page_before(server) as page:
            seconds, file = to_file(page, server, place)
            with av.open(str(file)) as video:
                counts = [drawn(frame.to_ndarray(format="rgb24").astype(float)) for frame in video.decode(video=0)]
            assert counts == [True] * FRAMES, f"{len(counts)} frames in the file, {counts.count(False)} of them empty"
            what = f"own mesh of 179,000 triangles to a downloaded MP4 of {FRAMES} draft frames, in the browser"
            tell(what, f"{seconds:.1f} s", "60 s", seconds <= 60)
            opened = min(lanes_opened(page, server) for _ in range(few(1, 3)))
            tell("sheet of a lane with 200 keys", f"{opened:.0f} ms", "300 ms", opened <= 300)


def to_file(page: Page, server: Server, place: Path) -> tuple[float, Path]:
    """Seconds from the shot list to the file, and the file."""
    begun = time.perf_counter()
    page.goto(server.base)
    page.get_by_role("button", name="New shot").click()
    page.get_by_test_id("upload").set_input_files(place / "ball.obj")
    page.get_by_test_id("viewfinder").locator("img").wait_for(timeout=60_000)
    box = page.get_by_test_id("viewfinder").bounding_box()
    assert box is not None
    middle = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0] + 80, middle[1] + 20, steps=5)
    page.mouse.up()
    page.get_by_label("Frames, follows").fill(str(FRAMES))
    page.keyboard.press("Enter")
    page.get_by_label("Frames only, draft or proof").click()
    page.get_by_role("button", name="Draft, make the MP4").click()
    link = page.get_by_test_id("ready-file").get_by_role("link", name="Download")
    link.wait_for(timeout=300_000)
    with page.expect_download() as got:
        link.click()
    path = got.value.path()
    return time.perf_counter() - begun, path


def lanes_opened(page: Page, server: Server) -> float:
    """Milliseconds from the press to the sheet."""
    lane = {"drive": "light:azimuth", "keys": [[n / 199, n % 7] for n in range(200)]}
    server.ask("/api/shots/ball-once-round", {"patch": {"lanes": [lane]}}, "PATCH")
    page.goto(f"{server.base}/shots/ball-once-round")
    page.get_by_test_id("viewfinder").locator("img").wait_for(timeout=60_000)
    page.get_by_test_id("cost").get_by_text("to capture").wait_for(timeout=60_000)
    return float(page.evaluate(OPENED))


if __name__ == "__main__":
    main()
