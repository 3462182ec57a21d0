"""From the shot list to a playing video, as a new user goes."""

import unittest

from tests.screens.base import FRAMES, ScreenTest


class FirstVideoTest(ScreenTest):
    def test_from_the_shot_list_to_a_playing_video(self):
        page = self.page
        self.open("/")
        page.get_by_role("link", name="Shell growth, once round").click()
        self.see(page.get_by_test_id("viewfinder").locator("img"))
        self.see(page.get_by_test_id("brief"), "Film shell.py for 12 frames at 24 fps as a loop")
        self.see(page.get_by_test_id("seam"), "the loop closes")

        self.press(f"Capture {FRAMES} frames")
        self.see(page.get_by_test_id("run-state"), "^done$", seconds=120)
        self.see(page.get_by_test_id("done"), f"{FRAMES} of {FRAMES}")
        ready = page.get_by_test_id("ready-file")
        self.see(ready, "It matches the plan")
        ready.get_by_role("link", name="Play").click()

        player = page.get_by_test_id("player")
        self.see(player)
        self.until("document.querySelector('video').currentTime > 0.1")
        # Half a second loops: the time falls back and goes on.
        player.evaluate("v => { window.times = []; v.ontimeupdate = () => times.push(v.currentTime) }")
        self.until("window.times.some((t, i) => i && t < times[i - 1])")
        self.assertEqual(player.evaluate("v => [v.videoWidth, v.videoHeight, v.error]"), [320, 180, None])
        receipt = page.get_by_test_id("receipt")
        self.see(receipt, "The file matches the plan")
        for words in (f"frames{FRAMES}{FRAMES}", "rate24 fps24 fps", "duration0.5 s0.5 s", "size320 × 180320 × 180"):
            self.assertIn(words, receipt.text_content().replace(" ✕", "").replace("  ", " ").replace(" \n", ""))
        with page.expect_download() as download:
            page.get_by_role("link", name="Download").click()
        self.assertRegex(download.value.suggested_filename, r"^shell-growth-once-round\.take\d\.h264\.mp4$")
        self.assertIn(b"ftyp", download.value.path().read_bytes()[:16])

        self.open("/")
        page.locator("li", has_text="Shell growth").get_by_role("link", name="Play").click()
        self.see(page.get_by_test_id("player"))

    def test_a_gif_tells_of_its_rounding(self):
        self.open_bench("mooring-buoy")
        self.press(f"Capture {FRAMES} frames")
        self.see(self.page.get_by_test_id("run-state"), "^done$", seconds=120)
        self.press("Animated GIF at the frames' own size")
        self.page.locator("li", has_text=".gif").get_by_role("link", name="Play", exact=True).click()
        self.see(self.page.get_by_test_id("receipt"), "24 fps wants 0.04167 s per frame and gets 0.04 and 0.05 s")
        picture = self.page.locator("main img")
        natural = picture.evaluate("i => i.decode().then(() => [i.naturalWidth, i.naturalHeight])")
        self.assertEqual(natural, [320, 180])


if __name__ == "__main__":
    unittest.main()
