"""The reel on screen: cards, transitions, the ruler, the sentence, findings with their fixes, and the file."""

import json
import time
import unittest

import numpy as np
from playwright.sync_api import expect
from scipy.io import wavfile

from tests.helpers import scratch
from tests.screens.base import FRAMES, ScreenTest


class ReelTest(ScreenTest):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        _, run = cls.server.ask("/api/shots/mooring-buoy/runs", {"to_file": False})
        cls.run_id = run["id"]
        cls.server.wait_for_run(cls.run_id, lambda run: run["state"] == "done")

    def begin(self):
        """A new reel: the one that was open says much the same until the new one is there."""
        before = {line["id"] for line in self.server.ask("/api/reels")[1]["reels"]}
        self.choose_takes()
        self.page.wait_for_url(lambda url: "/reels/" in url and url.rsplit("/", 1)[1] not in before)

    def choose_takes(self):
        """A new reel of the newest take."""
        self.page.get_by_role("button", name="New reel").first.click()
        dialog = self.page.get_by_role("dialog", name="New reel")
        dialog.get_by_role("button", name="take").first.click()
        dialog.get_by_role("button", name="Make a reel of 1 take").click()

    def reason(self, text):
        expect(self.page.get_by_test_id("reel-reason")).to_contain_text(text)

    def test_a_piece_from_two_turns_and_a_title(self):
        page = self.page
        self.open("/reels")
        self.choose_takes()
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
        page.locator('[aria-label^="Transition from Tern Point"]').click()
        page.get_by_role("combobox", name="Transition").select_option("cross-dissolve")
        self.type("Frames of the transition", 6)
        self.reason(f"72 + {FRAMES} − 6 = {72 + FRAMES - 6} frames")
        cards.nth(1).click()
        self.type("Repeat", 2)
        self.reason(f"72 + {2 * FRAMES} − 6")
        self.type("Length", f"{FRAMES} f")
        self.see(page.get_by_test_id("reel-findings").get_by_text("for 12 in the reel"))
        self.press("Blend neighbours")
        self.see(page.get_by_test_id("reel-findings").get_by_text("for 12 in the reel"))
        page.get_by_label("Between frames").select_option("true")
        page.get_by_test_id("reel-findings").get_by_text("for 12 in the reel").wait_for(state="detached")
        ruler = page.get_by_test_id("reel-ruler")
        ruler.focus()
        page.keyboard.press("End")
        expect(page.get_by_test_id("reel-frame")).to_contain_text(f"{72 + FRAMES - 7} ·")
        page.keyboard.press("ArrowLeft")
        expect(ruler).to_have_attribute("aria-valuenow", str(72 + FRAMES - 8))
        loaded = "() => document.querySelector('[data-testid=reel-picture]').naturalWidth > 0"
        self.until(loaded)
        page.keyboard.press("Control+z")
        self.see(page.get_by_test_id("reel-findings").get_by_text("for 12 in the reel"))
        page.keyboard.press("Control+Shift+z")
        self.press(f"Compile {72 + FRAMES - 6} frames")
        self.see(page.get_by_text("1 file", exact=True))
        reel = page.url.split("/")[-1]
        (made,) = (one for one in self.server.ask("/api/outputs")[1]["outputs"] if one["reel"] == reel)
        self.assertTrue(made["receipt"]["holds"], made)
        page.reload()
        self.reason(f"72 + {FRAMES} − 6")
        before = time.monotonic()
        page.keyboard.press(" ")
        self.see(page.get_by_text("fps shown"))
        page.wait_for_function("from => Number(document.querySelector('[data-testid=reel-ruler]').ariaValueNow) > 24")
        self.assertGreater(time.monotonic() - before, 0.8, "it plays no faster than its rate")
        self.press("Pause")

    def test_trimmed_at_its_ends_and_put_together_by_keyboard_and_mouse(self):
        page = self.page
        self.open("/reels")
        self.begin()
        self.reason(f"{FRAMES} frames")
        self.press("Title", exact=True)
        self.reason(f"{FRAMES} + 72")
        page.get_by_label("Last frame of", exact=False).first.focus()
        for _ in range(3):
            page.keyboard.press("ArrowLeft")
        self.see(page.get_by_test_id("trim").get_by_text(f"last {FRAMES - 4} of {FRAMES - 1}"))
        self.reason(f"{FRAMES - 3} + 72")
        self.until("() => [...document.querySelectorAll('[data-testid=trim] img')].every(one => one.naturalWidth > 0)")
        self.press("Undo")
        self.reason(f"{FRAMES} + 72")
        handle = page.get_by_label("Length of", exact=False)
        box = handle.bounding_box()
        page.mouse.move(box["x"] + 4, box["y"] + 20)
        page.mouse.down()
        page.mouse.move(box["x"] - 200, box["y"] + 20)
        self.see(page.get_by_test_id("trim"))
        page.mouse.up()
        expect(page.get_by_test_id("reel-reason")).not_to_contain_text("+ 72")
        cards = page.get_by_test_id("cards").locator("li > button[draggable]")
        cards.nth(0).click()
        page.keyboard.press("Shift+ArrowRight")
        self.see(page.get_by_role("heading", name="2 items"))
        self.press("Show side by side")
        page.get_by_label("Arrangement").select_option("divided")
        self.see(page.get_by_label("Dividing line at the begin"))
        expect(cards).to_have_count(1)
        self.press("Take apart")
        expect(cards).to_have_count(2)

    def test_takes_and_files_are_dropped_into_their_places(self):
        page = self.page
        self.open("/reels")
        self.begin()
        self.reason(f"{FRAMES} frames")
        page.locator("summary", has_text="Take").click()
        entry = page.locator(".dropdown-content button").first
        row, held = page.get_by_test_id("cards"), page.evaluate_handle("() => new DataTransfer()")
        left = row.bounding_box()["x"] + 20
        # The browser's own drag passes over moves while the machine is busy; its events are what matters here.
        entry.dispatch_event("dragstart", {"dataTransfer": held})
        row.dispatch_event("dragover", {"dataTransfer": held, "clientX": left})
        row.dispatch_event("drop", {"dataTransfer": held, "clientX": left})
        self.reason(f"2 × {FRAMES}")
        sound = scratch(self) / "tide.wav"
        wavfile.write(sound, 48_000, np.full((96_000, 2), 0.1, np.float32))
        page.get_by_test_id("bring").set_input_files([sound])
        page.get_by_test_id("reel-brief").get_by_role("button").last.click()
        self.see(page.get_by_text("tide.wav", exact=True))
        page.locator("summary", has_text="Markers").click()
        self.press("Find beats")
        self.see(page.get_by_text("tide.wav has no even pulse", exact=False))

    def test_a_reel_leaves_by_dispatch(self):
        page = self.page
        title = {"kind": "title", "text": "Tern Point", "frames": 12}
        _, reel = self.server.ask("/api/reels", {"title": "Leaving"})
        patch = {"items": [title], "width": 96, "height": 64}
        self.server.ask(f"/api/reels/{reel['id']}", {"patch": patch}, "PATCH")
        self.open(f"/reels/{reel['id']}")
        page.get_by_test_id("reel").get_by_role("link", name="Dispatch").click()
        self.see(page.get_by_text("1 item · 12 frames"))
        self.open_recipe_groups()
        page.get_by_label("Make h264", exact=True).check()
        page.get_by_label("Make gif", exact=True).check()
        page.get_by_label("Settings of gif", exact=True).first.click()
        self.see(page.get_by_test_id("trial").get_by_text("12 pictures"))
        page.get_by_test_id("dispatch").click()
        self.until("async () => (await (await fetch('/api/outputs')).json()).outputs.filter("
                   f"one => one.reel === '{reel['id']}' && one.state === 'done').length === 2")  # fmt: skip

    def test_of_very_many_items_only_those_are_drawn_that_are_near(self):
        page = self.page
        titles = [{"kind": "title", "text": f"Title {n}", "frames": 24} for n in range(300)]
        _, reel = self.server.ask("/api/reels", {"title": "Long"})
        self.server.ask(f"/api/reels/{reel['id']}", {"patch": {"items": titles}}, "PATCH")
        self.open(f"/reels/{reel['id']}")
        cards = page.get_by_test_id("cards").locator("li")
        expect(cards.first).to_be_visible()
        self.assertLess(cards.count(), 100)
        page.get_by_test_id("cards").evaluate("row => { row.scrollLeft = row.scrollWidth }")
        self.see(page.get_by_role("button", name="Title 299", exact=False).first)
        ruler = page.get_by_test_id("reel-ruler")
        ruler.focus()
        page.keyboard.press("End")
        expect(page.get_by_test_id("reel-frame")).to_contain_text("7199 ·")

    def test_edits_that_wait_are_saved_when_the_page_goes(self):
        self.open("/reels")
        self.begin()
        page = self.page
        held, closed = [], [True]

        def gate(route):
            if closed and route.request.method == "PATCH":
                held.append(route)
            else:
                route.continue_()

        page.route("**/api/reels/**", gate)
        reel = page.url.split("/")[-1]
        for label, value in (("Width", 640), ("Height", 360), ("Rate of the reel", "25")):
            self.type(label, value)
        self.assertEqual(
            (len(held), page.get_by_label("Height").input_value()), (1, "360"), "one is sent, all are shown"
        )
        closed.clear()
        held[0].continue_()
        page.goto("about:blank")
        end, saved = time.monotonic() + 60, None
        while saved != (640, 360, "25"):
            self.assertLess(time.monotonic(), end, f"the edits were not sent as the page closed: {saved}")
            page.wait_for_timeout(50)
            document = json.loads((self.home / f"reels/{reel}.json").read_text())
            saved = document["width"], document["height"], document["rate"]

    def test_a_file_is_stopped_where_it_was_ordered(self):
        page = self.page
        _, reel = self.server.ask("/api/reels", {"title": "Long"})
        items = [{"kind": "title", "text": "Tern Point", "seconds": 600}]
        patch = {"items": items, "width": 1920, "height": 1080}
        self.server.ask(f"/api/reels/{reel['id']}", {"patch": patch, "what": "the items"}, "PATCH")
        self.open(f"/reels/{reel['id']}")
        page.get_by_test_id("compile-reel").click()
        making = page.get_by_test_id("making").first
        self.see(making.get_by_role("progressbar"))
        making.get_by_role("button", name="Stop").click()
        self.see(page.locator("summary", has_text="Stopped"))
        expect(page.get_by_test_id("making")).to_have_count(0)
        page.locator("summary", has_text="Stopped").click()
        self.see(page.get_by_test_id("reel-files").get_by_text("Stopped"))
        self.assertEqual(page.get_by_test_id("reel-files").get_by_role("alert").count(), 0, "no failure")

    def test_an_answer_that_comes_after_a_newer_look_loses_no_edit(self):
        page = self.page
        self.open("/reels")
        self.begin()
        self.reason(f"{FRAMES} frames")
        reel = page.url.split("/")[-1]
        edits, looks, opened = [], [], []

        def gate(route):
            if route.request.method == "PATCH" and not edits:
                edits.append((route, route.fetch()))
            elif not opened and route.request.url.endswith("since="):
                looks.append(route)
            else:
                route.continue_()

        page.route(f"**/api/reels/{reel}?*", gate)
        # The news of the first edit makes the page look before the edit is answered.
        with page.expect_response(lambda answer: answer.request.method == "GET" and f"/{reel}?" in answer.url):
            self.press("Title", exact=True)
        route, answer = edits[0]
        with page.expect_response(lambda answer: answer.request.method == "PATCH"):
            route.fulfill(response=answer)
        self.press("Title", exact=True)
        opened.append(True)
        for look in looks:
            look.continue_()
        self.reason(f"{FRAMES} + 2 × 72")
        document = json.loads((self.home / f"reels/{reel}.json").read_text())
        self.assertEqual([item["kind"] for item in document["items"]], ["take", "title", "title"])

    def test_labels_a_mark_and_transitions_are_set_in_the_sheet(self):
        page = self.page
        _, reel = self.server.ask("/api/reels", {"title": "Said"})
        self.server.ask(f"/api/reels/{reel['id']}", {"patch": {"items": [{"kind": "gap", "frames": 24}]}}, "PATCH")
        self.open(f"/reels/{reel['id']}")
        page.locator("summary", has_text="Labels").click()
        page.get_by_role("button", name="Add a label").click()
        self.type("Text of label 1", "{whorls}")
        self.see(page.get_by_test_id("reel-findings").get_by_text("neither a field nor a dial", exact=False))
        self.type("Text of label 1", "{timecode}")
        page.get_by_label("Place of label 1").select_option("top right")
        page.locator("summary", has_text="Watermark").last.click()
        self.type("Image of the watermark", "lost.png")
        self.until(f"async () => (await (await fetch('/api/reels/{reel['id']}')).json()).document.mark !== null")
        _, now = self.server.ask(f"/api/reels/{reel['id']}")
        self.assertEqual((now["document"]["labels"][0]["text"], now["document"]["labels"][0]["align"]),
                         ("{timecode}", "right"))  # fmt: skip
        page.get_by_label("Remove the watermark").click()
        self.until(f"async () => (await (await fetch('/api/reels/{reel['id']}')).json()).document.mark === null")


if __name__ == "__main__":
    unittest.main()
