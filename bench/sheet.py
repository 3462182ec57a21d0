"""(ab) A contact sheet of 200 variants, scrolled, against a plain page of as many pictures; a run of 20,000 frames."""

import base64
import json
import time
from pathlib import Path
from typing import Any

import numpy as np
from playwright.sync_api import Page
from tests.helpers import Server

from bench import resume
from bench.browser import page_before, serving
from bench.common import few, folder, mesh, tell
from vexel.core.document.shot import read_shot
from vexel.demo import lay_out
from vexel.imaging.image_bytes import encoded_png
from vexel.store.project import Project
from vexel.workers.bounds.limits import capture_limits
from vexel.workers.planner import NothingKept, OpenGate, Planner
from vexel.workers.stage_process import StageProcess

ACROSS, DOWN, STEPS = few(3, 20), few(2, 10), few(5, 180)
RATIO, FIRST_SECONDS = few(99.0, 1.1), few(99.0, 0.4)
SCROLL = """async (steps) => {
  const main = document.querySelector('main'), took = []
  main.scrollTop = 0
  await new Promise((done) => setTimeout(done, 500))
  let last = performance.now()
  for (let n = 0; n < steps; n++) {
    main.scrollTop += 20
    await new Promise(requestAnimationFrame)
    const now = performance.now()
    took.push(now - last)
    last = now
  }
  return took.sort((a, b) => a - b)[Math.floor(steps / 2)]
}"""


def plain_page() -> str:
    """As many pictures, without a program."""
    picture = np.random.default_rng(1).integers(0, 255, (135, 240, 3), dtype=np.uint8)
    data = base64.b64encode(encoded_png(picture)).decode()
    cell = f"<div><img width=240 height=135 src='data:image/png;base64,{data}'><p>a name</p></div>"
    grid = "display:grid;grid-template-columns:repeat(auto-fill,minmax(240px,1fr));gap:12px"
    return f"<body style='margin:0'><main style='height:800px;overflow:auto;{grid}'>{cell * (ACROSS * DOWN)}</main>"


def scrolled(server: Server, page: Page) -> tuple[float, float]:
    """Milliseconds a frame of the contact sheet, once its pictures are there, and of the plain page."""
    axes = [{"over": "light:azimuth", "first": -180, "last": 170, "steps": DOWN}]
    axes += [{"over": "light:elevation", "first": -10, "last": 80, "steps": ACROSS}]
    patch = {"patch": {"sweep": {"axes": axes}}, "what": "the variants"}
    assert server.ask("/api/shots/mooring-buoy", patch, "PATCH")[0] == 200
    page.goto(f"{server.base}/shots/mooring-buoy/variants")
    cells = page.get_by_test_id("variant")
    cells.first.locator("img").wait_for(timeout=120_000)
    cells.nth(ACROSS * DOWN - 1).wait_for(state="attached", timeout=120_000)
    assert cells.count() == ACROSS * DOWN
    for _ in range(few(1, 60)):
        page.evaluate("document.querySelector('main').scrollTop += 120")
        page.wait_for_timeout(few(100, 900))
    own = page.evaluate(SCROLL, STEPS)
    page.goto("about:blank")
    page.set_content(plain_page())
    page.wait_for_timeout(1000)
    return own, page.evaluate(SCROLL, STEPS)


def long_run(home: Path) -> int:
    """A run of very many frames, whose files are there."""
    (home / "sources").mkdir(parents=True, exist_ok=True)
    mesh().save(home / "sources/ball.ply")
    source: dict[str, Any] = {"kind": "object", "file": "../sources/ball.ply"}
    document = {"title": "Long", "source": source, "clock": {"rate": "24", "frames": resume.FRAMES}}
    shot = read_shot(json.dumps(document | {"picture": {"width": 96, "height": 64, "samples": 1}}))
    stage = StageProcess(capture_limits())
    prepared = Planner(home / "copies", stage, NothingKept(), OpenGate()).prepare(shot, home / "shots")
    stage.end()
    project = Project(home)
    run = project.ledger.begin("long", shot.model_dump(mode="json"), range(resume.FRAMES))
    resume.laid(project.ledger.take(run), prepared)
    project.ledger.set(run, state="stopped")
    return run


def opened(server: Server, page: Page, run: int) -> float:
    """Seconds from the press to the frames of a run, at the second time."""
    for _ in range(2):
        page.goto(f"{server.base}/runs")
        link = page.locator(f"a[href='/runs/{run}']").first
        link.wait_for()
        page.wait_for_timeout(2000)
        begun = time.perf_counter()
        link.click()
        page.get_by_text("waiting", exact=True).first.wait_for()
        seconds = time.perf_counter() - begun
    return seconds


def main() -> None:
    """Both pages."""
    with folder() as place:
        home = place / "home"
        lay_out(home)
        run = long_run(home)
        with serving(home) as server, page_before(server) as page:
            seconds = opened(server, page, run)
            own, plain = scrolled(server, page)
        figure = f"{own:.1f} ms a frame, {own / plain:.2f} of a plain page's"
        tell(f"contact sheet of {ACROSS * DOWN} variants, scrolled", figure, f"{RATIO:g}", own <= RATIO * plain)
        tell(f"page of {resume.FRAMES:,} frames", f"{seconds:.2f} s", f"{FIRST_SECONDS:g} s", seconds <= FIRST_SECONDS)


if __name__ == "__main__":
    main()
