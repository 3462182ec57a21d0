"""The strip: lanes as curves with keys, the ruler, zoom, playing at the true rate, and playing in."""

import time
import unittest

from tests.screens.base import ScreenTest

WHORLS = {"drive": "dial:whorls", "keys": [[0, 4.25], [0.5, 5.5], [1, 4.25]]}
RISE = {"drive": "rig:elevation", "keys": [[0, 10], [1, 10, "ease"], [1.5, 30], [2, 10]], "at": "seconds"}


class StripTest(ScreenTest):
    def open_lanes(self, shot="shell-growth", frames=48, lanes=(WHORLS, RISE)):
        clock = {"frames": frames, "seconds": None}
        self.server.ask(f"/api/shots/{shot}", {"patch": {"clock": clock, "lanes": list(lanes)}}, "PATCH")
        self.open_bench(shot)
        if lanes:
            self.page.locator("button[aria-expanded]", has_text="Lanes").click()
            self.see(self.page.get_by_test_id("lane-rows"))

    def mark(self, drive, key):
        return self.page.locator(f'[data-drive="{drive}"][data-key="{key}"]')

    def keys(self, lane):
        return self.document()["lanes"][lane]["keys"]

    def test_a_key_is_dragged_to_a_frame_and_a_value(self):
        self.open_lanes()
        x, y = self.middle(self.mark("dial:whorls", 1))
        cell = self.page.get_by_test_id("lane-rows").bounding_box()["width"] / 48
        self.drag((x, y), (x + 6.3 * cell, y + 21))
        self.wait_for_revision(1)
        place, value = self.keys(0)[1]
        self.assertEqual(place, 30 / 48, "six frames on, and on a frame")
        self.assertAlmostEqual(value, 5.5 - 0.5 * 1.25, delta=0.05)
        self.see(self.mark("dial:whorls", 1).locator("title"), "frame 30, 4.8")
        self.press("Undo a key of whorls")
        self.wait_for_revision(0)
        self.assertEqual(self.keys(0)[1], [0.5, 5.5])

    def test_several_keys_at_once_by_pointer_and_by_keyboard(self):
        self.open_lanes()
        first, second = self.middle(self.mark("rig:elevation", 1)), self.middle(self.mark("rig:elevation", 2))
        self.drag((first[0] - 14, second[1] - 8), (second[0] + 14, first[1] + 8))
        self.see(self.page.get_by_test_id("key-bar"), "2 keys")
        self.mark("rig:elevation", 1).focus()
        self.page.keyboard.press("ArrowLeft")
        self.wait_for_revision(1)
        self.page.keyboard.press("Shift+ArrowUp")
        self.wait_for_revision(2)
        _, first, second, _ = self.keys(1)
        self.assertEqual((first[1:], second[1:]), ([12, "ease"], [32]))
        self.assertAlmostEqual(first[0] * 24, 23, places=6)
        self.assertAlmostEqual(second[0] * 24, 35, places=6)
        self.type("Value of the key", 20)
        self.wait_for_revision(3)
        self.assertEqual([key[1] for key in self.keys(1)], [10, 20, 20, 10])
        self.mark("rig:elevation", 2).focus()
        self.page.keyboard.press("Delete")
        self.wait_for_revision(4)
        self.assertEqual([key[:2] for key in self.keys(1)], [[0, 10], [2, 10]])

    def test_exact_values_a_new_key_and_the_handles_of_an_easing(self):
        self.open_lanes()
        self.mark("dial:whorls", 1).focus()
        self.page.keyboard.press("Enter")
        self.type("Frame of the key", 12)
        self.wait_for_revision(1)
        self.page.get_by_label("Easing out of the key").select_option("ease-in-out")
        self.wait_for_revision(2)
        self.assertEqual(self.keys(0)[1], [0.25, 5.5, "ease-in-out"])
        handle = self.page.get_by_label("whorls, handle 1 out of key 2")
        handle.focus()
        self.page.keyboard.press("Shift+ArrowRight")
        self.wait_for_revision(3)
        self.assertEqual(self.keys(0)[1][2], "cubic-bezier(0.62, 0, 0.58, 1)")
        x, y = self.middle(handle)
        self.drag((x, y), (x, y + 21))
        self.wait_for_revision(4)
        numbers = [float(n) for n in self.keys(0)[1][2][13:-1].split(",")]
        self.assertAlmostEqual(numbers[0], 0.62, delta=0.02)
        self.assertAlmostEqual(numbers[1], 0.5, delta=0.05)
        self.page.keyboard.press("Escape")
        self.page.get_by_test_id("strip").focus()
        self.page.keyboard.press("Home")
        for _ in range(6):
            self.page.keyboard.press("ArrowRight")
        self.press("Add a key of whorls at frame 6")
        self.wait_for_revision(5)
        self.assertEqual(self.keys(0)[1], [6 / 48, 4.875])

    def test_the_ruler_counts_as_people_do_and_the_view_zooms(self):
        page = self.page
        self.open_lanes("tide-week", 10_000, lanes=())
        page.get_by_label("Ruler unit").select_option("timecode")
        strip = page.get_by_test_id("strip")
        for _ in range(5):
            page.get_by_test_id("strip").press("ArrowRight")
        self.until("label => document.querySelector('[data-testid=strip]').ariaValueText === label", "00:00:00:05")
        for unit, label in (("seconds", "0.208 s"), ("frames", "5")):
            page.get_by_label("Ruler unit").select_option(unit)
            self.until("label => document.querySelector('[data-testid=strip]').ariaValueText === label", label)
        box = strip.bounding_box()
        strip.press("0")
        page.mouse.click(box["x"] + box["width"] / 2, box["y"] + 40)
        self.assertEqual(int(strip.get_attribute("aria-valuenow")), 5000)
        for _ in range(9):
            strip.press("+")
        page.mouse.click(box["x"] + box["width"] / 2 + 20, box["y"] + 40)
        near = int(strip.get_attribute("aria-valuenow"))
        self.assertTrue(5000 < near < 5010, f"a look so close tells single frames: {near}")
        strip.press("0")
        page.mouse.click(box["x"] + 2, box["y"] + 40)
        self.assertLess(int(strip.get_attribute("aria-valuenow")), 40)

    def test_playing_keeps_the_true_rate_within_its_stretch(self):
        page = self.page
        self.open_lanes("mooring-buoy", 240, lanes=())
        strip = page.get_by_test_id("strip")
        strip.focus()
        for key in ("Home", "Shift+ArrowRight", "[", "End", "Shift+ArrowLeft", "]", "Home", " "):
            page.keyboard.press(key)
        self.see(page.get_by_test_id("achieved"), "of 24 fps shown")
        # The first picture comes when it comes.
        self.until("() => Number(document.querySelector('[data-testid=strip]').ariaValueNow) >= 10")
        at = int(strip.get_attribute("aria-valuenow"))
        begun = time.monotonic()
        self.assertLess(at, 229, "it begins where the stretch does")
        page.wait_for_timeout(2500)
        gone, seconds = int(strip.get_attribute("aria-valuenow")) - at, time.monotonic() - begun
        self.assertAlmostEqual(gone, 24 * seconds, delta=12, msg="the motion keeps its rate, however slow the pictures")
        page.keyboard.press(" ")
        self.assertEqual(page.get_by_test_id("achieved").count(), 0)
        self.see(page.get_by_role("button", name="10–229"))
        page.keyboard.press("\\")
        self.assertEqual(page.get_by_role("button", name="10–229").count(), 0)

    def test_a_lane_is_played_in(self):
        page = self.page
        self.open_lanes(frames=144, lanes=(WHORLS,))
        page.locator('[data-topic="lanes"]').first.click()
        self.press("Record whorls", exact=True)
        bar = page.get_by_test_id("play-in")
        slider = page.get_by_label("Slider for whorls")
        self.assertEqual(float(slider.input_value()), 4.25, "it begins where the lane does")
        bar.get_by_role("button", name="Start").click()
        for value in (5, 6, 7):
            page.wait_for_timeout(250)
            slider.fill(str(value))
        self.see(page.get_by_test_id("saved"), rf"revision {self.revision + 1}$")
        (lane,) = self.document()["lanes"]
        self.assertEqual((lane["drive"], lane["keys"][0]), ("dial:whorls", [0, 4.25]))
        self.assertAlmostEqual(lane["keys"][-1][0], 143 / 144, places=6)
        self.assertAlmostEqual(lane["keys"][-1][1], 7, delta=0.01)
        self.assertTrue(3 < len(lane["keys"]) < 12, lane["keys"])
        self.assertEqual(bar.count(), 0)


if __name__ == "__main__":
    unittest.main()
