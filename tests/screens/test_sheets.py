"""The sheets of the clock, the picture and the lens: what they say is in the document, and fixes work in one press."""

import unittest

from tests.screens.base import FRAMES, ScreenTest


class SheetsTest(ScreenTest):
    def open_sheet(self, shot, topic):
        self.open_bench(shot)
        self.page.locator(f'[data-topic="{topic}"]').first.click()

    def close_sheet(self):
        self.page.keyboard.press("Escape")

    def test_a_motion_is_retimed_and_goes_back(self):
        self.open_sheet("tide-week", "clock")
        self.type("Retime to", "1s")
        self.wait_for_revision(1)
        clock = self.document("tide-week")["clock"]
        self.assertEqual((clock["seconds"], clock["retimed_from"]), (1, FRAMES))
        self.see(self.page.get_by_test_id("sheet"), f"{FRAMES} frames of the original motion over 24")
        self.press("original length")
        self.wait_for_revision(2)
        clock = self.document("tide-week")["clock"]
        self.assertEqual((clock["frames"], clock["retimed_from"]), (FRAMES, None))

    def test_the_shutter_is_opened_and_its_finding_fixed(self):
        self.open_sheet("shell-growth", "clock")
        self.press("180°", exact=True)
        self.wait_for_revision(1)
        self.press("after", exact=True)
        self.wait_for_revision(2)
        clock = self.document()["clock"]
        self.assertEqual((clock["shutter"], clock["shutter_sits"]), ("180°", "leading"))
        self.type("Shutter", "wide")
        self.see(self.page.get_by_test_id("notice").get_by_role("alert"), "write an angle such as 180°")
        self.press("Close", exact=True)
        self.page.get_by_role("button", name="Close Clock").click()
        self.press("Use 16 samples")
        self.wait_for_revision(3)
        self.assertEqual(self.document()["picture"]["samples"], 16)
        self.see(self.page.get_by_test_id("viewfinder").locator("img"))

    def test_a_shot_that_becomes_a_gif_has_a_rate_that_it_keeps(self):
        self.open_sheet("mooring-buoy", "picture")
        self.page.get_by_label("Output format").select_option("gif")
        self.wait_for_revision(1)
        self.close_sheet()
        self.see(self.page.get_by_text("24 fps cannot be kept by a GIF").first)
        self.press("Make it 25 fps")
        self.wait_for_revision(2)
        document = self.document("mooring-buoy")
        self.assertEqual((document["recipe"], document["clock"]["rate"]), ("gif", "25"))
        self.see(self.page.get_by_test_id("no-findings"))

    def test_labels_and_light(self):
        self.open_sheet("basin-floor", "picture")
        before = self.page.get_by_test_id("viewfinder").locator("img").get_attribute("src")
        self.press("Add a label")
        self.wait_for_revision(1)
        self.until("old => document.querySelector('[data-testid=viewfinder] img').src !== old", before)
        self.type("Text of label 1", "at {phse}")
        self.wait_for_revision(2)
        self.see(self.page.get_by_test_id("viewfinder").get_by_role("alert"), "did you mean phase?")
        self.type("Text of label 1", "depth {value:.1f} m")
        self.wait_for_revision(3)
        self.page.get_by_label("Place of label 1").select_option("top right")
        self.wait_for_revision(4)
        self.page.get_by_label("Name of label 1").fill("depth")
        self.page.get_by_label("Name of label 1").blur()
        self.wait_for_revision(5)
        (label,) = self.document("basin-floor")["labels"]
        self.assertEqual((label["at"], label["align"], label["name"]), ([0.97, 0.06], "right", "depth"))
        self.page.locator('[data-topic="lanes"]').first.click()
        self.press("depth", exact=True)
        self.wait_for_revision(6)
        self.assertEqual(self.document("basin-floor")["lanes"][-1]["drive"], "label:depth")


class CameraSheetsTest(ScreenTest):
    def test_the_light_and_the_opening_of_the_lens(self):
        self.open_bench("mooring-buoy")
        self.page.locator('[data-topic="picture"]').first.click()
        self.type("Light azimuth, degrees", 60)
        self.wait_for_revision(1)
        self.page.locator('[data-topic="lens"]').first.click()
        self.press("blurred")
        self.wait_for_revision(2)
        self.type("Aperture, f-number", 1.4)
        self.wait_for_revision(3)
        document = self.document("mooring-buoy")
        self.assertEqual((document["light"]["azimuth_deg"], document["camera"]["lens"]["f_stop"]), (60, 1.4))
        self.see(self.page.get_by_test_id("viewfinder").locator("img"))

    def test_a_turntable_becomes_a_path_and_one_view(self):
        self.open_bench("mooring-buoy")
        self.page.locator('[data-topic="camera"]').first.click()
        self.press("path", exact=True)
        self.wait_for_revision(1)
        rig = self.document("mooring-buoy")["camera"]["rig"]
        self.assertEqual((rig["kind"], len(rig["keys"]), rig["closed"]), ("path", 8, True))
        self.see(self.page.get_by_test_id("brief"), "on a closed path of 8 keys")
        self.type("Key 1 z", 3)
        self.wait_for_revision(2)
        self.press("A key after key 8")
        self.wait_for_revision(3)
        self.press("Remove key 2")
        self.wait_for_revision(4)
        rig = self.document("mooring-buoy")["camera"]["rig"]
        self.assertEqual((len(rig["keys"]), rig["keys"][0]["position"][2]), (8, 3))
        self.press("static", exact=True)
        self.wait_for_revision(5)
        self.type("Roll", 15)
        self.wait_for_revision(6)
        rig = self.document("mooring-buoy")["camera"]["rig"]
        self.assertEqual((rig["kind"], rig["roll_deg"]), ("still", 15))
        self.see(self.page.get_by_test_id("viewfinder").locator("img"))

    def test_lanes_in_turn(self):
        self.open_bench("shell-growth")
        self.page.locator('[data-topic="lanes"]').first.click()
        for number, name in enumerate(("light strength", "fill"), start=1):
            self.press(name, exact=True)
            self.wait_for_revision(number)
        self.type("Overlap of the lanes, per cent", 0)
        self.press("Stagger lanes")
        self.wait_for_revision(3)
        spans = [lane["within"] for lane in self.document()["lanes"]]
        self.assertEqual(spans, [[0, 0.333333333], [0.333333333, 0.666666667], [0.666666667, 1]])


if __name__ == "__main__":
    unittest.main()
