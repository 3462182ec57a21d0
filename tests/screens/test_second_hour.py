"""What follows the first video: files found and deleted, reels of chosen takes, small windows, few controls."""

import json
import re
import unittest
import wave

import numpy as np
from PIL import Image
from playwright.sync_api import expect

from tests.screens.base import FRAMES, ScreenTest

SIZES = ((1280, 800), (1024, 700), (640, 400), (390, 844))
CONTROLS = """() => [...document.querySelectorAll(
  'button,a[href],input:not([type=hidden]),select,textarea,summary,[role=slider],[role=application]')].filter(e => {
    const box = e.getBoundingClientRect();
    return e.checkVisibility({visibilityProperty: true}) && box.width > 1 && box.height > 1;
  }).length"""
REACHED = """(element) => { element.scrollIntoView({block: 'center', inline: 'center'});
  const box = element.getBoundingClientRect();
  const top = document.elementFromPoint(box.x + box.width / 2, box.y + box.height / 2);
  return box.left >= -1 && box.right <= innerWidth + 1 && box.bottom <= innerHeight + 1 && element.contains(top); }"""
TURNS = """from vexel.author import sketch


@sketch
def round(canvas, size, phase):
    import skia
    canvas.clear(0)
    x = (1 - __import__("math").cos(6.283185307179586 * float(phase))) / 2 * (size[0] - 40)
    canvas.drawRect(skia.Rect.MakeXYWH(x, 40, 40, 40), skia.Paint(Color=0xFFD04020))
"""


class SecondHourTest(ScreenTest):
    DETAILS = "off"

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        _, run = cls.server.ask("/api/shots/mooring-buoy/runs", {"draft": True})
        cls.server.wait_for_run(run["id"], lambda one: one["state"] == "done")
        _, other = cls.server.ask("/api/shots/tide-week/runs", {"draft": True})
        cls.server.wait_for_run(other["id"], lambda one: one["state"] == "done")
        cls.runs = [run["id"], other["id"]]
        cls.own = cls.home.parent / "own"
        cls.own.mkdir()

    def open_bench(self, shot="shell-growth"):
        self.open(f"/shots/{shot}")
        self.see(self.page.get_by_test_id("viewfinder").locator("img"))
        self.see(self.page.get_by_test_id("saved"), "^saved$")

    def reel(self):
        """A reel of both takes, in this order, by the screen."""
        self.open("/reels")
        self.page.get_by_role("button", name="New reel").first.click()
        dialog = self.page.get_by_role("dialog", name="New reel")
        for number in self.runs:
            dialog.get_by_role("button", name=f"take {number}").click()
        dialog.get_by_role("button", name="Make a reel of 2 takes").click()
        self.page.wait_for_url("**/reels/reel-of*")
        self.see(self.page.get_by_test_id("reel-reason"), "frames")

    def test_everything_is_reached_at_four_sizes(self):
        page = self.page
        self.reel()
        reel = page.url.rsplit("/", 1)[1]
        places = {
            "/": page.get_by_role("button", name="New shot").first,
            "/runs": page.get_by_role("link", name="Mooring buoy").first,
            f"/runs/{self.runs[0]}": page.get_by_role("button", name=re.compile("plays everywhere")),
            f"/reels/{reel}": page.get_by_test_id("compile-reel"),
            f"/dispatch?run={self.runs[0]}": page.get_by_test_id("dispatch"),
            "/shots/mooring-buoy": page.get_by_test_id("capture"),
        }
        for wide, high in SIZES:
            page.set_viewport_size({"width": wide, "height": high})
            for place, button in places.items():
                with self.subTest(f"{place} at {wide} × {high}"):
                    self.open(place)
                    self.see(button)
                    if "/dispatch" in place:
                        page.get_by_label("Make h264", exact=True).check()
                        expect(button).to_be_enabled()
                    self.assertTrue(button.evaluate(REACHED), "the main button")
                    beyond = "document.querySelector('main').scrollWidth - document.querySelector('main').clientWidth"
                    self.assertLessEqual(page.evaluate(beyond), 1, "nothing lies beyond the right edge")
                    for name in ("Shots", "Runs", "Reel", "Dispatch"):
                        link = page.get_by_role("navigation", name="Pages").get_by_role("link", name=name)
                        self.assertTrue(link.evaluate(REACHED), name)
                    self.assertTrue(page.get_by_role("button", name=re.compile("^Help")).evaluate(REACHED))
                    if "/reels/" in place:
                        self.assertGreater(page.get_by_test_id("reel-picture").bounding_box()["height"], 120)

    def test_few_controls_and_a_large_picture(self):
        page = self.page
        page.set_viewport_size({"width": 1280, "height": 800})
        large = {"patch": {"picture": {"width": 1280, "height": 720}}, "what": "large"}
        self.server.ask("/api/shots/buoy-walk", large, "PATCH")
        for shot in ("mooring-buoy", "buoy-walk"):
            self.open_bench(shot)
            self.assertLess(page.evaluate(CONTROLS), 40, shot)
            for topic in ("source", "clock", "camera", "lens", "picture"):
                page.locator(f"[data-topic={topic}]").first.click()
                self.see(page.get_by_test_id("sheet"))
                self.assertLess(page.evaluate(CONTROLS), 60, (shot, topic))
            page.get_by_test_id("viewfinder").focus()
            page.keyboard.press("Escape")
        page.locator("[data-topic=camera]").first.click()
        page.get_by_role("button", name=re.compile("^Plan and elevation")).click()
        self.until("() => { const box = document.querySelector('[data-testid=viewfinder] img').getBoundingClientRect();"
                   " return box.width >= 479 && box.height >= 269 }")  # fmt: skip
        page.get_by_role("button", name=re.compile("^Plan and elevation")).click()
        expect(page.get_by_label("Zoom in (+)")).to_have_count(0)
        self.press("Details")
        self.see(page.get_by_label("Zoom in (+)"))
        page.reload()
        self.see(page.get_by_test_id("frame-now"))
        self.press("Details") if page.get_by_label("Zoom in (+)").count() else None
        self.open(f"/dispatch?run={self.runs[0]}")
        self.see(page.get_by_test_id("recipe").first)
        self.assertLess(page.evaluate(CONTROLS), 40, "Dispatch")

    def test_a_file_is_named_before_made_in_view_and_deleted(self):
        page, bar = self.page, self.page.get_by_test_id("dispatch-bar")
        self.open(f"/dispatch?run={self.runs[0]}")
        page.get_by_label("Make gif-640", exact=True).check()
        name = "mooring-buoy-once-round.take1-draft.gif-640.gif"
        self.see(page.get_by_test_id("file-names").get_by_text(name))
        page.keyboard.press("Control+Enter")
        row = bar.get_by_role("listitem").filter(has=page.get_by_role("link", name="Play")).first
        self.see(row.get_by_role("link", name="Play"))
        self.see(row.get_by_role("img", name="Matches the plan"))
        file = self.home / "outputs" / name
        self.assertTrue(file.is_file())
        page.get_by_label("Make gif-640", exact=True).check()
        self.see(page.get_by_test_id("file-names").get_by_text(name.replace(".gif-640.", ".gif-640.v002.")))
        row.get_by_label(f"More for {name}").click()
        self.see(row.get_by_role("button", name="Copy path"))
        row.get_by_role("button", name=f"Delete: {name}").click()
        self.press("Delete, free")
        row.wait_for(state="detached")
        self.assertFalse(file.exists())

    def test_a_clear_page_is_measured_and_becomes_a_film_with_transparency(self):
        page = self.page
        (self.own / "round.py").write_text(TURNS)
        _, shot = self.server.ask(
            "/api/shots", {"path": str(self.own / "round.py"), "demo": "", "title": "Round", "rate": ""}
        )
        patch = {
            "clock": {"frames": 12, "seconds": None},
            "picture": {"width": 160, "height": 120, "samples": 1, "background": "transparent"},
        }
        self.server.ask(f"/api/shots/{shot['id']}", {"patch": patch, "what": "small"}, "PATCH")
        self.open_bench(shot["id"])
        self.see(page.get_by_test_id("seam"), "Measure pictures to see")
        self.press("Measure the seam")
        self.see(page.get_by_test_id("seam"), "so the loop closes")
        page.locator("[data-topic=clock]").first.click()
        self.see(page.get_by_test_id("sheet"))
        page.get_by_test_id("finding-count").click()
        self.press("Make WebM with transparency")
        self.see(page.get_by_test_id("capture"), "make the .*WebM")
        page.locator("summary[aria-label^='Kind of file']").click()
        page.get_by_label("Kind of file", exact=True).select_option("prores-4444")
        self.see(page.get_by_test_id("capture"), "make the MOV|ProRes")
        # Remembered with the shot.
        self.until(f"async () => (await (await fetch('/api/shots/{shot['id']}')).json()).document.recipe"
                   " === 'prores-4444'")  # fmt: skip

    def test_a_reel_of_chosen_takes_with_sound_and_side_by_side(self):
        page = self.page
        sound = self.own / "tide.wav"
        with wave.open(str(sound), "wb") as file:
            file.setparams((1, 2, 48000, 0, "NONE", ""))
            file.writeframes((np.sin(np.arange(48000 // 2) / 20) * 20000).astype("<i2").tobytes())
        self.reel()
        cards = page.get_by_test_id("cards").locator("ol > li")
        expect(cards.nth(0)).to_contain_text("Mooring buoy")
        expect(cards.nth(1)).to_contain_text("tide of a week")
        # Its waves are asked for before the server knows it.
        asked = []

        def unknown(route):
            asked.append(route.request.url)
            if len(asked) == 1:
                route.fulfill(status=404, json={"error": "Hall has no sound 1"})
            else:
                route.continue_()

        page.route("**/sounds/*/peaks", unknown)
        page.get_by_test_id("bring-sound").set_input_files(sound)
        row = page.get_by_test_id("sound-row")
        self.see(row, "tide.wav")
        self.until(
            "() => (document.querySelector('[data-testid=sound-row] path')?.getAttribute('d') ?? '').length > 999"
        )
        box, first = row.bounding_box(), cards.nth(0).bounding_box()
        # Half a second at the reel's rate, from its beginning.
        self.assertLess(abs(box["x"] - first["x"]), 3)
        self.press("Title", exact=True)
        self.until("() => { const start = document.querySelector('[data-testid=reel-frame]').textContent;"
                   f" return Number.parseInt(start) >= {FRAMES} }}")  # fmt: skip
        cards.nth(0).locator("button[draggable]").click()
        self.press("Side by side")
        expect(cards).to_have_count(2)
        page.keyboard.press("Control+z")
        expect(cards).to_have_count(3)

    def test_a_reel_in_two_formats_with_a_focus_for_one(self):
        page = self.page
        self.reel()
        reel = page.url.rsplit("/", 1)[1]
        page.get_by_text("Formats", exact=True).click()
        self.press("square 1:1")
        self.see(page.get_by_test_id("format"), "square")
        shown = page.get_by_test_id("reel-picture")
        page.get_by_label("Format shown").select_option("square")
        self.until("() => { const shown = document.querySelector('[data-testid=reel-picture]');"
                   " return shown.complete && shown.naturalWidth === shown.naturalHeight; }")  # fmt: skip
        before = shown.get_attribute("src")
        page.get_by_test_id("cards").locator("ol > li").nth(0).locator("button[draggable]").click()
        pad = page.get_by_test_id("focus-pad")
        box = pad.bounding_box()
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        page.mouse.down()
        page.mouse.move(box["x"] + box["width"] * 0.4, box["y"] + box["height"] / 2, steps=3)
        page.mouse.up()
        expect(page.get_by_label("Focus across")).to_have_value("40")
        self.until("before => document.querySelector('[data-testid=reel-picture]').src !== before", before)
        # By keyboard too; what is no number is refused.
        self.type("Focus across", "30")
        expect(page.get_by_label("Focus across")).to_have_value("30")
        button = page.get_by_test_id("compile-reel")
        self.see(button, "Compile 2 files")
        button.click()
        page.get_by_text(re.compile("^2 files$")).click(timeout=60_000)
        files = page.get_by_test_id("reel-files")
        _, saved = self.server.ask(f"/api/reels/{reel}")
        self.assertEqual(saved["document"]["items"][0]["framing"]["square"]["focus_x"], 0.3)
        width, height = saved["document"]["width"], saved["document"]["height"]
        for size in (f"{width}x{height}", f"{height}x{height}"):
            self.see(files.get_by_text(f"h264.{size}.mp4").first)
        page.keyboard.press("Escape")
        page.get_by_text("2 of 2 sizes").click()
        page.get_by_label(f"{width} × {height}").uncheck()
        self.see(button, r"frames$")
        # Dispatch makes them too.
        self.open(f"/dispatch?reel={reel}")
        page.get_by_label("Make png", exact=True).check()
        expect(page.get_by_test_id("file-names").locator("li")).to_have_count(2)
        # Without the format its framings go, and come back with it.
        self.open(f"/reels/{reel}")
        page.get_by_role("button", name="Remove square").click()
        expect(page.get_by_test_id("format")).to_have_count(0)
        _, saved = self.server.ask(f"/api/reels/{reel}")
        self.assertEqual(saved["document"]["items"][0]["framing"], {})
        page.keyboard.press("Control+z")
        expect(page.get_by_test_id("format")).to_have_count(1)

    def test_stills_are_listed_before_the_shot_and_one_picture_is_a_shot(self):
        page = self.page
        for number in (1, 2, 3, 6, 7):
            size = (60, 40) if number != 2 else (40, 40)
            Image.new("RGB", size, (number * 30, 90, 60)).save(self.own / f"walk_{number:04}.png")
        Image.new("RGB", (60, 40)).save(self.own / "walk_0004.jpg")
        self.open("/")
        self.press("New shot")
        page.get_by_placeholder("~/models/hull.stl").fill(str(self.own / "walk_0001.png"))
        self.press("Create shot")
        found = page.get_by_test_id("stills-findings")
        for words in ("2 numbers are missing", "walk_0004.jpg", "40 × 40, not 60 × 40"):
            self.see(found.get_by_text(re.compile(words)))
        self.assertEqual(found.locator("img").count(), 2, "the file that is skipped, and the one of another size")
        page.get_by_label("Missing pictures").select_option("skip")
        page.get_by_label("Other sizes").select_option("cover")
        page.get_by_label("Pictures per second").fill("5")
        self.press("Create the shot")
        self.see(page.get_by_test_id("brief"), "5 frames")
        saved = self.server.ask(page.url.replace(self.server.base, "/api"))[1]["document"]["source"]
        self.assertEqual((saved["gaps"], saved["other_sizes"]), ("skip", "cover"))
        Image.new("RGB", (300, 200), (40, 90, 160)).save(self.own / "harbour.png")
        self.open("/")
        self.press("New shot")
        page.get_by_placeholder("~/models/hull.stl").fill(str(self.own / "harbour.png"))
        self.press("Create shot")
        self.see(page.get_by_test_id("brief"), "Film harbour.png .*zoom goes from 1 to 1.25")

    def test_lists_are_asked_for_once_at_a_time_and_show_that_they_load(self):
        page, asked = self.page, []
        waiting = []

        def hold(route):
            asked.append(len(waiting))
            waiting.append(route)

        page.route("**/api/runs", hold)
        self.open("/runs")
        self.see(page.get_by_text("Loading the runs…"))
        page.get_by_role("navigation", name="Pages").get_by_role("link", name="Dispatch").click()
        self.see(page.get_by_text("Loading takes and recipes…"))
        expect(page.get_by_text("Capture a shot")).to_have_count(0)
        # News that comes meanwhile asks for no second answer at the same time.
        _, run = self.server.ask("/api/shots/mooring-buoy/runs", {"draft": True})
        self.server.wait_for_run(run["id"], lambda one: one["state"] == "done")
        page.wait_for_timeout(500)
        self.assertEqual(asked, [0], "one request is under way")
        waiting.pop().continue_()
        self.see(page.get_by_test_id("recipe").first)
        page.unroute_all(behavior="ignoreErrors")

    def test_guides_focus_and_the_place_to_drop(self):
        page = self.page
        self.open("/")
        page.get_by_role("navigation", name="Pages").get_by_role("link", name="Runs").click()
        self.until("() => document.activeElement?.tagName === 'H1' && document.activeElement.textContent === 'Runs'")
        self.open_bench("mooring-buoy")
        page.keyboard.press("?")
        page.get_by_role("dialog", name="Help").get_by_role("link", name="Findings").click()
        self.see(page.get_by_test_id("guide-beside").get_by_role("heading", name="Choppy"))
        self.see(page.get_by_test_id("viewfinder"))
        self.press("Close the guide")
        page.get_by_test_id("guide-beside").wait_for(state="detached")
        self.open("/")
        self.see(page.get_by_test_id("shot").first)
        page.evaluate("""() => { const data = new DataTransfer(); data.items.add(new File(['x'], 'x.obj'));
          document.querySelector('[data-testid=shots]').dispatchEvent(
            new DragEvent('dragover', {dataTransfer: data, bubbles: true, cancelable: true})) }""")
        self.see(page.get_by_test_id("drop-here"), "Drop the files")

    def test_views_keep_unique_names(self):
        page = self.page
        self.open_bench("buoy-walk")
        page.locator("[data-topic=camera]").first.click()
        name = page.get_by_label("Name of view 2")
        first = page.get_by_label("Name of view 1").input_value()
        name.fill(first)
        name.blur()
        expect(name).to_have_value(f"{first} 2")
        names = [view["name"] for view in self.server.ask("/api/shots/buoy-walk")[1]["document"]["camera"]["views"]]
        self.until("async () => new Set((await (await fetch('/api/shots/buoy-walk')).json())"
                   f".document.camera.views.map(view => view.name)).size === {len(names)}")  # fmt: skip
        _, made = self.server.ask("/api/shots/buoy-walk/views", {"frame": 0, "patch": {}, "name": first})
        self.assertEqual(made["document"]["camera"]["views"][-1]["name"], f"{first} 3", json.dumps(names))


if __name__ == "__main__":
    unittest.main()
