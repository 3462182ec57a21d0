"""The camera on the Bench: views and walks, plan and elevation, several cameras, guides, comparing, the sphere."""

import unittest

import numpy as np

from tests.screens.base import ScreenTest


class CameraScreens(ScreenTest):
    def camera(self, shot="mooring-buoy"):
        return self.document(shot)["camera"]

    def patch(self, shot, patch):
        status, body = self.server.ask(f"/api/shots/{shot}", {"patch": patch}, "PATCH")
        self.assertEqual(status, 200, body)

    def test_views_are_saved_and_walked_through(self):
        page = self.page
        self.open_bench("mooring-buoy")
        page.locator("[data-topic=camera]").first.click()
        self.press("Save this view")
        self.wait_for_revision(1)
        page.keyboard.press("v")
        self.wait_for_revision(2)
        self.press("right", exact=True)
        self.wait_for_revision(3)
        self.press("Save this view")
        self.wait_for_revision(4)
        cards = page.get_by_test_id("view-card")
        self.assertEqual(cards.count(), 3)
        self.press("Remove View 2")
        self.wait_for_revision(5)
        self.press("saved views", exact=True)
        self.wait_for_revision(6)
        self.see(page.get_by_test_id("brief"), "going through 2 saved views")
        self.type("Dwell at View 1, seconds", "1")
        self.wait_for_revision(7)
        # At 24 fps: rests of 1 and 2 s, 3 s on the way.
        self.see(page.get_by_test_id("frame-now"), "of 144")
        name = page.get_by_label("Name of view 1")
        grip = page.get_by_role("button", name="Move View 1: space, then arrow keys")
        self.drag(self.middle(grip), np.add(self.middle(cards.nth(1)), (0, 12)))
        self.wait_for_revision(8)
        self.assertEqual(name.input_value(), "View 3")
        self.assertEqual([view["name"] for view in self.camera()["views"]], ["View 3", "View 1"])
        self.press("Go to View 1")
        self.see(page.get_by_test_id("frame-now"), "frame 120 of")

    def test_a_key_is_dragged_in_the_plan_and_the_path_leads_to_frames(self):
        page = self.page
        self.server.ask("/api/shots/shell-growth/rig", {"kind": "path", "frame": 0, "camera": 0})
        self.open_bench("shell-growth")
        page.keyboard.press("p")
        self.see(page.get_by_test_id("drawing"))
        before = self.camera("shell-growth")["rig"]["keys"]
        key = page.get_by_role("button", name="Key 3 in the plan")
        self.see(key)
        x, y = self.middle(key)
        self.drag((x, y), (x + 30, y - 20))
        self.wait_for_revision(1)
        after = self.camera("shell-growth")["rig"]["keys"]
        moved = np.subtract(after[2]["position"], before[2]["position"])
        self.assertTrue(moved[0] > 0 and moved[1] > 0 and moved[2] == 0, moved)
        self.assertEqual(after[:2] + after[3:], before[:2] + before[3:])
        key.focus()
        page.keyboard.press("ArrowLeft")
        self.wait_for_revision(2)
        self.see(page.get_by_test_id("frame-now"), "frame 0 of")
        x, y = self.middle(page.get_by_role("button", name="Key 5 in the plan"))
        page.mouse.click(x + 9, y + 3)
        self.until("() => !/frame 0 of/.test(document.querySelector('[data-testid=frame-now]').textContent)")
        page.keyboard.press("p")
        self.assertEqual(page.get_by_test_id("drawing").count(), 0)

    def test_a_path_is_left_to_look_freely_and_the_view_is_kept(self):
        page = self.page
        self.open_bench("basin-flight")
        finder = page.get_by_test_id("viewfinder")
        x, y = self.middle(finder)
        self.drag((x, y), (x + 60, y + 10))
        self.see(page.get_by_text("free look"))
        page.keyboard.press("v")
        self.wait_for_revision(1)
        camera = self.camera("basin-flight")
        self.assertEqual((camera["rig"]["kind"], len(camera["views"])), ("path", 1))

    def test_panning_rolling_and_focus(self):
        page = self.page
        rig = {"kind": "still", "turns": None, "direction": None}
        self.patch("survey", {"title": "The tide over the flat"})
        self.patch("mooring-buoy", {"camera": {"rig": rig, "lens": {"f_stop": 2.8}, "views": []}})
        self.open_bench("mooring-buoy")
        finder = page.get_by_test_id("viewfinder")
        finder.focus()
        page.keyboard.press("Alt+ArrowRight")
        self.wait_for_revision(1)
        self.assertLess(self.camera()["rig"]["centre"][0], 0.5)
        page.keyboard.press(".")
        self.wait_for_revision(2)
        self.assertEqual(self.camera()["rig"]["roll_deg"], 2)
        page.keyboard.down("Shift")
        x, y = self.middle(finder)
        self.drag((x, y), (x, y + 40))
        page.keyboard.up("Shift")
        self.wait_for_revision(3)
        self.press("Click in the picture to set the focus")
        page.mouse.click(x, y + 30)
        self.wait_for_revision(4)
        pressed = self.camera()["lens"]["focus"]
        self.assertGreater(pressed, 1)
        # By keyboard: a cross goes from the middle to the same place, about.
        self.press("Click in the picture to set the focus")
        for _ in range(4):
            page.keyboard.press("ArrowDown")
        self.see(page.get_by_test_id("cross"))
        page.keyboard.press("Enter")
        # The same point gives the same focus, and then nothing is to be saved.
        page.get_by_test_id("cross").wait_for(state="detached")
        self.wait_until_saved()
        self.assertAlmostEqual(self.camera()["lens"]["focus"] / pressed, 1, delta=0.05)

    def test_the_point_that_it_looks_at_is_picked(self):
        page = self.page
        self.open_bench("shell-growth")
        page.locator("[data-topic=camera]").first.click()
        if page.get_by_role("button", name="Pick it in the picture").count() == 0:
            self.press("turntable")
            self.wait_for_revision(1)
            self.revision += 1
        self.press("Pick it in the picture")
        x, y = self.middle(page.get_by_test_id("viewfinder").locator("img"))
        page.mouse.click(x, y)
        self.wait_for_revision(1)
        self.assertEqual(len(self.camera("shell-growth")["rig"]["centre"]), 3)

    def test_guides_lie_over_the_picture_and_two_cameras_are_flipped(self):
        page = self.page
        self.open_bench("shell-light")
        page.get_by_title("Guides over the picture").click()
        page.get_by_label("thirds").check()
        self.see(page.get_by_test_id("overlays"))
        page.keyboard.press("Escape")
        self.press("Compare: keep this camera")
        page.get_by_test_id("viewfinder").focus()
        page.keyboard.press("ArrowRight")
        self.wait_for_revision(1)
        image = page.get_by_test_id("viewfinder").locator("img")
        before = image.get_attribute("src")
        self.press("Switch: ")
        self.until("old => document.querySelector('[data-testid=viewfinder] img').src !== old", before)
        saved = self.camera("shell-light")["rig"]["start_deg"]
        self.press("Use this one")
        self.wait_for_revision(2)
        self.assertNotEqual(self.camera("shell-light")["rig"]["start_deg"], saved)

    def test_cameras_and_passes_are_looked_through_one_by_one(self):
        page = self.page
        self.open_bench("shell-cameras")
        self.see(page.get_by_test_id("brief"), "with 2 more cameras")
        look = page.get_by_label("Look through")
        self.assertEqual(look.locator("option").all_inner_texts(), ["front, shaded", "side, shaded", "walk, shaded"])
        image = page.get_by_test_id("viewfinder").locator("img")
        before = image.get_attribute("src")
        look.select_option("1")
        self.until("old => document.querySelector('[data-testid=viewfinder] img').src !== old", before)
        page.locator("[data-topic=camera]").first.click()
        self.type("Start angle", "120")
        self.wait_for_revision(1)
        self.assertEqual(self.document("shell-cameras")["cameras"][0]["rig"]["start_deg"], 120)
        page.locator("[data-topic=picture]").first.click()
        self.press("depth")
        self.wait_for_revision(2)
        self.see(page.get_by_test_id("sheet"), "6 images per frame")

    def test_a_sphere_is_looked_into(self):
        page = self.page
        self.patch("basin-sphere", {"picture": {"width": 256, "height": 128}})
        self.open_bench("basin-sphere")
        self.look_around()
        _, run = self.server.ask("/api/shots/basin-sphere/runs", {})
        self.server.wait_for_run(run["id"], lambda told: told["state"] == "done")
        self.server.ask(f"/api/runs/{run['id']}/outputs", {"recipe": "h264"})
        self.open(f"/runs/{run['id']}")
        page.get_by_test_id("cells").get_by_title("frame 3: ").click()
        self.look_around()
        page.get_by_role("link", name="Play").click(timeout=120_000)
        self.see(page.get_by_test_id("player"))
        self.look_around()

    def look_around(self):
        """Go into the sphere, and see another part of it after turning."""
        page = self.page
        self.press("Look around in the panorama")
        sphere = page.get_by_test_id("look-around")
        self.see(sphere)
        drawn = "() => document.querySelector('[data-testid=look-around]').toDataURL()"
        self.until(f"() => ({drawn})().length > 5000")
        # What moves shows itself anew too: stand still first.
        page.evaluate("() => document.querySelector('[data-testid=player]')?.pause()")
        before = page.evaluate(drawn)
        sphere.focus()
        page.keyboard.press("ArrowRight")
        self.until(f"old => ({drawn})() !== old", before)


if __name__ == "__main__":
    unittest.main()
