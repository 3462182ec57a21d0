"""Review in the browser: the frame that is shown is the one that was asked for, alone and against another take."""

import json
import random
import subprocess
import unittest
from itertools import pairwise

from tests.numbered import BITS, CODE
from tests.screens.base import ScreenTest

FRAMES = 120
SHOWN = """(id) => {
  const canvas = document.querySelector(`[data-testid=${id}]`)
  if (!canvas) return { number: -1, frame: -1, waiting: null }
  const ink = canvas.getContext('2d'), wide = canvas.width
  let number = 0
  for (let bit = 0; bit < BITS; bit++) {
    const pixel = ink.getImageData(Math.round((bit + 0.5) * wide / BITS), Math.round(canvas.height / 8), 1, 1).data
    if (pixel[0] > 128) number += 2 ** bit
  }
  return { number, frame: Number(canvas.dataset.frame), waiting: canvas.dataset.waiting ?? null }
}""".replace("BITS", str(BITS))
"""The number in the pixels of a picture, and the frame that the player says it shows."""
PLAYED = """async (seen) => {
  const look = LOOK, found = []
  for (let n = 0; n < seen; n++) {
    await new Promise(requestAnimationFrame)
    found.push(look('picture'))
  }
  return found
}""".replace("LOOK", f"({SHOWN})")


class ReviewTest(ScreenTest):
    @classmethod
    def lay_out(cls):
        super().lay_out()
        (cls.home / "shots/numbered.py").write_text(CODE)
        document = {
            "title": "Numbered",
            "source": {"kind": "sketch", "file": "numbered.py"},
            "clock": {"rate": "24", "frames": FRAMES},
            "picture": {"width": 320, "height": 180, "samples": 1},
        }
        (cls.home / "shots/numbered.json").write_text(json.dumps(document))

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.take = cls.captured()
        patch = {"source": {"dials": {"tint": 90}}, "title": "Numbered, lighter"}
        cls.server.ask("/api/shots/numbered", {"patch": patch, "what": "tint", "burst": ""}, "PATCH")
        cls.lighter = cls.captured()

    @classmethod
    def captured(cls):
        _, run = cls.server.ask("/api/shots/numbered/runs", {})
        run = cls.server.wait_for_run(run["id"], lambda r: r["state"] not in ("queued", "running"))
        assert run["state"] == "done", run
        return run["id"]

    def shows(self, frame, picture="picture"):
        """Wait until a frame is painted; the number in its pixels is its own."""
        script = f"({SHOWN})('{picture}')"
        self.until(f"() => {{ const now = {script}; return now.frame === {frame} && now.waiting === null }}")
        self.assertEqual(self.page.evaluate(SHOWN, picture)["number"], frame)

    def go(self, text):
        self.page.get_by_label("Frame", exact=True).fill(str(text))
        self.page.get_by_label("Frame", exact=True).press("Enter")

    def test_200_random_steps_show_the_frames_that_were_asked_for(self):
        self.open(f"/review/take/{self.take}")
        self.shows(0)
        steps, at = random.Random(35), 0
        ways = (("ArrowRight", 1), ("ArrowLeft", -1), ("Shift+ArrowRight", 10), ("Shift+ArrowLeft", -10))
        for _ in range(200):
            if steps.random() < 0.15:
                at = steps.randrange(FRAMES)
                self.go(steps.choice([str(at), f"00:00:{at // 24:02d}:{at % 24:02d}"]))
                # The field gives the keys back once its text has been read.
                self.until("() => document.activeElement === document.body")
            else:
                key, by = steps.choice(ways)
                at = min(max(at + by, 0), FRAMES - 1)
                self.page.keyboard.press(key)
            self.shows(at)

    def test_playing_shows_one_frame_after_the_other_and_says_its_rate(self):
        self.open(f"/review/take/{self.take}")
        self.shows(0)
        self.go(10)
        self.shows(10)
        self.page.get_by_title("Play from this frame", exact=False).click()
        self.go(40)
        self.shows(40)
        self.page.get_by_title("Play up to this frame", exact=False).click()
        self.page.get_by_role("button", name="Play", exact=True).click()
        found = self.page.evaluate(PLAYED, 90)
        self.assertTrue(all(one["number"] == one["frame"] for one in found))
        frames = [one["frame"] for one in found]
        self.assertEqual([one for one in frames if not 10 <= one <= 40], [], "played outside of the stretch")
        # A machine that is too busy leaves frames out, and says how many.
        left_out = any(after - before > 1 for before, after in pairwise(frames))
        said = self.page.get_by_test_id("rate").text_content()
        self.assertTrue("left out" in said or not left_out, said)
        self.assertGreater(len(set(frames)), 10)
        self.see(self.page.get_by_test_id("rate"), r"24 fps, \d+\.\d achieved")
        self.page.get_by_role("button", name="Stop", exact=True).click()
        at = self.page.evaluate(SHOWN, "picture")["frame"]
        self.shows(at)

    def test_a_wrong_frame_is_said_at_the_field(self):
        self.open(f"/review/take/{self.take}")
        self.shows(0)
        self.go("500")
        self.see(self.page.get_by_role("alert"), "has frames 0 to 119")
        self.shows(0)

    def test_two_takes_are_told_apart_by_number_by_sight_and_by_cause(self):
        self.open(f"/review/take/{self.take}")
        self.page.get_by_label("Compare with").click()
        self.page.get_by_text(f"take {self.lighter},", exact=False).click()
        self.see(self.page.get_by_test_id("difference-figures"), r"Differs in 75\.0 % of pixels: 22\.5 of 255")
        self.page.keyboard.press("Shift+ArrowRight")
        self.shows(10)
        self.shows(10, "second-picture")
        self.page.get_by_role("button", name="Difference").click()
        self.until("""() => {
            const canvas = document.querySelector('[data-testid=difference]')
            const at = [canvas.width / 2, canvas.height * 0.8, 1, 1]
            return canvas.getContext('2d').getImageData(...at).data[0] === 30
        }""")
        self.page.get_by_role("tab", name="Settings").click()
        self.see(self.page.get_by_test_id("changes").get_by_role("row").first, "dials tintnone90")
        # In step with an offset, also where the second one has no frame.
        self.page.get_by_label("Offset").fill("115")
        self.page.get_by_label("Offset").press("Enter")
        self.see(self.page.get_by_test_id("difference-figures"), "no frame here")
        self.assertIn("offset=115", self.page.url)

    def test_a_note_with_a_box_is_on_its_frame_alone_and_captures_it_again(self):
        self.open(f"/review/take/{self.take}")
        self.shows(0)
        self.go(30)
        self.shows(30)
        self.page.get_by_role("tab", name="Notes").click()
        self.page.get_by_label("Mark a box").click()
        box = self.page.get_by_test_id("well").bounding_box()
        self.page.mouse.move(box["x"] + 200, box["y"] + 150)
        self.page.mouse.down()
        self.page.mouse.move(box["x"] + 320, box["y"] + 260, steps=4)
        self.page.mouse.up()
        self.page.get_by_label("Note", exact=True).fill("Edge is jagged")
        self.page.get_by_label("Your name").fill("Ada")
        self.page.get_by_role("button", name="Add note").click()
        notes = self.page.get_by_test_id("notes")
        self.see(notes.get_by_text("Edge is jagged"))
        marks = self.page.get_by_test_id("well").locator("rect")
        self.see(marks.first)
        self.assertEqual(marks.count(), 2)
        self.go(31)
        self.shows(31)
        self.assertEqual(marks.count(), 0)
        notes.get_by_role("button", name="frame 30", exact=True).click()
        self.shows(30)
        self.page.reload()
        self.see(self.page.get_by_role("tab", name="Notes (1)"))
        self.page.get_by_role("tab", name="Notes (1)").click()
        self.page.get_by_role("button", name="Capture 1 noted frame again").click()
        self.see(self.page.get_by_role("status").filter(has_text="queued"), "Run .* queued")
        run = self.server.wait_for_run(self.take, lambda r: r["state"] == "done")
        self.assertEqual(run["made"] + run["kept"], FRAMES)
        self.page.get_by_label("Done").click()
        self.see(notes.get_by_role("checkbox", checked=True))
        self.page.get_by_label("Delete the note on frame 30").click()
        self.see(self.page.get_by_text("No notes yet."))

    def test_a_review_page_is_sent_written_in_and_imported(self):
        self.open(f"/review/take/{self.lighter}")
        self.page.get_by_role("tab", name="Notes").click()
        self.page.get_by_role("button", name="Make a review page").click()
        link = self.page.get_by_role("link", name="Review page")
        link.wait_for()
        with self.page.expect_download() as sent:
            link.click()
        folder = self.home.parent
        sent.value.save_as(folder / "sent.html")
        mail = self.browser.new_page()
        self.addCleanup(mail.close)
        mail.on("pageerror", lambda error: self.errors.append(str(error)))
        mail.goto((folder / "sent.html").as_uri())
        mail.get_by_label("Frame", exact=True).fill("33")
        mail.get_by_label("Frame", exact=True).press("Enter")
        mail.get_by_label("Mark").select_option("box")
        box = mail.locator("#stage").bounding_box()
        mail.mouse.move(box["x"] + 40, box["y"] + 40)
        mail.mouse.down()
        mail.mouse.move(box["x"] + 160, box["y"] + 120, steps=3)
        mail.mouse.up()
        mail.get_by_label("Note on this frame").fill("Too dark </script> here")
        mail.get_by_label("Your name").fill("Bea")
        mail.get_by_role("button", name="Add note").click()
        mail.get_by_role("button", name="frame 33").wait_for()
        with mail.expect_download() as back:
            mail.get_by_role("button", name="Save page with notes").click()
        back.value.save_as(folder / "back.html")
        self.page.get_by_test_id("page-chooser").set_input_files(folder / "back.html")
        self.see(self.page.get_by_test_id("page-menu").get_by_role("status"), "1 new note")
        notes = self.page.get_by_test_id("notes")
        self.see(notes.get_by_text("Too dark </script> here"))
        notes.get_by_role("button", name="frame 33", exact=True).click()
        self.shows(33)
        self.see(self.page.get_by_test_id("well").locator("rect").first)

    def test_a_film_from_elsewhere_is_opened_inspected_and_deleted(self):
        film = self.home.parent / "tide pools.mp4"
        test = ["ffmpeg", "-v", "error", "-f", "lavfi", "-i", "testsrc=size=128x96:rate=25:duration=0.4"]
        subprocess.run([*test, "-pix_fmt", "yuv420p", str(film)], check=True)
        self.open("/review")
        self.page.get_by_test_id("chooser").set_input_files(film)
        self.see(self.page.get_by_test_id("file-facts"), "codech264")
        self.see(self.page.get_by_test_id("place"), "of 10")
        self.see(self.page.get_by_test_id("file-facts"), "carries no provenance record")
        self.open("/review")
        self.page.get_by_label("Delete tide-pools").click()
        self.see(self.page.get_by_role("heading", name="Takes"))
        self.until("() => !document.body.innerText.includes('From elsewhere')")

    def test_what_is_not_there_says_so_and_leads_on(self):
        self.open("/review/take/999")
        self.see(self.page.get_by_text("there is no run 999"))
        self.page.get_by_role("link", name="All takes, files and reels").click()
        self.page.get_by_role("link", name="Numbered", exact=False).first.click()
        self.see(self.page.get_by_test_id("findings"), "Frame 64 differs from the one before")


if __name__ == "__main__":
    unittest.main()
