"""Makes the pictures of docs/screenshots from the demo project, with a short capture for the run and the player.

A picture is kept only when its view has changed, with few colours and at most 60 kB: the history keeps every version.
"""

import io
import re
import shutil
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PIL import Image
from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))
from tests.helpers import Server
from tests.screens.base import CHROMIUM, FLAGS

SHOTS = ROOT / "docs/screenshots"
MOST_BYTES = 60_000
CHANGED = 3.0
"""Mean difference of codes in one of 16 × 10 parts of a picture, from which on its view has changed."""


def keep_picture(data: bytes, name: str) -> None:
    """Write a screenshot small, unless the one that is there shows the same."""
    picture = Image.open(io.BytesIO(data)).convert("RGB")
    file = SHOTS / f"{name}.png"
    for colours in (192, 128, 96, 64, 48, 32, 24, 16):
        few = picture.quantize(colours, Image.Quantize.MEDIANCUT, dither=Image.Dither.NONE)
        packed = io.BytesIO()
        few.save(packed, "PNG", optimize=True)
        if packed.tell() <= MOST_BYTES:
            break
    if file.is_file() and file.stat().st_size <= MOST_BYTES:
        before, now = (np.asarray(one.convert("RGB"), float) for one in (Image.open(file), few))
        if before.shape == now.shape:
            parts = np.abs(before - now).mean(axis=2).reshape(10, now.shape[0] // 10, 16, now.shape[1] // 16)
            if parts.mean(axis=(1, 3)).max() < CHANGED:
                return
    file.write_bytes(packed.getvalue())


def reel(server, page, run):
    """A title, two turns that fade into each other, and both at once."""
    turn = {"kind": "take", "take": f"run:{run}"}
    fade = {"kind": "cross-dissolve", "frames": 12}
    both = {
        "kind": "layout", "arrangement": "row", "name": "Side by side",
        "cells": [{"item": turn, "margin": 0.03}, {"item": turn | {"order": "backward"}, "margin": 0.03}],
    }  # fmt: skip
    items = [
        {"kind": "title", "text": "Tern Point\nthe mooring buoy", "seconds": 3, "transition": fade},
        turn | {"name": "Once round", "transition": fade},
        turn | {"name": "And back", "order": "backward", "transition": {"kind": "wipe", "frames": 24}},
        both,
    ]
    _, made = server.ask("/api/reels", {"title": "The buoy in the hall", "runs": [run]})
    server.ask(f"/api/reels/{made['id']}", {"patch": {"items": items}, "what": "the items"}, "PATCH")
    page.goto(f"{server.base}/reels/{made['id']}")
    page.locator('[aria-label^="Transition from Once round"]').click()
    page.wait_for_function("() => document.querySelector('[data-testid=reel-picture]')?.naturalWidth > 0")
    page.wait_for_timeout(1500)


def main() -> None:
    """Walk through the pages and keep a picture of each."""
    with tempfile.TemporaryDirectory() as place, sync_playwright() as playwright:
        browser = playwright.chromium.launch_persistent_context(
            f"{place}/profile", executable_path=CHROMIUM, args=FLAGS, viewport={"width": 1280, "height": 800}
        )
        home, copy = Path(place) / "home", Path(place) / "elsewhere/home"
        try:
            for folder, command, visit in ((home, "demo", walk), (copy, "serve", look_at_code)):
                if folder == copy:
                    shutil.copytree(home, copy)
                server = Server(None, folder, command)
                (cookie,) = server.cookies
                browser.add_cookies([{"name": cookie.name, "value": cookie.value, "url": server.base}])
                try:
                    visit(browser.pages[0], server)
                finally:
                    server.end()
        finally:
            browser.close()


def look_at_code(page: Page, server: Server) -> None:
    """A copy of the project counts as a received one."""
    page.goto(server.base)
    page.get_by_role("button", name="Review the code").click()
    page.get_by_role("dialog").locator("summary").first.click()
    page.wait_for_timeout(1500)
    keep_picture(page.screenshot(), "consent")


def walk(page: Page, server: Server) -> None:
    """Visit each page."""

    def keep(name: str) -> None:
        if "/shots/" in page.url:
            page.get_by_test_id("viewfinder").locator("img, canvas").first.wait_for(timeout=60_000)
        page.wait_for_timeout(1500)
        keep_picture(page.screenshot(), name)

    patch = {"clock": {"seconds": 2}}
    server.ask("/api/shots/mooring-buoy", {"patch": patch, "what": "the length"}, "PATCH")
    _, run = server.ask("/api/shots/mooring-buoy/runs", {})
    server.wait_for_run(run["id"], lambda r: r["state"] == "done", 300)
    light = {"light": {"azimuth_deg": 60, "strength": 1.3}}
    server.ask("/api/shots/mooring-buoy", {"patch": light, "what": "the light"}, "PATCH")
    _, other = server.ask("/api/shots/mooring-buoy/runs", {})
    server.wait_for_run(other["id"], lambda r: r["state"] == "done", 300)
    server.ask("/api/shots/mooring-buoy/undo", {})
    server.ask("/api/shots/mooring-buoy/undo", {})
    review(page, server, run["id"], other["id"])
    _, output = server.ask(f"/api/runs/{run['id']}/outputs", {"recipe": "h264"})
    while server.ask(f"/api/outputs/{output['id']}")[1]["state"] != "done":
        page.wait_for_timeout(300)

    page.goto(f"{server.base}/files/{output['id']}")
    keep("player")
    reel(server, page, run["id"])
    keep("reel")
    page.goto(f"{server.base}/dispatch?run={run['id']}")
    page.get_by_role("button", name="Settings of gif-640").click()
    page.get_by_alt_text("The frame as the file shows it").wait_for(timeout=60_000)
    for name in ("h264", "gif-640"):
        page.get_by_label(f"Make {name}", exact=True).check()
    page.get_by_role("heading", name="Dispatch").scroll_into_view_if_needed()
    keep("dispatch")
    page.goto(f"{server.base}/shots/shell-growth")
    page.get_by_text("to capture").wait_for()
    page.get_by_test_id("strip").click(position={"x": 470, "y": 40})
    page.wait_for_timeout(4000)
    keep("bench")
    page.get_by_role("button", name="Dark theme").click()
    page.locator("[data-topic=lanes]").click()
    keep("bench-dark")
    page.get_by_role("button", name="Light theme").click()
    rise = {"drive": "rig:elevation", "keys": [[0, 12], [0.4, 30], [0.6, 30], [1, 12]], "ease": "ease-in-out"}
    light = {"drive": "light:azimuth", "keys": [[0, -60, "smooth"], [0.3, 40, "smooth"], [1, -60]]}
    label = {"text": "{whorls:.2f} whorls · {timecode}", "at": [0.03, 0.94]}
    lanes = [{"drive": "dial:whorls", "keys": [[0, 4.25], [0.5, 5.5], [1, 4.25]], "ease": "ease-in-out"}, rise, light]
    patch = {"lanes": lanes, "labels": [label]}
    server.ask("/api/shots/shell-growth", {"patch": patch, "what": "the lanes"}, "PATCH")
    page.goto(f"{server.base}/shots/shell-growth")
    page.get_by_text("to capture").wait_for()
    page.keyboard.press("l")
    page.get_by_test_id("strip").click(position={"x": 470, "y": 8})
    page.locator('[data-drive="rig:elevation"][data-key="0"]').focus()
    page.keyboard.press("Enter")
    page.wait_for_timeout(4000)
    keep("lanes")
    server.ask("/api/shots/shell-growth/undo", {})
    page.goto(f"{server.base}/shots/tide-week")
    page.get_by_text("to capture").wait_for()
    page.get_by_test_id("strip").click(position={"x": 700, "y": 40})
    page.locator("[data-topic=source]").first.click()
    page.get_by_role("button", name="Edit the code").click()
    page.get_by_test_id("editor").wait_for()
    page.wait_for_timeout(2500)
    keep("editor")
    page.goto(f"{server.base}/guides/findings")
    page.get_by_test_id("guide").get_by_role("heading", name="Choppy").wait_for()
    keep("guides")
    page.goto(f"{server.base}/shots/shell-growth")
    page.get_by_test_id("capture").click()
    page.get_by_text(re.compile(r"^[1-9]\d of")).first.wait_for(timeout=120_000)
    keep("run")
    page.get_by_role("button", name="Stop").click()
    page.goto(server.base)
    page.wait_for_timeout(20_000)
    keep("shots")
    page.get_by_role("button", name="New shot").click()
    keep("new-shot")
    page.goto(f"{server.base}/shots/buoy-walk")
    page.get_by_text("to capture").wait_for()
    page.get_by_role("button", name="Plan and elevation").click()
    page.locator("[data-topic=camera]").first.click()
    page.get_by_test_id("strip").click(position={"x": 430, "y": 40})
    page.wait_for_timeout(4000)
    keep("walk")
    page.goto(f"{server.base}/shots/shell-cameras")
    page.get_by_text("to capture").wait_for()
    page.get_by_label("Look through").select_option("2")
    page.locator("[data-topic=picture]").first.click()
    page.get_by_test_id("strip").click(position={"x": 900, "y": 40})
    page.wait_for_timeout(3000)
    keep("cameras")
    page.get_by_role("button", name="Plan and elevation").click()
    variants(page, server, keep)


def review(page: Page, server: Server, one: int, other: int) -> None:
    """A take with its curve and a note, and against one of another light."""
    mark = {"shape": "box", "x": 0.4, "y": 0.12, "to_x": 0.58, "to_y": 0.42}
    note = {"first": 12, "last": 12, "text": "Is the lantern lit at noon?", "author": "Wall screens", "mark": mark}
    server.ask(f"/api/reviews/take/{one}/notes", note)
    page.goto(f"{server.base}/review/take/{one}")
    page.get_by_test_id("range").wait_for()
    page.get_by_role("tab", name="Notes (1)").click()
    page.get_by_role("button", name="frame 12", exact=True).click()
    page.get_by_test_id("well").hover()
    page.wait_for_timeout(2500)
    keep_picture(page.screenshot(), "review")
    page.goto(f"{server.base}/review/take/{one}?with=take/{other}/0")
    page.get_by_test_id("second-picture").wait_for()
    page.get_by_role("tab", name="Settings").click()
    page.get_by_label("Frame", exact=True).fill("20")
    page.get_by_label("Frame", exact=True).press("Enter")
    page.get_by_text("dashed").first.wait_for(timeout=120_000)
    page.wait_for_timeout(2500)
    keep_picture(page.screenshot(), "review-two")


def variants(page: Page, server: Server, keep: Callable[[str], None]) -> None:
    """A contact sheet, its captures in the queue, and what all of it takes on disk."""
    axes = [
        {"over": "dial:whorls", "values": [3, 4, 5, 5.5]},
        {"over": "light:azimuth", "first": -60, "last": 60, "steps": 3},
    ]
    sweep = {"axes": axes, "favourites": ["whorls 4, azimuth 0"]}
    patch = {"lanes": [], "clock": {"seconds": 2}, "sweep": sweep}
    server.ask("/api/shots/shell-growth", {"patch": patch, "what": "variants"}, "PATCH")
    page.goto(f"{server.base}/shots/shell-growth/variants")
    page.locator("[data-testid=variant] img").nth(8).wait_for(timeout=60_000)
    page.wait_for_timeout(2500)
    keep_picture(page.screenshot(), "contact-sheet")
    server.ask("/api/shots/shell-growth/sweep/runs", {})
    page.goto(f"{server.base}/runs")
    page.get_by_test_id("queue").wait_for()
    page.wait_for_timeout(4000)
    keep("queue")
    page.goto(f"{server.base}/storage")
    page.get_by_test_id("storage-size").wait_for()
    keep("storage")


if __name__ == "__main__":
    main()
