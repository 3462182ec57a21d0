"""Dispatch: what leaves the project, and the page that a take becomes, opened from a file."""

import json
import re
import time
import unittest

from playwright.sync_api import expect

from tests.helpers import scratch
from tests.screens.base import FRAMES, ScreenTest, chromium


class DispatchTest(ScreenTest):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        _, run = cls.server.ask("/api/shots/mooring-buoy/runs", {"to_file": False})
        cls.run_id = run["id"]
        cls.server.wait_for_run(cls.run_id, lambda run: run["state"] == "done")

    def files(self, count, *recipes):
        """The newest files by their recipes, when all are there, and those that are named among them."""

        def done():
            outputs = self.server.ask("/api/outputs")[1]["outputs"][:count]
            there = len(outputs) == count and set(recipes) <= {one["recipe"] for one in outputs}
            return there and all(one["state"] in ("done", "failed") for one in outputs) and outputs

        end = time.monotonic() + 120
        while not (outputs := done()):
            self.assertLess(time.monotonic(), end, "the files are not there")
            self.page.wait_for_timeout(100)
        return {one["recipe"]: one for one in outputs}

    def test_several_kinds_at_once_into_a_folder_of_ones_own(self):
        folder = scratch(self)
        self.open(f"/dispatch?run={self.run_id}")
        self.open_recipe_groups()
        self.see(self.page.get_by_test_id("dispatch"), "Choose recipes")
        for name in ("h264-small", "webp", "page-turn"):
            self.page.get_by_label(f"Make {name}", exact=True).check()
        self.type("Folder", "handover")
        self.see(self.page.get_by_text("handover is not an absolute path"))
        self.type("Folder", str(folder))
        self.type("Names", "{recipe}/{title}")
        for _ in range(2):
            self.press("Make 3 files")
            self.see(self.page.get_by_test_id("dispatch"), "Choose recipes")
            for one in self.files(3).values():
                self.assertTrue(one["receipt"] and one["receipt"]["holds"], one)
            for name in ("h264-small", "webp", "page-turn"):
                self.page.get_by_label(f"Make {name}", exact=True).check()
        title = "mooring-buoy-once-round"
        made = sorted(str(file.relative_to(folder)) for file in folder.rglob("*.*"))
        self.assertEqual(made, [
            f"h264-small/{title}.mp4", f"h264-small/{title}.v002.mp4", f"page-turn/{title}.html",
            f"page-turn/{title}.v002.html", f"webp/{title}.v002.webp", f"webp/{title}.webp",
        ])  # fmt: skip
        line = self.page.get_by_test_id("sent").get_by_role("button", name="proven").first
        line.click()
        self.see(self.page.get_by_test_id("sent").get_by_text("PSNR").first)
        self.turned(folder / f"page-turn/{title}.html")

    def turned(self, file):
        """The page from its file, in a browser of its own: by mouse, touch and keys, and nothing leaves it."""
        context = chromium().new_context(viewport={"width": 480, "height": 300}, has_touch=True)
        self.addCleanup(context.close)
        page = context.new_page()
        asked, wrong = [], []
        page.on("request", lambda request: asked.append(request.url))
        page.on("pageerror", lambda error: wrong.append(str(error)))
        page.goto(file.as_uri())
        page.wait_for_selector("canvas")
        stage = page.locator("#stage")
        expect(stage).to_have_attribute("data-frame", "0")
        around = page.evaluate("getComputedStyle(document.body).backgroundColor")
        apart = [abs(int(a) - b) for a, b in zip(re.findall(r"\d+", around), (0x7C, 0x87, 0x90), strict=True)]
        self.assertLess(max(apart), 4, f"no bars: {around} is the colour of the picture's edge")
        expect(page.get_by_text("drag to turn")).to_be_visible()
        page.mouse.move(300, 150)
        page.mouse.down()
        page.mouse.move(180, 150, steps=4)
        expect(stage).to_have_attribute("data-frame", str(FRAMES - 3))
        expect(page.get_by_text("drag to turn")).to_be_hidden()
        # Rested before it is let go of, it stays.
        page.wait_for_timeout(150)
        page.mouse.up()
        stage.focus()
        for key, expected in (
            ("ArrowRight", FRAMES - 2),
            ("ArrowLeft", FRAMES - 3),
            ("Home", 0),
            ("ArrowLeft", FRAMES - 1),
        ):
            page.keyboard.press(key)
            expect(stage).to_have_attribute("data-frame", str(expected))
        session = context.new_cdp_session(page)
        for kind, x in (("touchStart", 300), ("touchMove", 260), ("touchMove", 180), ("touchEnd", None)):
            points = [] if x is None else [{"x": x, "y": 150}]
            session.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})
        expect(stage).not_to_have_attribute("data-frame", str(FRAMES - 1))
        self.assertEqual(stage.get_attribute("role"), "slider")
        self.assertEqual([url for url in asked if not url.startswith(("data:", file.as_uri()))], [])
        self.assertEqual(wrong, [])

    def test_a_recipe_is_tried_changed_and_kept(self):
        self.open(f"/dispatch?run={self.run_id}")
        self.open_recipe_groups()
        self.press("Settings of h264")
        trial = self.page.get_by_test_id("trial")
        self.see(trial.get_by_alt_text("The frame as the file shows it"))
        self.see(trial.get_by_text("PSNR"))
        before = trial.inner_text()
        self.type("Quality", 40)
        self.until("(before) => document.querySelector('[data-testid=trial]').innerText !== before", before)
        self.until("() => document.querySelector('[aria-label=\\\"The command\\\"]')?.value.startsWith('ffmpeg -y')")
        self.type("Quality", 60)
        self.see(self.page.get_by_text("51").first)
        self.type("Name of your recipe", "h264")
        self.see(self.page.get_by_text("one of Vexel's own recipes"))
        self.type("Name of your recipe", "for-the-hall")
        self.see(self.page.get_by_label("Make for-the-hall", exact=True))
        kept = json.loads((self.home / "recipes/for-the-hall.json").read_text())
        self.assertEqual(kept["quality"]["level"], 40)
        (self.home / "recipes/broken.json").write_text("{")
        self.page.reload()
        self.see(self.page.get_by_text("broken.json").first)
        (self.home / "recipes/broken.json").unlink()
        self.press("Settings of for-the-hall")
        self.press("Delete")
        self.page.get_by_label("Make for-the-hall", exact=True).wait_for(state="detached")

    def test_takes_leave_together_and_one_at_another_rate_is_captured_anew(self):
        _, run = self.server.ask("/api/shots/mooring-buoy/runs", {"draft": True})
        self.server.wait_for_run(run["id"], lambda run: run["state"] == "done")
        self.open(f"/dispatch?run={self.run_id}")
        self.open_recipe_groups()
        self.press("Add a take")
        self.page.get_by_label("Make thumbnail", exact=True).check()
        self.page.get_by_label("Make handover", exact=True).check()
        self.press("Make 4 files")
        self.see(self.page.get_by_test_id("dispatch"), "Choose recipes")
        self.files(4, "thumbnail", "handover")
        runs = {one["run_id"] for one in self.server.ask("/api/outputs")[1]["outputs"][:4]}
        self.assertEqual(runs, {self.run_id, run["id"]})
        self.press("Settings of h264")
        self.type("Rate of the file", "30")
        self.press("New shot at 30 fps")
        self.page.wait_for_url("**/shots/*")
        self.server.ask(f"/api/shots/{self.page.url.rsplit('/', 1)[1]}", method="DELETE")

    def test_a_gif_is_chosen_from_its_sizes(self):
        self.open(f"/dispatch?run={self.run_id}")
        self.open_recipe_groups()
        self.press("Settings of gif", exact=True)
        self.press("Measure sizes")
        rows = self.page.get_by_test_id("gif-table").locator("tbody tr")
        self.see(rows.first)
        expected = rows.nth(3).inner_text().split()
        rows.nth(3).get_by_role("button").click()
        self.page.get_by_label("Make gif", exact=True).check()
        self.press("Make 1 file")
        files = self.files(1, "gif")
        told = {check["what"]: check["found"] for check in files["gif"]["receipt"]["checks"]}
        self.assertTrue(told["size"].startswith(expected[0]), (told, expected))
        kilobytes = float(expected[-3])
        self.assertLess(abs(files["gif"]["receipt"]["bytes"] / 1000 / kilobytes - 1), 0.1, (files["gif"], expected))

    def test_a_limit_that_nothing_reaches_says_what_would_fit(self):
        self.open(f"/dispatch?run={self.run_id}")
        self.open_recipe_groups()
        self.press("Settings of webp")
        sent = self.page.get_by_test_id("sent")
        least = 1.0
        for share in (1, 0.8):
            self.type("File at most", f"{least * share:.2f} kB")
            self.page.get_by_label("Make webp", exact=True).check()
            self.press("Make 1 file")
            told = sent.get_by_role("alert").filter(has_text=f"more than {least * share:.3g} kB")
            self.see(told, "What would about fit: at most")
            least = float(re.search(r"has ([\d.]+) kB at its lowest quality", told.inner_text())[1])
        self.press("Make it at most")
        self.see(sent.locator("li").first.get_by_text("proven"))
        made = self.files(1, "webp")["webp"]
        self.assertTrue(made["receipt"]["holds"] and made["receipt"]["bytes"] <= least * 800, made)


if __name__ == "__main__":
    unittest.main()
