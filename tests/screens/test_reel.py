"""The reel on screen: cards, joints, the ruler, the sentence, findings with their mends, and the file."""

import time
import unittest

from playwright.sync_api import expect

from tests.screens.base import FRAMES, ScreenTest


class ReelTest(ScreenTest):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        _, run = cls.server.ask("/api/shots/mooring-buoy/runs", {"to_file": False})
        cls.run_id = run["id"]
        cls.server.wait_for_run(cls.run_id, lambda run: run["state"] == "done")

    def reason(self, text):
        expect(self.page.get_by_test_id("reel-reason")).to_contain_text(text)

    def test_a_piece_from_two_turns_and_a_title(self):
        page = self.page
        self.open("/reels")
        self.press("New reel")
        self.reason(f"{FRAMES} frames")
        self.press("Title", exact=True)
        self.reason(f"{FRAMES} + 72")
        page.get_by_label("Text of the title").fill("Tern Point")
        page.get_by_label("Text of the title").blur()
        expect(page.get_by_test_id("reel-brief")).to_contain_text("Tern Point")
        cards = page.get_by_test_id("cards").locator("li > button[draggable]")
        cards.nth(1).focus()
        page.keyboard.press("Alt+ArrowLeft")
        self.reason(f"72 + {FRAMES}")
        page.locator('[aria-label^="Joint of Tern Point"]').click()
        page.get_by_label("Kind of joint").select_option("cross-fade")
        self.type("Frames of the joint", 6)
        self.reason(f"72 + {FRAMES} − 6 = {72 + FRAMES - 6} frames")
        cards.nth(1).click()
        self.type("Repeat", 2)
        self.reason(f"72 + {2 * FRAMES} − 6")
        self.type("Length", f"{FRAMES} f")
        self.see(page.get_by_test_id("reel-findings").get_by_text("in 12 frames of the reel"))
        self.press("Blend neighbours")
        self.see(page.get_by_test_id("reel-findings").get_by_text("in 12 frames of the reel"))
        page.get_by_label("Between frames").select_option("true")
        page.get_by_test_id("reel-findings").get_by_text("in 12 frames of the reel").wait_for(state="detached")
        ruler = page.get_by_test_id("reel-ruler")
        ruler.focus()
        page.keyboard.press("End")
        expect(page.get_by_test_id("reel-frame")).to_contain_text(f"{72 + FRAMES - 7} ·")
        page.keyboard.press("ArrowLeft")
        expect(ruler).to_have_attribute("aria-valuenow", str(72 + FRAMES - 8))
        loaded = "() => document.querySelector('[data-testid=reel-picture]').naturalWidth > 0"
        self.until(loaded)
        self.press("Undo")
        self.see(page.get_by_test_id("reel-findings").get_by_text("in 12 frames of the reel"))
        self.press("Redo")
        self.press(f"Compile {72 + FRAMES - 6} frames")
        self.see(page.get_by_text("1 file"), seconds=60)
        (made,) = (one for one in self.server.ask("/api/outputs")[1]["outputs"] if one["reel"])
        self.assertTrue(made["receipt"]["holds"], made)
        page.reload()
        self.reason(f"72 + {FRAMES} − 6")
        before = time.monotonic()
        self.press("Play")
        self.see(page.get_by_text("fps shown"))
        page.wait_for_function("from => Number(document.querySelector('[data-testid=reel-ruler]').ariaValueNow) > 24")
        self.assertGreater(time.monotonic() - before, 0.8, "it plays no faster than its rate")
        self.press("Pause")


if __name__ == "__main__":
    unittest.main()
