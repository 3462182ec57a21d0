"""(ac) Review's player at 1080p: steps, and playing at 24 fps; frames that are shown are read from their pixels."""

import json
from itertools import pairwise
from pathlib import Path
from typing import Any

from playwright.sync_api import Page
from tests.helpers import Server
from tests.numbered import CODE

from bench.browser import page_before, serving
from bench.common import few, folder, tell

FRAMES, SIZE = few(8, 96), few((160, 90), (1920, 1080))
STEPS, SECONDS = few(6, 200), few(0.5, 8.0)
STEP_MS = few(5000.0, 60.0)
SHADED = CODE.replace(
    "    return picture",
    """    y, x = np.mgrid[: high - high // 4, :wide] / high
    turn = float(instant.frame) / 6
    shade = np.stack([np.sin(7 * x + turn), np.cos(5 * y - turn), np.sin(4 * (x + y))], axis=-1)
    noise = np.random.default_rng(instant.frame).normal(0, 0.6, shade.shape)
    picture[high // 4 :] = np.clip(120 + 90 * shade + noise, 0, 255)
    return picture""",
)
"""Frames that are as hard to decode as rendered ones, with their number in squares above."""
LOOK = """() => {
  const canvas = document.querySelector('[data-testid=picture]'), ink = canvas.getContext('2d')
  let number = 0
  for (let bit = 0; bit < 10; bit++) {
    const at = [Math.round((bit + 0.5) * canvas.width / 10), Math.round(canvas.height / 8), 1, 1]
    if (ink.getImageData(...at).data[0] > 128) number += 2 ** bit
  }
  return number
}"""
STEPPED = """async (steps) => {
  const canvas = () => document.querySelector('[data-testid=picture]').dataset, took = []
  const last = LAST
  let at = Number(canvas().frame), way = 1
  for (let n = 0; n < steps; n++) {
    if (at + way < 0 || at + way > last) way = -way
    at += way
    const begun = performance.now()
    const key = way > 0 ? 'ArrowRight' : 'ArrowLeft'
    document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }))
    while (Number(canvas().frame) !== at || canvas().waiting !== undefined) await new Promise(requestAnimationFrame)
    took.push(performance.now() - begun)
    // A key that is held down comes thirty times a second.
    await new Promise((done) => setTimeout(done, 33))
  }
  return took.sort((a, b) => a - b)[Math.floor(0.95 * steps)]
}"""
PLAYED = """async (ms) => {
  const data = () => document.querySelector('[data-testid=picture]').dataset, begun = performance.now(), seen = []
  while (performance.now() - begun < ms) {
    const now = Number(data().frame)
    if (now !== seen.at(-1)) seen.push(now)
    await new Promise(requestAnimationFrame)
  }
  return { seen, ms: performance.now() - begun }
}"""


def captured(server: Server, home: Path) -> int:
    """A take of numbered frames."""
    (home / "shots/numbered.py").write_text(SHADED)
    picture = {"width": SIZE[0], "height": SIZE[1], "samples": 1}
    source = {"kind": "sketch", "file": "numbered.py"}
    document = {"title": "Numbered", "source": source, "clock": {"rate": "24", "frames": FRAMES}, "picture": picture}
    (home / "shots/numbered.json").write_text(json.dumps(document))
    run: dict[str, Any] = server.ask("/api/shots/numbered/runs", {})[1]
    server.wait_for_run(run["id"], lambda r: r["state"] == "done", seconds=600)
    return int(run["id"])


def at_rest(page: Page) -> None:
    """Wait until the first picture is there, and its neighbours."""
    picture = page.get_by_test_id("picture")
    picture.wait_for()
    while picture.get_attribute("data-frame") is None:
        page.wait_for_timeout(50)
    page.wait_for_timeout(few(200, 3000))


def main() -> None:
    """Steps first, then two loops."""
    with folder() as place:
        home = place / "home"
        (home / "shots").mkdir(parents=True)
        with serving(home) as server, page_before(server) as page:
            take = captured(server, home)
            page.goto(f"{server.base}/review/take/{take}")
            at_rest(page)
            took = page.evaluate(STEPPED.replace("LAST", str(FRAMES - 1)), STEPS)
            shown = int(page.get_by_test_id("picture").get_attribute("data-frame") or -1)
            assert page.evaluate(LOOK) == shown, "another frame is shown than was asked for"
            page.get_by_role("button", name="Play", exact=True).click()
            # The first loop decodes what comes after it from memory.
            page.wait_for_timeout(1000 * FRAMES / 24 + few(500, 4000))
            played = page.evaluate(PLAYED, 1000 * SECONDS)
            rate = page.get_by_test_id("rate").inner_text()
            page.get_by_role("button", name="Stop", exact=True).click()
    seen = played["seen"]
    gaps = [(b - a) % FRAMES for a, b in pairwise(seen)]
    dropped = sum(gap - 1 for gap in gaps)
    wanted = 24 * played["ms"] / 1000
    assert seen and dropped >= 0
    size = f"{SIZE[0]} × {SIZE[1]}"
    tell(f"95 % of {STEPS} steps at {size}", f"under {took:.1f} ms", f"{STEP_MS:g} ms", took <= STEP_MS)
    figure = f"{len(seen)} of {wanted:.0f} frames, {dropped} left out ({rate})"
    tell(f"playing {size} at 24 fps after a loop", figure, "all", dropped == 0 and len(seen) >= 0.98 * wanted)


if __name__ == "__main__":
    main()
