"""(f) Capture of pages, 300 frames at 1280 × 720, against a plain screenshot loop.

An SVG page with CSS animation and a canvas page. The plain loop is what one
writes by hand with Playwright: set the page's time, take a screenshot to a
file, one frame after the other, in one browser.
"""

import json
import sys
from pathlib import Path

from playwright.sync_api import sync_playwright

from bench.common import difference, ends, few, folder, plain, ratio_of, tell, timed, vexel

FRAMES, RATE = few(4, 300), 30
ROUNDS = few(1, 3)
MOST = 0.5
"""By so many codes of 255 the pictures may differ: the browsers smooth edges alike, but not at the same thousandth."""
CIRCLES = "".join(
    f'<circle cx="{60 + 29 * k % 800}" cy="{30 + 67 * k % 660}" r="{6 + k % 17}" fill="hsl({k * 11} 60% 60%)"/>'
    for k in range(40)
)
SVG = """<!doctype html><style>body{margin:0;background:#10202a}svg{width:100vw;height:100vh}
circle{animation:m 4s ease-in-out infinite alternate}
@keyframes m{from{transform:translateX(0)}to{transform:translateX(400px)}}</style>
<svg viewBox="0 0 1280 720">CIRCLES</svg><script>
window.plainTime = ms => document.getAnimations().forEach(a => { a.pause(); a.currentTime = ms })
</script>""".replace("CIRCLES", CIRCLES)
CANVAS = """<!doctype html><style>body{margin:0}</style><canvas id=c width=1280 height=720></canvas><script>
const g = c.getContext('2d');
function draw(ms) { g.fillStyle = '#10202a'; g.fillRect(0, 0, 1280, 720);
  for (let k = 0; k < 300; k++) { g.fillStyle = `hsl(${k * 7} 60% 60%)`; g.beginPath();
    g.arc(640 + 500 * Math.sin(k + ms / 900), 360 + 300 * Math.cos(k * 1.7 + ms / 700), 9, 0, 7); g.fill() } }
// By hand the page is drawn at the times that it is told, and not by itself as well.
if (!location.hash) requestAnimationFrame(function f(t) { draw(t); requestAnimationFrame(f) });
window.plainTime = draw;</script>"""


def by_hand(page: str, out: str) -> None:
    """The plain loop."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        tab = browser.new_page(viewport={"width": 1280, "height": 720})
        tab.goto(f"file://{page}#by-hand")
        for frame in range(FRAMES):
            tab.evaluate("ms => plainTime(ms)", frame * 1000 / RATE)
            tab.screenshot(path=Path(out) / f"{frame:04d}.png", timeout=120_000)
        browser.close()


def main() -> None:
    """Time both pages both ways and print the ratios."""
    for name, html in (("SVG", SVG), ("canvas", CANVAS)):
        with folder() as place:
            (place / "page.html").write_text(html)
            (place / "plain").mkdir()
            document = {
                "title": "Page",
                "source": {"kind": "page", "file": "page.html"},
                "clock": {"rate": str(RATE), "frames": FRAMES},
                "picture": {"width": 1280, "height": 720, "samples": 1},
            }
            (place / "page.json").write_text(json.dumps(document))
            times = [
                (
                    timed(*plain("page_capture", place / "page.html", place / "plain")),
                    vexel("capture", place / "page.json", "--to", place / "take", "--fresh"),
                )
                for _ in range(ROUNDS)
            ]
            theirs, ours, ratio = ratio_of(times)
            pairs = [(place / f"plain/{n:04d}.png", place / f"take/page.shaded.{n:04d}.png") for n in ends(FRAMES)]
            differ = difference(pairs, MOST)
            figure = (
                f"{theirs:.1f} s / {ours:.1f} s = {ratio:.2f} times as fast, pictures differ by {differ:.2f} of 255"
            )
            tell(f"page, {name}, {FRAMES} frames 1280×720, against a screenshot loop", figure, "2.5", ratio >= 2.5)


if __name__ == "__main__":
    by_hand(*sys.argv[2:]) if sys.argv[1:2] == ["plain"] else main()
