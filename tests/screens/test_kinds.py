"""Every kind of source on screen: from its example to a playing file, by upload, and in the editor."""

import io
import time
import zipfile

import cv2
import numpy as np

from tests.helpers import scratch
from tests.screens.base import FRAMES, ScreenTest


class ExamplesTest(ScreenTest):
    def test_every_example_is_captured_and_compiled(self):
        shots = [line["id"] for line in self.server.ask("/api/shots")[1]["shots"]]
        kinds = {self.document(shot)["source"]["kind"] for shot in shots}
        self.assertEqual(kinds, {"model", "sketch", "simulation", "series", "object", "page", "stills", "clip"})
        for shot in shots:
            with self.subTest(shot):
                run = self.server.ask(f"/api/shots/{shot}/runs", {})[1]
                done = self.server.wait_for_run(run["id"], lambda r: r["state"] not in ("queued", "running"))
                count = FRAMES * len(done["camera_passes"])
                self.assertEqual((done["state"], done["made"] + done["kept"]), ("done", count), done["message"])
                output = self.server.ask(f"/api/runs/{run['id']}/outputs", {"recipe": "h264"})[1]
                while output["state"] in ("queued", "running"):
                    output = self.server.ask(f"/api/outputs/{output['id']}")[1]
                self.assertTrue(output["receipt"]["holds"], output)


class EditorTest(ScreenTest):
    def type_line(self, text):
        self.page.get_by_test_id("editor").locator(".cm-content").click()
        self.page.keyboard.press("Control+End")
        self.page.keyboard.insert_text(text)

    def test_code_is_saved_as_it_is_typed_and_errors_show_at_their_line(self):
        file = self.home / "sources/tide.py"
        before = file.read_text()
        self.open_bench("tide-week")
        self.page.locator("[data-topic=source]").first.click()
        self.press("Edit the code")
        self.see(self.page.get_by_test_id("editor"))
        picture = self.page.get_by_test_id("viewfinder").locator("img")
        first = picture.get_attribute("src")
        self.type_line("\nprint('the tide is drawn')\nPAPER = 0xFF204060\n")
        self.see(self.page.get_by_test_id("code-saved"), "^saved$")
        self.assertIn("PAPER = 0xFF204060", file.read_text())
        self.until("old => document.querySelector('[data-testid=viewfinder] img').src !== old", first)
        self.see(self.page.get_by_text("the tide is drawn"))
        self.type_line("\nbroken(\n")
        self.see(self.page.get_by_test_id("code-wrong"), r"tide.py, line \d+: the code cannot be read")
        self.see(self.page.get_by_text("showing the last good picture"))
        self.see(self.page.get_by_test_id("editor").locator(".cm-lint-marker-error"))
        for _ in range(40):
            self.page.keyboard.press("Control+z")
        end = time.monotonic() + 30
        while "broken(" in file.read_text():
            self.assertLess(time.monotonic(), end, "undone in the editor, but not in the file")
            self.page.wait_for_timeout(50)
        self.until("() => !document.querySelector('[data-testid=code-wrong]')")
        self.press("Close the code")
        file.write_text(before)

    def test_a_dial_beside_the_code_changes_the_picture(self):
        self.open_bench("tide-week")
        self.page.locator("[data-topic=source]").first.click()
        self.press("Edit the code")
        self.type("swell", 0.4)
        self.wait_for_revision(1)
        self.assertEqual(self.document("tide-week")["source"]["dials"], {"swell": 0.4})


class StillsTest(ScreenTest):
    def test_the_rate_is_asked_for_and_a_gap_is_settled(self):
        folder = scratch(self)
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w") as held:
            for n in (1, 2, 3, 5, 6):
                held.writestr(
                    f"dune.{n:03d}.png", cv2.imencode(".png", np.full((36, 64, 3), 20 * n, np.uint8))[1].tobytes()
                )
        (folder / "dune.zip").write_bytes(packed.getvalue())
        self.open("/")
        self.press("New shot")
        self.page.get_by_test_id("upload").set_input_files(folder / "dune.zip")
        ask = self.page.get_by_test_id("ask-rate")
        self.see(ask.get_by_text("dune.%03d.png"))
        ask.get_by_role("button", name="25", exact=True).click()
        self.see(ask.get_by_text("0.20 s"))
        self.press("Create the shot")
        self.see(self.page.get_by_test_id("viewfinder").get_by_role("alert"), r"1 of its numbers are missing \(4\)")
        self.revision = 0
        self.press("Hold the picture before")
        self.wait_for_revision(1)
        self.see(self.page.get_by_text("the frame before is held"))
        self.press("Use all 6 frames")
        self.wait_for_revision(2)
        self.see(self.page.get_by_test_id("viewfinder").locator("img"))
        wanted = {"rate": "25", "frames": 6, "seconds": None, "span": "ends"}
        self.assertLessEqual(wanted.items(), self.document("dune")["clock"].items())

    def test_a_source_of_pictures_has_no_camera_in_its_brief(self):
        self.open_bench("quay")
        brief = self.page.get_by_test_id("brief").text_content()
        self.assertNotIn("circling it", brief)
        self.open_bench("ripples")
        self.assertIn("running 0.75 s per second", self.page.get_by_test_id("brief").text_content())


if __name__ == "__main__":
    import unittest

    unittest.main()
