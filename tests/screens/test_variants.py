"""Variants on screen: from the brief to a contact sheet, to takes, and to a reel; a probe; the queue; storage."""

import io
import json
import os
import time
import unittest

import numpy as np
from PIL import Image
from playwright.sync_api import expect

from tests.helpers import HEADER
from tests.screens.base import ScreenTest

SLOW = f"""{HEADER}@model
def cone(size=dial(1, low=0.5, high=2)):
    import time
    time.sleep(0.5)
    return pv.Cone(height=size)
"""


class VariantsTest(ScreenTest):
    def pixels(self, locator):
        return np.asarray(Image.open(io.BytesIO(locator.screenshot())).convert("RGB"), float)

    def test_from_the_brief_to_a_contact_sheet_to_takes_and_a_reel(self):
        page = self.page
        self.open_bench("mooring-buoy")
        page.get_by_label("Kind of file, frames only, draft or proof").click()
        page.get_by_role("button", name="Add variants").click()
        self.press("Vary a value")
        self.see(page.get_by_test_id("axis"))
        page.get_by_label("What varies").select_option("light:azimuth")
        self.type("light:azimuth, first", -60)
        self.type("light:azimuth, last", 60)
        self.press("Add an axis")
        page.get_by_label("What varies").nth(1).select_option("background")
        self.see(page.get_by_label("background, list"))
        self.type("background, list", "#000000, #ffffff")
        self.see(page.get_by_test_id("brief"), "6 variants of azimuth and background")
        self.see(page.get_by_test_id("variants"), "6 variants → 72 pictures")
        self.see(page.get_by_test_id("capture"), "Capture 6 variants, make 6 MP4 files")
        self.wait_until_saved()
        page.get_by_role("link", name="Open the contact sheet").click()
        cells = page.get_by_test_id("variant")
        for number in range(6):
            self.see(cells.nth(number).locator("img"))
        dark, light = (self.pixels(cells.nth(number).locator("img")) for number in (0, 1))
        self.assertGreater(light.mean() - dark.mean(), 40, "white behind it, and black")
        self.press("Mark azimuth 0, background #000000")
        self.press("Leave out azimuth 60, background #ffffff")
        self.see(page.get_by_test_id("capture-variants"), "Capture 5 variants, 60 pictures")
        page.get_by_role("button", name="Capture 1 marked").click()
        self.see(cells.nth(2).get_by_text("captured"))
        self.assertEqual(cells.nth(0).get_by_text("captured").count(), 0)
        page.locator("summary", has_text="Export").click()
        with page.expect_download() as saved:
            page.get_by_role("button", name="Contact sheet as a PNG").click()
        self.assertGreater(Image.open(saved.value.path()).width, 600)
        page.get_by_label("Marked only (1)").check()
        expect(cells).to_have_count(1)
        page.get_by_text("Make a reel").click()
        page.get_by_role("button", name="In a synchronized grid").click()
        self.see(page.get_by_test_id("reel-picture"))
        page.go_back()
        cells.first.get_by_role("button", name="Open azimuth -60").or_(cells.first.locator("button").first).click()
        page.wait_for_url("**/shots/mooring-buoy*-azimuth-*")
        self.see(page.get_by_test_id("brief"), "#000000")

    def test_a_disk_without_room_is_found_before_the_first_frame_with_what_helps(self):
        page = self.page
        old = self.home / "frames" / "bb" / ("b" * 64 + ".png")
        old.parent.mkdir(parents=True, exist_ok=True)
        old.write_bytes(b"x" * 234_567)
        os.utime(old, (time.time() - 9999,) * 2)
        self.open("/storage")
        self.type("Gigabytes that stay free", 1_000_000)
        self.addCleanup(lambda: self.server.ask("/api/settings", {"keep_free_mb": 1}, "PUT"))
        self.until("async () => (await (await fetch('/api/settings')).json()).keep_free_mb === 1e9")
        self.open_bench("quay")
        found = page.get_by_role("listitem").filter(has_text="of the disk can be used")
        self.see(found)
        self.see(found.get_by_role("button", name="copy the command"))
        found.get_by_role("link", name="Remove 235 kB that nothing uses").click()
        page.wait_for_url("**/storage")

    def test_a_probe_takes_the_place_of_the_guess(self):
        page = self.page
        self.open_bench("tide-week")
        self.see(page.get_by_test_id("cost"), "guess ≈")
        page.get_by_label("Kind of file, frames only, draft or proof").click()
        self.press("Probe the shot")
        self.see(page.get_by_test_id("cost"), r"probed \d+:\d\d to \d+:\d\d")
        self.see(page.get_by_label("Cost of the capture"), r"File \(h264\).*Memory of a worker")

    def test_the_queue_is_put_in_another_order_by_keyboard_and_paused(self):
        page = self.page
        (self.home / "sources/slow.py").write_text(SLOW)
        document = {"title": "Slow", "source": {"kind": "model", "file": "../sources/slow.py"}}
        document |= {"clock": {"rate": "12", "frames": 20}, "picture": {"width": 64, "height": 36, "samples": 1}}
        document["lanes"] = [{"drive": "dial:size", "keys": [[0, 1], [1, 2]]}]
        (self.home / "shots/slow.json").write_text(json.dumps(document))
        # Headless Chromium grants no notifications.
        page.add_init_script(
            "window.heard = []; localStorage.setItem('vexel-notify', 'yes');"
            "window.Notification = class { static permission = 'granted';"
            " constructor(title, more) { heard.push(`${title} ${more?.body ?? ''}`) } }"
        )
        runs = [self.server.ask(f"/api/shots/{shot}/runs", {})[1]["id"] for shot in ("slow", "quay", "gauge")]
        self.open("/runs")
        self.press("Pause")
        self.see(page.get_by_role("button", name="Continue"))
        rows = page.get_by_label("Queued runs").locator("li")
        expect(rows).to_have_count(2)
        page.get_by_role("button", name="Move ").nth(1).focus()
        for key in ("Space", "ArrowUp", "Space"):
            page.keyboard.press(key)
            page.wait_for_timeout(300)
        expect(rows.first).to_have_attribute("data-run", str(runs[2]))
        self.assertEqual(self.server.ask("/api/queue")[1]["queued"], [runs[2], runs[1]])
        self.until("document.title.startsWith('‖')")
        self.press("Continue")
        for run in runs:
            self.server.wait_for_run(run, lambda r: r["state"] == "done")
        self.until("() => heard.filter((one) => one.includes(': done')).length === 3")
        self.until("() => heard.some((one) => one.includes('Slow: paused'))")
        self.open(f"/runs/{runs[1]}")
        page.get_by_text("Capture frames again").click()
        page.get_by_label("Frames, such as").fill("0-4x2")
        page.get_by_label("Reason, kept").fill("stale light")
        self.press("Capture again", exact=True)
        run = self.server.wait_for_run(runs[1], lambda r: r["state"] == "done" and r["made"] + r["kept"] == r["count"])
        rows = self.server.ask(f"/api/runs/{run['id']}/frames")[1]["frames"]
        self.assertEqual([row["number"] for row in rows if row["reason"] == "stale light"], [0, 4])

    def test_what_nothing_uses_is_listed_then_removed(self):
        page = self.page
        old = self.home / "frames" / "aa" / ("a" * 64 + ".png")
        old.parent.mkdir(parents=True, exist_ok=True)
        old.write_bytes(b"x" * 123_456)
        os.utime(old, (time.time() - 9999,) * 2)
        self.open("/runs")
        page.get_by_role("link", name="Storage").click()
        self.see(page.get_by_test_id("storage-size"))
        self.press("List ")
        self.see(page.get_by_text("frames/aa/aaaa"))
        page.get_by_role("button", name="Remove ").click()
        self.see(page.get_by_text("removed, "))
        self.assertFalse(old.exists())


if __name__ == "__main__":
    unittest.main()
